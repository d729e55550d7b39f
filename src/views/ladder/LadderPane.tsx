import { useStore } from '@nanostores/react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { formatPrice, parseQuantity, type Instrument, type Price } from '../../core/instrument/index.ts';
import { ghostAt, type Ghost, type GhostAsk } from '../../core/orders/index.ts';
import { grouped } from '../../kit/Figure.tsx';
import {
  $orders,
  $positions,
  followDepth,
  followQuote,
  instrumentOf,
  isWorking,
  positionKey,
  priceOf,
  quoteOf,
  type ApiOrder,
  type LiveDepth,
  type LiveQuote,
} from '../../live/index.ts';
import { answer } from '../act/answers.ts';
import { TRAVEL_PX, STILL_MS } from '../act/guard.ts';
import { quotesFresh } from '../act/lamps.ts';
import { pressOrder } from '../act/press.ts';
import { cancelMany, cancelOrder, changeOrder, closePosition, flatten } from '../act/send.ts';
import { openSlip } from '../slip/slip-store.ts';
import {
  $activePane,
  $directSend,
  $letters,
  $panes,
  $sizes,
  canTrade,
  changedAt,
  setPaneSetting,
  setSize,
  sizeKeys,
  sizeOf,
  targetOf,
  type Target,
} from '../workspace/panes.ts';
import { LegalOrders } from './LegalOrders.tsx';
import { Pins } from './Pins.tsx';
import { GROUPS, ROW_PX, rowOf, rowPrices } from './rows.ts';

const FAR_TICKS = 5;
const NOT_YET = 'what is under the pointer changed a moment ago; press again';

/** A vertical axis of prices with depth and one's own orders; a press rests an order. */
export function LadderPane({ id }: { id: string }) {
  useStore($panes);
  useStore($letters);
  const target = targetOf(id);
  const instrument = target ? instrumentOf(target.instrument) : undefined;
  if (!target || !instrument) return <p className="p-2 quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  // A new target is a new ladder: nothing of the old one is carried over.
  return <Ladder key={`${target.instrument} ${target.account}`} id={id} target={target} instrument={instrument} />;
}

interface Market {
  quote: LiveQuote | undefined;
  depth: LiveDepth | null;
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
  const orders = useStore($orders);
  const positions = useStore($positions);
  const direct = useStore($directSend).ladder;
  useStore($sizes);
  const size = sizeOf(account, instrument.id);
  const tradable = canTrade(account, instrument.id);
  const group = Number(pane?.settings['group'] ?? 1);
  const body = useRef<HTMLDivElement>(null);
  const [rows, setRows] = useState(20);
  const [centre, setCentre] = useState<Price | null>(null);
  const [aim, setAim] = useState<Aim | null>(null);
  const [ringed, setRinged] = useState<string | null>(null);
  const [menu, setMenu] = useState<{ x: number; y: number; price: Price } | null>(null);
  const movedAt = useRef(performance.now());
  const painted = useRef<Ghost | null>(null);
  const pressed = useRef<{ ghost: Ghost | null; aim: Aim; x: number; y: number } | null>(null);
  const over = useRef(false);
  const [dim, setDim] = useState(true);

  const prices = useMemo(() => (centre === null ? [] : rowPrices(instrument, centre, rows, group)), [instrument, centre, rows, group]);
  const own = useMemo(
    () => Object.values(orders).filter((order) => order.instrument === instrument.id && order.account === account && isWorking(order)),
    [orders, instrument.id, account],
  );
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
  const market = useMarket(instrument.id, schedule);

  const recentre = useCallback((to: Price) => {
    movedAt.current = performance.now();
    setDim(true);
    setTimeout(() => setDim(false), STILL_MS);
    setCentre(to);
  }, []);

