import { atom, listenKeys } from 'nanostores';
import { act, waitsAt } from '../../../client/gestures/index.ts';
import type { Command } from '../../../client/keys.ts';
import { $quotesFresh } from '../../../client/lamps.ts';
import { $sizes, sizeOf } from '../../../client/session.ts';
import { NO_QUANTITY, asPrice, parseQuantity, type Instrument, type Price } from '../../../core/instrument/index.ts';
import type { GhostAsk } from '../../../core/orders/index.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { paintNoMore, paintSoon } from '../../../kit/pace.ts';
import { placeIn } from '../../../kit/scale.ts';
import { writeData, writeText } from '../../../kit/write.ts';
import {
  $positions,
  $working,
  NO_ORDERS,
  followDepth,
  followQuote,
  isWorking,
  positionKey,
  priceOf,
  quoteOf,
  type LiveOrder,
  type LiveDepth,
  type LiveQuote,
} from '../../../live/index.ts';
import { orderArea } from '../../act/order-area.ts';
import { $panes, setPaneSetting, type Pane } from '../../workspace/panes.ts';
import { readSettings, type Values } from '../../workspace/settings.ts';
import { heldOf, paintRows } from './paint-rows.ts';
import { RESULT_PX, ROW_PX, WORDS_PX, rowOf, rowPrices } from './rows.ts';
import { LADDER } from './settings.ts';

/** What a ladder is of; another of these is another ladder. */
export interface LadderOf {
  readonly pane: string;
  readonly account: string;
  readonly instrument: Instrument;
}

interface Aim {
  readonly row: number;
  readonly side: 'buy' | 'sell';
  readonly stop: boolean;
}

const FIRST_ROWS = 20;
const LEAST_ROWS = 4;
const WHEEL_ROWS = 2;

/** What lies over the rows has its own presses. */
const isOver = ({ target }: Event): boolean => (target as HTMLElement).closest('[data-pin], [role="menu"]') !== null;

/**
 * A ladder from its rows to its keys: it keeps the spine where it belongs, paints market and ghost into the rows that
 * stand, and leads presses to its order area. A view mounts it and makes the rows, pins and menus.
 */
export class LadderController {
  readonly of: LadderOf;
  /** The prices of the rows, highest first; none before a price is known. */
  readonly $prices = atom<readonly Price[]>([]);
  readonly $ringed = atom<string | null>(null);
  readonly $menu = atom<{ readonly x: number; readonly y: number; readonly price: Price } | null>(null);

  private readonly market: { quote: LiveQuote | undefined; depth: LiveDepth | null };
  private readonly key: string;
  private readonly area;
  private body: HTMLElement | null = null;
  /** The prices of the rows as they stand in the window. */
  private standing: readonly Price[] = [];
  private centre: Price | null = null;
  private rows = FIRST_ROWS;
  private over = false;
  private frame = 0;
  private read: { readonly pane: Pane | undefined; readonly values: Values<typeof LADDER> } | null = null;

  constructor(of: LadderOf) {
    this.of = of;
    const { pane, account, instrument } = of;
    this.key = positionKey(account, instrument.id);
    this.market = { quote: quoteOf(instrument.id), depth: null };
    this.area = orderArea<Aim>({
      pane,
      surface: 'ladder',
      key: ({ row, side, stop }) => `${this.standing[row] ?? ''} ${side} ${stop}`,
      account: () => account,
      instrument: () => instrument.id,
      ask: (aim) => this.askAt(aim),
      farTicks: () => this.settings().farTicks,
      list: (_aim, at) => this.listAt(at),
    });
  }

  /** @returns what takes it out again */
  mount(body: HTMLElement): () => void {
    const { instrument, pane } = this.of;
    this.body = body;
    const sizer = new ResizeObserver(() => this.resize(body.clientHeight));
    sizer.observe(body);
    const stops = [
      followQuote(instrument.id, (quote) => {
        this.market.quote = quote;
        paintSoon(this, this.paint);
      }),
      followDepth(instrument.id, (depth) => {
        this.market.depth = depth;
        paintSoon(this, this.paint);
      }),
      listenKeys($positions, [this.key], this.schedule),
      listenKeys($working, [this.key], this.schedule),
      $sizes.listen(this.schedule),
      $quotesFresh.listen(this.schedule),
      $panes.listen((panes) => {
        if (panes[pane] !== this.read?.pane) this.lay();
      }),
      this.listen(body),
    ];
    this.schedule();
    return () => {
      stops.forEach((stop) => stop());
      sizer.disconnect();
      paintNoMore(this);
      cancelAnimationFrame(this.frame);
      this.frame = 0;
      this.body = null;
    };
  }

  /** The view has put these rows into the window. */
  stands(prices: readonly Price[]): void {
    this.standing = prices;
    this.schedule();
  }

