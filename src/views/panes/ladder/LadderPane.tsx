import { useStore } from '@nanostores/react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { WORDS_LINE } from '../../act/words-line.ts';
import { placeIn } from '../../../kit/scale.ts';
import { useOrderArea } from '../../act/order-area.ts';
import { STILL_MS, moveOrder, act } from '../../../client/gestures/index.ts';
import { $quotesFresh } from '../../../client/lamps.ts';
import { $directSend, $sizes, sizeOf } from '../../../client/session.ts';
import { NO_QUANTITY, asPrice, formatPrice, parseQuantity, type Instrument, type Price } from '../../../core/instrument/index.ts';
import { type GhostAsk } from '../../../core/orders/index.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { paintNoMore, paintSoon } from '../../../kit/pace.ts';
import { $positions, $working, NO_ORDERS, followDepth, followQuote, instrumentOf, isWorking, positionKey, priceOf, quoteOf } from '../../../live/index.ts';
import { $letters, $panes, changedAt, setPaneSetting, targetOf, type Target } from '../../workspace/panes.ts';
import { readSettings } from '../../workspace/settings.ts';
import { LADDER } from './settings.ts';
import { LadderButtons } from './LadderButtons.tsx';
import { LegalOrders } from '../../act/LegalOrders.tsx';
import { heldOf, paintRows, type Market } from './paint-rows.ts';
import { Halted, OutOfView } from './market-marks.tsx';
import { Pins, pinPrice } from './Pins.tsx';
import { SizeKeys } from './SizeKeys.tsx';
import { ROW_PX, rowOf, rowPrices } from './rows.ts';
import { usePaneCommands } from '../../act/keys.ts';
import './ladder.css';

/** A vertical axis of prices with depth and one's own orders; a press rests an order. */
export default function LadderPane({ id }: { id: string }) {
  useStore($panes);
  useStore($letters);
  const target = targetOf(id);
  const instrument = target ? instrumentOf(target.instrument) : undefined;
  if (!target || !instrument) return <p className="p-2 text-quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  // A new target is a new ladder: nothing of the old one is carried over.
  return <Ladder key={`${target.instrument} ${target.account}`} id={id} target={target} instrument={instrument} />;
}

function useMarket(instrument: string, onChange: () => void): React.RefObject<Market> {
  const market = useRef<Market>({ quote: quoteOf(instrument), depth: null });
  useEffect(() => {
    const offQuote = followQuote(instrument, (quote) => {
      market.current.quote = quote;
      onChange();
    });
    const offDepth = followDepth(instrument, (depth) => {
      market.current.depth = depth;
      onChange();
    });
    return () => {
      offQuote();
      offDepth();
    };
  }, [instrument, onChange]);
  return market;
}

interface Aim {
  readonly row: number;
  readonly side: 'buy' | 'sell';
  readonly stop: boolean;
}