  const askAt = useCallback(
    (at: Aim): GhostAsk | null => {
      const price = prices[at.row];
      const { quote, depth } = market.current;
      if (price === undefined || !quote) return null;
      const opposite = at.side === 'buy' ? depth?.asks : depth?.bids;
      return {
        instrument,
        side: at.side,
        price,
        quantity: parseQuantity(instrument, size) ?? 0,
        market: quote,
        want: at.stop ? 'stop' : 'limit',
        ...(opposite ? { levels: [...opposite.values()] } : {}),
      };
    },
    [instrument, market, prices, size],
  );

  paintNow.current = () => {
    const { quote } = market.current;
    const middle = quote?.last ?? quote?.bid ?? quote?.ask ?? (quote ? priceOf(instrument, quote.text.previousSettlement) : null);
    if (centre === null) {
      if (middle !== null && middle !== undefined) recentre(middle);
      return;
    }
    const at = middle === null || middle === undefined ? -1 : rowOf(prices, middle, 'bid');
    const left = at < rows / 3 || at > (rows * 2) / 3;
    if (left && !over.current && middle !== null && middle !== undefined && rows > 3) {
      recentre(middle);
      return;
    }
    if (body.current) paintRows(body.current, prices, instrument, market.current, positionOf(position, instrument));
    paintGhost();
  };

  const paintGhost = (): void => {
    const at = aim;
    const ask = at ? askAt(at) : null;
    const found = ask && tradable && quotesFresh() ? ghostAt(ask) : null;
    painted.current = found?.ok ? found.value : null;
    const words = body.current?.querySelector<HTMLElement>('[data-ghost-words]');
    const box = body.current?.querySelector<HTMLElement>('[data-ghost]');
    if (!words || !box) return;
    words.textContent = !at
      ? ''
      : found === null
        ? tradable
          ? 'the price is old: nothing can be sent'
          : `${account} can’t trade it`
        : found.ok
          ? found.value.words
          : found.refusal;
    box.hidden = !at;
    if (!at) return;
    box.style.transform = `translateY(${at.row * ROW_PX}px)`;
    box.dataset['side'] = at.side;
    box.dataset['fill'] = found?.ok && found.value.effect === 'fills now' ? 'yes' : 'no';
    box.dataset['legal'] = found?.ok ? 'yes' : 'no';
    box.textContent = found?.ok ? `${at.side === 'buy' ? 'B' : 'S'} ${grouped(size)}${found.value.type === 'limit' ? '' : ' stop'}` : '×';
  };

  useEffect(schedule, [schedule, prices, position, aim, size, own]);
  useEffect(() => () => cancelAnimationFrame(frame.current), []);
  useEffect(() => {
    const element = body.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      const next = Math.max(4, Math.floor(element.clientHeight / ROW_PX));
      setRows((before) => {
        if (before !== next) movedAt.current = performance.now();
        return next;
      });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    setTimeout(() => setDim(false), Math.max(0, STILL_MS - (performance.now() - (changedAt.get(id) ?? 0))));
  }, [id]);

  const aimAt = (event: React.PointerEvent): Aim | null => {
    const box = body.current?.getBoundingClientRect();
    if (!box) return null;
    const row = Math.floor((event.clientY - box.top) / ROW_PX);
    const x = event.clientX - box.left;
    const side = x < 128 ? 'buy' : x > 184 && x < box.width - RESULT_PX ? 'sell' : null;
    return side && row >= 0 && row < prices.length ? { row, side, stop: event.shiftKey } : null;
  };

  const press = (at: Aim): void => {
    const ask = askAt(at);
    if (!ask) {
      answer(id, 'refused', NOT_YET);
      return;
    }
    pressOrder({ pane: id, surface: 'ladder', account, movedAt: movedAt.current, painted: pressed.current?.ghost ?? null, ask, farTicks: FAR_TICKS });
  };