  orders(): readonly LiveOrder[] {
    return $working.get()[this.key] ?? NO_ORDERS;
  }

  commands(): Command[] {
    const noOrder = (): string | null => (this.orders().length === 0 ? 'no order of this account works here' : null);
    const ringed = (): LiveOrder | undefined => this.orders().find(({ id }) => id === this.$ringed.get());
    return [
      {
        keys: ['Home'],
        words: 'the last price to the middle',
        run: () => {
          const middle = this.market.quote?.last ?? this.market.quote?.bid;
          if (middle) this.recentre(middle);
        },
      },
      { keys: ['ArrowDown'], words: 'ring the next order below', cannot: noOrder, repeats: true, run: () => this.ringNext(1) },
      { keys: ['ArrowUp'], words: 'ring the next order above', cannot: noOrder, repeats: true, run: () => this.ringNext(-1) },
      { keys: ['+'], words: 'fewer ticks in a row', repeats: true, run: () => this.regroup(-1) },
      { keys: ['-'], words: 'more ticks in a row', repeats: true, run: () => this.regroup(1) },
      {
        keys: ['Escape'],
        words: 'ring nothing',
        run: () => {
          this.$ringed.set(null);
          this.$menu.set(null);
        },
      },
      {
        keys: ['Delete'],
        words: 'cancel the ringed order',
        order: true,
        cannot: () => {
          const order = ringed();
          return order && isWorking(order) ? null : 'nothing is ringed: press a pin first, then Delete';
        },
        run: () => {
          const order = ringed();
          if (order) act(this.of.pane, 'ladder', { kind: 'cancel', order });
        },
      },
    ];
  }

  private settings(): Values<typeof LADDER> {
    const pane = $panes.get()[this.of.pane];
    if (this.read?.pane !== pane || this.read === null) this.read = { pane, values: readSettings(pane, LADDER) };
    return this.read.values;
  }

  /** The rows that are wanted; the view makes them. */
  private lay(): void {
    const { centre, rows } = this;
    const prices = centre === null ? [] : rowPrices(this.of.instrument, centre, rows, Number(this.settings().group));
    const before = this.$prices.get();
    if (prices.length !== before.length || prices.some((price, row) => price !== before[row])) this.$prices.set(prices);
    this.schedule();
  }

  private recentre(to: Price): void {
    this.area.moved();
    this.centre = to;
    this.lay();
  }

  private resize(height: number): void {
    const rows = Math.max(LEAST_ROWS, Math.floor((height - WORDS_PX) / ROW_PX));
    if (rows === this.rows) return;
    this.area.moved();
    this.rows = rows;
    this.lay();
  }

  private regroup(by: 1 | -1): void {
    const groups = LADDER.group.options.map(([value]): string => value);
    this.area.moved();
    const at = groups.indexOf(this.settings().group);
    setPaneSetting(this.of.pane, 'group', groups[Math.max(0, Math.min(groups.length - 1, at + by))]);
  }

  private ringNext(step: 1 | -1): void {
    const sorted = [...this.orders()].sort((a, b) => (waitsAt(b) ?? 0) - (waitsAt(a) ?? 0));
    const from = sorted.findIndex(({ id }) => id === this.$ringed.get());
    const next = sorted[from < 0 ? (step > 0 ? 0 : sorted.length - 1) : Math.max(0, Math.min(sorted.length - 1, from + step))];
    if (!next) return;
    this.$ringed.set(next.id);
    const price = waitsAt(next);
    // A pin beyond the rows is brought into view.
    if (price !== null && !(price <= (this.standing[0] ?? 0) && price >= (this.standing[this.standing.length - 1] ?? 0))) this.recentre(price);
  }