function Ladder({ id, target, instrument }: { id: string; target: Target; instrument: Instrument }) {
  const { account } = target;
  const pane = useStore($panes)[id];
  const own = useStore($working, { keys: [positionKey(account, instrument.id)] })[positionKey(account, instrument.id)] ?? NO_ORDERS;
  const positions = useStore($positions);
  const direct = useStore($directSend).ladder;
  useStore($sizes);
  const fresh = useStore($quotesFresh);
  const size = sizeOf(account, instrument.id);
  const { spine, farTicks, ...parts } = readSettings(pane, LADDER);
  const group = Number(parts.group);
  const body = useRef<HTMLDivElement>(null);
  const [rows, setRows] = useState(20);
  const [centre, setCentre] = useState<Price | null>(null);
  const [ringed, setRinged] = useState<string | null>(null);
  const [menu, setMenu] = useState<{ x: number; y: number; price: Price } | null>(null);
  const over = useRef(false);
  const [dim, setDim] = useState(true);

  const prices = useMemo(() => (centre === null ? [] : rowPrices(instrument, centre, rows, group)), [instrument, centre, rows, group]);
  const position = positions[positionKey(account, instrument.id)];

  const frame = useRef(0);
  const paintNow = useRef<() => void>(() => undefined);
  const schedule = useCallback(() => {
    if (frame.current === 0)
      frame.current = requestAnimationFrame(() => {
        frame.current = 0;
        paintNow.current();
      });
  }, []);
  // What the market changes is painted with all other panes; what the trader does, at once.
  const scheduleLive = useCallback(() => paintSoon(body, () => paintNow.current()), []);
  useEffect(() => () => paintNoMore(body), []);
  const market = useMarket(instrument.id, scheduleLive);

  const askAt = (at: Aim): GhostAsk | null => {
    const price = prices[at.row];
    const { quote, depth } = market.current;
    if (price === undefined || !quote) return null;
    const opposite = at.side === 'buy' ? depth?.asks : depth?.bids;
    return {
      instrument,
      side: at.side,
      price,
      quantity: parseQuantity(instrument, size) ?? NO_QUANTITY,
      market: quote,
      want: at.stop ? 'stop' : 'limit',
      ...(opposite ? { levels: [...opposite.values()] } : {}),
    };
  };
  const area = useOrderArea<Aim>({
    pane: id,
    surface: 'ladder',
    key: ({ row, side, stop }) => `${prices[row] ?? ''} ${side} ${stop}`,
    account: () => account,
    instrument: () => instrument.id,
    ask: askAt,
    farTicks: () => farTicks,
  });

  const recentre = useCallback(
    (to: Price) => {
      area.moved();
      setDim(true);
      setTimeout(() => setDim(false), STILL_MS);
      setCentre(to);
    },
    [area],
  );

  paintNow.current = () => {
    const { quote } = market.current;
    // Where the market stands is between its best prices: prints jump from one to the other.
    const between = quote && quote.bid !== null && quote.ask !== null ? asPrice(Math.floor((quote.bid + quote.ask) / 2)) : null;
    const middle = between ?? quote?.last ?? quote?.bid ?? quote?.ask ?? (quote ? priceOf(instrument, quote.text.previousSettlement) : null);
    if (centre === null) {
      if (middle !== null && middle !== undefined) recentre(middle);
      return;
    }
    const at = middle === null || middle === undefined ? -1 : rowOf(prices, middle, 'bid');
    const middleRow = Math.floor(rows / 2);
    const left = spine === 'follow' ? Math.abs(at - middleRow) > 1 : spine === 'third' && (at < rows / 3 || at > (rows * 2) / 3);
    if (left && !over.current && middle !== null && middle !== undefined && rows > 3) {
      recentre(middle);
    }
    if (body.current) paintRows(body.current, prices, instrument, market.current, heldOf(position, instrument));
    paintGhost();
  };

  const paintGhost = (): void => {
    const shown = area.paint();
    const words = body.current?.querySelector<HTMLElement>('[data-ghost-words]');
    const box = body.current?.querySelector<HTMLElement>('[data-ghost]');
    if (!words || !box) return;
    words.textContent = shown?.words ?? '';
    box.hidden = !shown;
    if (!shown) return;
    const { aim: at, ghost } = shown;
    box.style.transform = `translateY(${at.row * ROW_PX}px)`;
    box.dataset['side'] = at.side;
    box.dataset['fill'] = ghost?.effect === 'fills now' ? 'yes' : 'no';
    box.dataset['legal'] = ghost ? 'yes' : 'no';
    box.dataset['sends'] = shown.sends ? 'yes' : 'no';
    box.textContent = ghost ? `${at.side === 'buy' ? 'B' : 'S'} ${grouped(size)}${ghost.type === 'limit' ? '' : ' stop'}` : '×';
  };

  useEffect(schedule, [schedule, prices, position, size, own, fresh]);
  useEffect(() => () => cancelAnimationFrame(frame.current), []);
  useEffect(() => {
    const element = body.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      const next = Math.max(4, Math.floor((element.clientHeight - WORDS_PX) / ROW_PX));
      setRows((before) => {
        if (before !== next) area.moved();
        return next;
      });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [area]);
  useEffect(() => {
    setTimeout(() => setDim(false), Math.max(0, STILL_MS - (performance.now() - (changedAt.get(id) ?? 0))));
  }, [id]);

  const aimAt = (event: React.PointerEvent): Aim | null => {
    if (!body.current) return null;
    const { x, y } = placeIn(body.current, event);
    const row = Math.floor(y / ROW_PX);
    const spineBox = body.current.querySelector('.spine')?.getBoundingClientRect();
    if (!spineBox) return null;
    const side =
      event.clientX < spineBox.left ? 'buy' : event.clientX > spineBox.right && x < body.current.clientWidth - (parts.result ? RESULT_PX : 0) ? 'sell' : null;
    return side && row >= 0 && row < prices.length ? { row, side, stop: event.shiftKey } : null;
  };

  const ringedOrder = own.find((order) => order.id === ringed);
  const regroup = (by: 1 | -1) => (): void => {
    const groups = LADDER.group.options.map(([value]): string => value);
    area.moved();
    setPaneSetting(id, 'group', groups[Math.max(0, Math.min(groups.length - 1, groups.indexOf(String(group)) + by))]);
  };
  const noOrder = (): string | null => (own.length === 0 ? 'no order of this account works here' : null);
  const walkPins = (step: 1 | -1) => (): void => {
    const sorted = [...own].sort((a, b) => (pinPrice(b, instrument) ?? 0) - (pinPrice(a, instrument) ?? 0));
    const from = sorted.findIndex((order) => order.id === ringed);
    const next = sorted[from < 0 ? (step > 0 ? 0 : sorted.length - 1) : Math.max(0, Math.min(sorted.length - 1, from + step))];
    const price = next && pinPrice(next, instrument);
    if (!next) return;
    setRinged(next.id);
    // A pin beyond the rows is brought into view.
    if (price !== null && price !== undefined && !(price <= (prices[0] ?? 0) && price >= (prices[prices.length - 1] ?? 0))) recentre(price);
  };
  usePaneCommands(id, [
    {
      keys: ['Home'],
      words: 'the last price to the middle',
      run: () => {
        const middle = market.current.quote?.last ?? market.current.quote?.bid;
        if (middle) recentre(middle);
      },
    },
    { keys: ['ArrowDown'], words: 'ring the next order below', cannot: noOrder, repeats: true, run: walkPins(1) },
    { keys: ['ArrowUp'], words: 'ring the next order above', cannot: noOrder, repeats: true, run: walkPins(-1) },
    { keys: ['+'], words: 'fewer ticks in a row', repeats: true, run: regroup(-1) },
    { keys: ['-'], words: 'more ticks in a row', repeats: true, run: regroup(1) },
    {
      keys: ['Escape'],
      words: 'ring nothing',
      run: () => {
        setRinged(null);
        setMenu(null);
      },
    },
    {
      keys: ['Delete'],
      words: 'cancel the ringed order',
      cannot: () => (ringedOrder && isWorking(ringedOrder) ? null : 'nothing is ringed: press a pin first, then Delete'),
      run: () => void (ringedOrder && act(id, 'ladder', { kind: 'cancel', order: ringedOrder })),
    },
  ]);

  const held = Number(position?.quantity ?? 0);
  return (
    <div className="flex h-full flex-col outline-none" tabIndex={0} role="group" aria-label="Ladder prices">
      {parts.sizes && <SizeKeys instrument={instrument} account={account} held={held} />}
      <div
        ref={body}
        className={`ladder relative min-h-0 flex-1 overflow-hidden ${direct === 'all' ? 'sends' : 'slips'} ${dim ? 'dimmed' : ''}`}
        data-testid="ladder-body"
        data-order-area
        style={ladderColumns(parts)}
        onPointerEnter={() => (over.current = true)}
        onPointerLeave={() => {
          over.current = false;
          if (area.point(null)) schedule();
        }}
        onPointerMove={(event) => {
          if (area.point(aimAt(event))) schedule();
        }}
        onPointerDown={(event) => {
          const at = aimAt(event);
          if (event.button !== 0 || !at || (event.target as HTMLElement).closest('[data-pin]')) return;
          setMenu(null);
          area.down(at, event.clientX, event.clientY);
        }}
        onPointerUp={(event) => {
          // A press that began on what stood here before, another target or rows that have moved, says so.
          if (event.button !== 0 || (event.target as HTMLElement).closest('[data-pin]')) return;
          const at = aimAt(event);
          // Beside the order areas a press means nothing.
          if (at === null && prices.length > 0) area.drop();
          else area.up(at, event.clientX, event.clientY);
        }}
        onContextMenu={(event) => {
          event.preventDefault();
          const at = placeIn(event.currentTarget, event);
          const price = prices[Math.floor(at.y / ROW_PX)];
          if (price !== undefined) setMenu({ ...at, price });
        }}
        onWheel={(event) => {
          const first = prices[Math.max(0, Math.floor(rows / 2) + (event.deltaY > 0 ? 2 : -2))];
          if (first !== undefined && first > 0) recentre(first);
        }}
      >
        {centre === null && <div className="skeleton absolute inset-0" role="status" aria-label="Loading prices" />}
        {prices.map((price) => (
          <div key={price} className="ladder-row" data-price={price}>
            <span />
            <span className="bid figure" />
            <span className="spine figure">{price > 0 ? formatPrice(instrument, price) : ''}</span>
            <span className="ask figure" />
            <span />
            <span className="result figure" />
          </div>
        ))}
        <div data-ghost className="ladder-ghost" hidden aria-hidden="true" />
        {parts.pins && (
          <Pins
            orders={own}
            prices={prices}
            instrument={instrument}
            ringed={ringed}
            onRing={setRinged}
            onCancel={(order) => act(id, 'ladder', { kind: 'cancel', order })}
            onMove={(order, price) => moveOrder(id, 'ladder', order, price, instrument)}
          />
        )}
        <OutOfView prices={prices} instrument={instrument} />
        {menu && (
          <LegalOrders
            at={menu}
            instrument={instrument}
            account={account}
            pane={id}
            quantity={parseQuantity(instrument, size) ?? NO_QUANTITY}
            onDone={() => setMenu(null)}
          />
        )}
        <Halted instrument={instrument.id} />
        <p data-ghost-words className={WORDS_LINE} aria-live="off" />
      </div>
      {parts.buttons && <LadderButtons id={id} target={target} instrument={instrument} size={size} held={held} orders={own} />}
    </div>
  );
}

const RESULT_PX = 34;
/** The line below the rows that says what a press does. */
const WORDS_PX = 20;

/** The widths of the parts; what is hidden has none. Its outer edge stays where pins and ghosts stand. */
const ladderColumns = (parts: { pins: boolean; depth: boolean; result: boolean }): React.CSSProperties =>
  ({
    '--pins': parts.pins ? '64px' : '0px',
    '--depth': parts.depth ? '64px' : '24px',
    '--result': parts.result ? `${RESULT_PX}px` : '0px',
    '--ink-of-depth': parts.depth ? 'inherit' : 'transparent',
  }) as React.CSSProperties;