  const active = useStore($activePane) === id;
  const onKeyDown = (event: React.KeyboardEvent): void => {
    if ((event.target as HTMLElement).matches('input')) return;
    if (event.key === 'Home') {
      const middle = market.current.quote?.last ?? market.current.quote?.bid;
      if (middle) recentre(middle);
    } else if (event.key === '+' || event.key === '-') {
      const at = GROUPS.indexOf(group as (typeof GROUPS)[number]);
      const next = GROUPS[Math.max(0, Math.min(GROUPS.length - 1, at + (event.key === '+' ? -1 : 1)))];
      movedAt.current = performance.now();
      setPaneSetting(id, 'group', String(next));
    } else if (event.key === 'Escape') {
      setRinged(null);
      setMenu(null);
    } else if (event.key === 'Delete' && active && !event.repeat) {
      const order = ringed === null ? undefined : orders[ringed];
      if (order && isWorking(order)) void cancelOrder(id, order);
      else answer(id, 'refused', 'nothing is ringed: press a pin first, then Delete');
    } else return;
    event.preventDefault();
  };

  const held = Number(position?.quantity ?? 0);
  const keys = sizeKeys(instrument);
  const { quote } = market.current;
  return (
    <div className="flex h-full flex-col outline-none" tabIndex={0} role="group" aria-label="Ladder prices" onKeyDown={onKeyDown}>
      <div className="flex h-[32px] shrink-0 items-center gap-1 overflow-hidden px-1" role="group" aria-label="Size">
        {keys.slice(0, 6).map((key) => (
          <button
            key={key}
            type="button"
            className="control figure !px-[6px]"
            aria-pressed={key === size}
            onClick={() => setSize(account, instrument.id, key)}
            disabled={!tradable}
          >
            {Number(key) >= 1000 ? `${Number(key) / 1000}k` : key}
          </button>
        ))}
        <button
          type="button"
          className="control figure !px-[6px]"
          disabled={held === 0}
          onClick={() => setSize(account, instrument.id, String(position?.quantity ?? '').replace('-', ''))}
        >
          {held === 0 ? 'pos –' : `pos ${grouped(String(Math.abs(held)))}`}
        </button>
      </div>
      <div
        ref={body}
        className={`ladder relative min-h-0 flex-1 overflow-hidden ${direct === 'all' ? 'sends' : 'slips'} ${dim ? 'dimmed' : ''}`}
        data-testid="ladder-body"
        onPointerEnter={() => (over.current = true)}
        onPointerLeave={() => {
          over.current = false;
          setAim(null);
        }}
        onPointerMove={(event) => {
          const next = aimAt(event);
          setAim((before) => (before && next && before.row === next.row && before.side === next.side && before.stop === next.stop ? before : next));
        }}
        onPointerDown={(event) => {
          const at = aimAt(event);
          if (event.button === 0 && prices.length === 0) answer(id, 'refused', NOT_YET);
          if (event.button !== 0 || !at || (event.target as HTMLElement).closest('[data-pin]')) return;
          setMenu(null);
          pressed.current = { ghost: painted.current, aim: at, x: event.clientX, y: event.clientY };
        }}
        onPointerUp={(event) => {
          const at = aimAt(event);
          const began = pressed.current;
          // The press began on what stood here before: another target, or rows that have moved.
          if (event.button === 0 && !began && !(event.target as HTMLElement).closest('[data-pin]')) answer(id, 'refused', NOT_YET);
          if (event.button !== 0 || !at || !began) return;
          const same = at.row === began.aim.row && at.side === began.aim.side && at.stop === began.aim.stop;
          if (same && Math.hypot(event.clientX - began.x, event.clientY - began.y) < TRAVEL_PX) press(at);
          pressed.current = null;
        }}
        onContextMenu={(event) => {
          event.preventDefault();
          const box = event.currentTarget.getBoundingClientRect();
          const price = prices[Math.floor((event.clientY - box.top) / ROW_PX)];
          if (price !== undefined) setMenu({ x: event.clientX - box.left, y: event.clientY - box.top, price });
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
        <Pins
          orders={own}
          prices={prices}
          instrument={instrument}
          ringed={ringed}
          onRing={setRinged}
          onCancel={(order) => void cancelOrder(id, order)}
          onMove={(order, price) => movePin(id, order, price, instrument, quote)}
        />
        <OutOfView prices={prices} quote={quote} instrument={instrument} />
        {menu && (
          <LegalOrders
            at={menu}
            instrument={instrument}
            account={account}
            pane={id}
            quantity={parseQuantity(instrument, size) ?? 0}
            onDone={() => setMenu(null)}
          />
        )}
        <Halted quote={quote} />
        <p data-ghost-words className="ladder-words" aria-live="off" />
      </div>
      <Buttons id={id} target={target} instrument={instrument} size={size} held={held} orders={own} />
    </div>
  );
}

const RESULT_PX = 34;

interface Held {
  readonly quantity: number;
  readonly average: number;
  readonly multiplier: number;
}

const positionOf = (position: { quantity: string; averagePrice: string | null } | undefined, instrument: Instrument): Held | null =>
  position && position.quantity !== '0' && position.averagePrice !== null
    ? { quantity: Number(position.quantity), average: Number(position.averagePrice), multiplier: instrument.multiplier }
    : null;

/** Writes the market into the rows; React made them and leaves their text alone. */
function paintRows(body: HTMLElement, prices: readonly Price[], instrument: Instrument, market: Market, held: Held | null): void {
  const { quote, depth } = market;
  const bids = new Map<number, number>();
  const asks = new Map<number, number>();
  let largest = 1;
  for (const [side, into, levels] of [
    ['bid', bids, depth?.bids],
    ['ask', asks, depth?.asks],
  ] as const)
    for (const level of levels?.values() ?? []) {
      const row = rowOf(prices, level.price, side);
      if (row >= 0) into.set(row, (into.get(row) ?? 0) + level.quantity);
    }
  for (const quantity of [...bids.values(), ...asks.values()]) largest = Math.max(largest, quantity);
  const bestBid = quote?.bid === null || quote?.bid === undefined ? -1 : rowOf(prices, quote.bid, 'bid');
  const bestAsk = quote?.ask === null || quote?.ask === undefined ? -1 : rowOf(prices, quote.ask, 'ask');
  const last = quote?.last === null || quote?.last === undefined ? -1 : rowOf(prices, quote.last, 'bid');
  const elements = body.querySelectorAll<HTMLElement>('.ladder-row');
  elements.forEach((element, row) => {
    const [, bid, spine, ask, , result] = [...element.children] as HTMLElement[];
    if (!bid || !spine || !ask || !result) return;
    writeDepth(bid, bids.get(row), largest, 'to left');
    writeDepth(ask, asks.get(row), largest, 'to right');
    spine.classList.toggle('best', row === bestBid || row === bestAsk);
    spine.classList.toggle('last', row === last);
    const price = prices[row] ?? 0;
    const makes = held && price > 0 ? (price / 10 ** instrument.priceDecimals - held.average) * held.quantity * held.multiplier : null;
    const text =
      makes === null ? '' : `${makes < 0 ? '−' : '+'}${Math.abs(makes) >= 1e5 ? `${Math.round(Math.abs(makes) / 1000)}k` : Math.round(Math.abs(makes))}`;
    if (result.textContent !== text) {
      result.textContent = text;
      result.className = `result figure ${makes === null ? '' : makes < 0 ? 'down' : 'up'}`;
    }
  });
}

function writeDepth(cell: HTMLElement, quantity: number | undefined, largest: number, way: 'to left' | 'to right'): void {
  const text = quantity === undefined ? '' : grouped(String(quantity));
  if (cell.textContent !== text) cell.textContent = text;
  const share = quantity === undefined ? 0 : Math.round((quantity / largest) * 100);
  const token = way === 'to left' ? '--teal' : '--copper';
  cell.style.background = share === 0 ? '' : `linear-gradient(${way}, color-mix(in srgb, var(${token}) 20%, transparent) ${share}%, transparent ${share}%)`;
}

/** A pin let go at another price moves its order there, if that is legal. */
function movePin(pane: string, order: ApiOrder, price: Price, instrument: Instrument, quote: LiveQuote | undefined): void {
  if (!quote) return;
  const stop = order.stopPrice !== null && order.triggeredAt === null;
  const ghost = ghostAt({
    instrument,
    side: order.side,
    price,
    quantity: parseQuantity(instrument, order.remainingQuantity) ?? 0,
    market: quote,
    want: stop ? 'stop' : 'limit',
  });
  if (!ghost.ok) answer(pane, 'refused', ghost.refusal);
  else if (ghost.value.effect === 'fills now' && order.restOnly) answer(pane, 'refused', 'it would fill at once there, and was asked only to rest');
  else void changeOrder(pane, order, { [stop ? 'stopPrice' : 'limitPrice']: formatPrice(instrument, price) });
}

function OutOfView({ prices, quote, instrument }: { prices: readonly Price[]; quote: LiveQuote | undefined; instrument: Instrument }) {
  const last = quote?.last;
  const top = prices[0];
  const bottom = prices[prices.length - 1];
  if (last === null || last === undefined || top === undefined || bottom === undefined || (last <= top && last >= bottom)) return null;
  const above = last > top;
  return (
    <span className={`plate pending absolute left-1/2 bg-pane ${above ? 'top-0' : 'bottom-[22px]'} figure`}>
      {above ? '↑' : '↓'} {formatPrice(instrument, last)}
    </span>
  );
}

function Halted({ quote }: { quote: LiveQuote | undefined }) {
  if (!quote || quote.state === 'open') return null;
  return <p className="plate heather absolute left-1/2 top-1/3 -translate-x-1/2 capitalize">{quote.state}: orders wait</p>;
}

function Buttons({
  id,
  target,
  instrument,
  size,
  held,
  orders,
}: {
  id: string;
  target: Target;
  instrument: Instrument;
  size: string;
  held: number;
  orders: readonly ApiOrder[];
}) {
  const direct = useStore($directSend).ladder;
  const { account } = target;
  const [best, setBest] = useState<{ bid: string | null; ask: string | null }>({ bid: null, ask: null });
  useEffect(
    () =>
      followQuote(instrument.id, ({ text }) =>
        setBest((before) => (before.bid === text.bid && before.ask === text.ask ? before : { bid: text.bid, ask: text.ask })),
      ),
    [instrument.id],
  );
  const take = (side: 'buy' | 'sell', price: string | null): void => {
    if (price !== null) openSlip(id, { account, instrument: instrument.id, side, type: 'limit', quantity: size, limitPrice: price });
  };
  const buys = orders.filter((order) => order.side === 'buy').length;
  const sells = orders.length - buys;
  const exits = direct === 'off' ? 'opens-slip' : '';
  const close = (): void => {
    if (direct !== 'off') void closePosition(id, account, instrument.id);
    else
      openSlip(id, { account, instrument: instrument.id, side: held > 0 ? 'sell' : 'buy', type: 'market', quantity: String(Math.abs(held)), reduceOnly: true });
  };
  const tradable = canTrade(account, instrument.id);
  return (
    <div className="grid shrink-0 grid-cols-3 gap-1 p-1">
      <button type="button" className="control buy opens-slip" disabled={best.ask === null || !tradable} onClick={() => take('buy', best.ask)}>
        take {best.ask ?? '–'}
      </button>
      <button type="button" className={`control ${exits}`} disabled={held === 0} onClick={close}>
        {held === 0 ? 'nothing to close' : `close ${grouped(String(Math.abs(held)))}`}
      </button>
      <button type="button" className="control sell opens-slip" disabled={best.bid === null || !tradable} onClick={() => take('sell', best.bid)}>
        hit {best.bid ?? '–'}
      </button>
      <button type="button" className="control" disabled={buys === 0} onClick={() => void cancelMany(id, account, instrument.id, 'buy')}>
        cancel buys {buys}
      </button>
      <button type="button" className="control" disabled={held === 0 && orders.length === 0} onClick={() => void flatten(id, account, instrument.id)}>
        flatten
      </button>
      <button type="button" className="control" disabled={sells === 0} onClick={() => void cancelMany(id, account, instrument.id, 'sell')}>
        cancel sells {sells}
      </button>
    </div>
  );
}