  /** What the trader does is painted at once, what the market changes with all other panes. */
  private readonly schedule = (): void => {
    if (this.frame !== 0) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      this.paint();
    });
  };

  private readonly paint = (): void => {
    this.follow();
    if (!this.body) return;
    const { instrument } = this.of;
    paintRows(this.body, this.standing, instrument, this.market, heldOf($positions.get()[this.key], instrument));
    this.paintGhost(this.body);
  };

  /** Brings the spine to the market where it may move by itself. */
  private follow(): void {
    const { quote } = this.market;
    const { instrument } = this.of;
    // Where the market stands is between its best prices: prints jump from one to the other.
    const between = quote && quote.bid !== null && quote.ask !== null ? asPrice(Math.floor((quote.bid + quote.ask) / 2)) : null;
    const middle = between ?? quote?.last ?? quote?.bid ?? quote?.ask ?? (quote ? priceOf(instrument, quote.text.previousSettlement) : null) ?? null;
    if (middle === null) return;
    if (this.centre === null) return this.recentre(middle);
    const { rows } = this;
    const { spine } = this.settings();
    const at = rowOf(this.$prices.get(), middle, 'bid');
    const left = spine === 'follow' ? Math.abs(at - Math.floor(rows / 2)) > 1 : spine === 'third' && (at < rows / 3 || at > (rows * 2) / 3);
    if (left && !this.over && rows >= LEAST_ROWS) this.recentre(middle);
  }

  private paintGhost(body: HTMLElement): void {
    const shown = this.area.paint();
    const words = body.querySelector<HTMLElement>('[data-ghost-words]');
    const box = body.querySelector<HTMLElement>('[data-ghost]');
    if (!words || !box) return;
    writeText(words, shown?.words ?? '');
    if (box.hidden !== !shown) box.hidden = !shown;
    if (!shown) return;
    const { aim, ghost } = shown;
    const moved = `translateY(${aim.row * ROW_PX}px)`;
    if (box.style.transform !== moved) box.style.transform = moved;
    const tell = (name: string, is: boolean): void => writeData(box, name, is ? 'yes' : 'no');
    writeData(box, 'side', aim.side);
    tell('fill', ghost?.effect === 'fills now');
    tell('legal', ghost !== null);
    tell('sends', shown.sends);
    // It never hides a pin: beside one there is room for its letter, and the words say the rest.
    const pinned = body.querySelector(`[data-pins="${aim.side} ${aim.row}"]`) !== null;
    tell('pinned', pinned);
    const size = sizeOf(this.of.account, this.of.instrument.id);
    const letter = aim.side === 'buy' ? 'B' : 'S';
    writeText(box, !ghost ? '×' : pinned ? letter : `${letter} ${grouped(size)}${ghost.type === 'limit' ? '' : ' stop'}`);
  }

  private askAt({ row, side, stop }: Aim): GhostAsk | null {
    const { instrument, account } = this.of;
    const { quote, depth } = this.market;
    const price = this.standing[row];
    if (price === undefined || !quote) return null;
    const opposite = side === 'buy' ? depth?.asks : depth?.bids;
    return {
      instrument,
      side,
      price,
      quantity: parseQuantity(instrument, sizeOf(account, instrument.id)) ?? NO_QUANTITY,
      market: quote,
      want: stop ? 'stop' : 'limit',
      ...(opposite ? { levels: [...opposite.values()] } : {}),
    };
  }

  /** The side of a row under the pointer; null beside them. */
  private aimAt(body: HTMLElement, event: PointerEvent): Aim | null {
    const spine = body.querySelector('.spine')?.getBoundingClientRect();
    if (!spine) return null;
    const { x, y } = placeIn(body, event);
    const row = Math.floor(y / ROW_PX);
    const inside = x < body.clientWidth - (this.settings().result ? RESULT_PX : 0);
    const side = event.clientX < spine.left ? 'buy' : event.clientX > spine.right && inside ? 'sell' : null;
    return side && row >= 0 && row < this.standing.length ? { row, side, stop: event.shiftKey } : null;
  }

  /** Lists what is legal at the price of a row. */
  private listAt(event: Pick<MouseEvent, 'clientX' | 'clientY'>): void {
    if (!this.body) return;
    const at = placeIn(this.body, event);
    const price = this.standing[Math.floor(at.y / ROW_PX)];
    if (price !== undefined) this.$menu.set({ ...at, price });
  }

  private listen(body: HTMLElement): () => void {
    const listening = new AbortController();
    const on = <K extends keyof HTMLElementEventMap>(name: K, heard: (event: HTMLElementEventMap[K]) => void): void =>
      body.addEventListener(name, heard, { signal: listening.signal });
    on('pointerenter', () => (this.over = true));
    on('pointerleave', () => {
      this.over = false;
      if (this.area.point(null)) this.schedule();
    });
    on('pointermove', (event) => {
      if (this.area.point(this.aimAt(body, event))) this.schedule();
    });
    on('pointerdown', (event) => {
      const at = this.aimAt(body, event);
      if (event.button !== 0 || !at || isOver(event)) return;
      this.$menu.set(null);
      this.area.down(at, event.clientX, event.clientY);
    });
    on('pointerup', (event) => {
      // A press that began on what stood here before, another target or rows that have moved, says so.
      if (event.button !== 0 || isOver(event)) return;
      const at = this.aimAt(body, event);
      // Beside the order areas a press means nothing.
      if (at === null && this.standing.length > 0) this.area.drop();
      else this.area.up(at, event.clientX, event.clientY);
    });
    on('contextmenu', (event) => {
      event.preventDefault();
      this.listAt(event);
    });
    on('wheel', (event) => {
      const to = this.standing[Math.max(0, Math.floor(this.rows / 2) + (event.deltaY > 0 ? WHEEL_ROWS : -WHEEL_ROWS))];
      if (to !== undefined && to > 0) this.recentre(to);
    });
    return () => listening.abort();
  }
}
