import { useStore } from '@nanostores/react';
import { X } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { act, exitMoney, moveOrder, orderMovedTo, reduces, waitsAt, waitsForStop } from '../../../client/gestures/index.ts';
import type { HereLeg } from '../../../client/exit-plans.ts';
import { inR } from '../../../client/position-figures.ts';
import { dragsStop } from '../../../client/would-risk.ts';
import { NO_QUANTITY, formatPrice, parseQuantity, type Instrument, type Price, type Quantity } from '../../../core/instrument/index.ts';
import { grouped, signed } from '../../../kit/Figure.tsx';
import { Pennant } from '../../../kit/Instrument.tsx';
import { isWorking, priceOf, type LiveOrder, type LivePosition } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import type { ChartController } from './controller.ts';
import { PositionHandle } from './PositionHandle.tsx';
import type { ChartModel } from './model.ts';
import { TAG_PX, standApart } from './tag-rows.ts';
import { usePull } from './use-pull.ts';
import { AXIS_PX } from './viewport.ts';
import './tags.css';

interface Props {
  readonly plot: ChartController;
  readonly draggable: boolean;
  /** Room that the order strip takes at the right of the plot. */
  readonly stripPx: number;
}

/** Orders of one side that wait for the same price share a plate. */
interface Tagged {
  readonly key: string;
  readonly price: Price;
  readonly orders: readonly LiveOrder[];
}

function tagsOf(orders: readonly LiveOrder[]): Tagged[] {
  const tags = new Map<string, Tagged>();
  for (const order of orders) {
    const price = waitsAt(order);
    if (price === null) continue;
    const key = `${order.side} ${price} ${waitsForStop(order)}`;
    const tag = tags.get(key);
    tags.set(key, { key, price, orders: [...(tag?.orders ?? []), order] });
  }
  return [...tags.values()].sort((a, b) => b.price - a.price);
}

/** Hook tags at the ends of the order lines, and the position's own mark. `↑ ↓` ring a tag, `Delete` cancels it. */
export function OrderMarks({ plot, draggable, stripPx }: Props) {
  const { model } = plot;
  const { pane: id } = plot.of;
  const { orders, position: held, here } = useStore(plot.$own);
  const layer = useRef<HTMLDivElement>(null);
  const [ringed, setRinged] = useState<string | null>(null);
  /** Which order of a shared plate it shows. */
  const [turned, setTurned] = useState<Readonly<Record<string, number>>>({});
  const tags = useMemo(() => tagsOf(orders), [orders]);
  useEffect(() => {
    const place = (): void => {
      const { view } = model;
      const marks = [...(layer.current?.querySelectorAll<HTMLElement>('[data-at]') ?? [])];
      const shown = marks.filter((mark) => {
        const y = view.y(Number(mark.dataset['at']));
        const inPlot = y >= 6 && y <= view.plotHeight - 6;
        mark.style.visibility = inPlot ? 'visible' : 'hidden';
        return inPlot;
      });
      const own = shown.filter((mark) => mark.dataset['order']);
      const widest = Math.max(0, ...own.map((mark) => mark.scrollWidth));
      // Where the plot is narrow the position's mark stands apart from the tags too.
      const hooks = shown.filter((mark) => mark.dataset['order'] ?? mark.offsetWidth + widest > view.plotWidth - TAG_PX);
      const middles = standApart(
        hooks.map((mark) => view.y(Number(mark.dataset['at']))),
        TAG_PX / 2,
        view.plotHeight - TAG_PX / 2,
      );
      const put = (mark: HTMLElement, middle: number): void => void (mark.style.transform = `translateY(${Math.round(middle) - TAG_PX / 2}px)`);
      hooks.forEach((mark, i) => {
        put(mark, middles[i] ?? 0);
        if (mark.dataset['order']) mark.classList.toggle('short', coversNewest(model, middles[i] ?? 0, mark.scrollWidth));
      });
      for (const mark of shown) if (!hooks.includes(mark)) put(mark, view.y(Number(mark.dataset['at'])));
    };
    return plot.onDrawn(place);
  }, [model, plot, tags, held, here]);
  const shownOf = ({ key, orders: all }: Tagged): LiveOrder => all[(turned[key] ?? 0) % all.length] as LiveOrder;
  const order = orders.find((one) => one.id === ringed);
  const walk = (step: 1 | -1) => (): void => {
    const all = tags.flatMap((tag) => tag.orders.map((one) => ({ tag, one })));
    const from = all.findIndex(({ one }) => one.id === ringed);
    const next = all[from < 0 ? (step > 0 ? 0 : all.length - 1) : Math.max(0, Math.min(all.length - 1, from + step))];
    if (!next) return;
    setRinged(next.one.id);
    setTurned((before) => ({ ...before, [next.tag.key]: next.tag.orders.indexOf(next.one) }));
  };
  const none = tags.length === 0 ? 'no order of this account works here' : null;
  usePaneCommands(id, [
    { keys: ['ArrowDown'], words: 'ring the next order below', cannot: () => none, repeats: true, run: walk(1) },
    { keys: ['ArrowUp'], words: 'ring the next order above', cannot: () => none, repeats: true, run: walk(-1) },
    ...(order
      ? [
          { keys: ['Escape'], words: 'ring nothing', run: () => setRinged(null) },
          {
            keys: ['Delete'],
            words: 'cancel the ringed order',
            order: true as const,
            cannot: () => (isWorking(order) ? null : `it is ${order.state} and can’t be cancelled`),
            run: () => void act(id, 'chart', { kind: 'cancel', order }),
          },
        ]
      : []),
  ]);
  return (
    <div ref={layer} className="pointer-events-none absolute inset-0 overflow-hidden" style={{ right: AXIS_PX + stripPx }}>
      {held && <PositionHandle plot={plot} held={held} draggable={draggable} />}
      {held && here.map((leg) => <HereTag key={leg.key} plot={plot} leg={leg} held={held} draggable={draggable} />)}
      {tags.map((tag) => (
        <HookTag
          key={tag.key}
          plot={plot}
          order={shownOf(tag)}
          more={tag.orders.length - 1}
          held={held}
          draggable={draggable}
          ringed={shownOf(tag).id === ringed}
          onRing={setRinged}
          onTurn={() => setTurned((before) => ({ ...before, [tag.key]: (before[tag.key] ?? 0) + 1 }))}
        />
      ))}
    </div>
  );
}

/** An exit that is held here: hatched, for the venue knows nothing of it. Pulled, it waits where it is let go; `↑ ↓ Enter` do the same. */
function HereTag({ plot, leg, held, draggable }: { plot: ChartController; leg: HereLeg; held: LivePosition; draggable: boolean }) {
  const { pane, instrument } = plot.of;
  const price = priceOf(instrument, leg.price);
  const { to, byPointer, byKey } = usePull(plot, price ?? 0, (at) => act(pane, 'chart', { kind: 'move-leg', leg, price: formatPrice(instrument, at) }));
  const stop = leg.name === 'stop';
  const quantity = parseQuantity(instrument, leg.quantity) ?? NO_QUANTITY;
  useDraggedStop(stop ? price : null, to, quantity, held, instrument);
  if (price === null) return null;
  const shown = to ?? price;
  const money = exitMoney(instrument, held, quantity, shown);
  const multiple = inR(money, held.firstRisk);
  const words = `${leg.name} of ${grouped(leg.quantity)} held here at ${formatPrice(instrument, shown)}`;
  return (
    <span
      data-at={shown}
      data-order={leg.key}
      className={`hook hatched pointer-events-auto absolute right-0 top-0 flex items-center pl-3 pr-2 ${to === null ? '' : 'hollow'} ${draggable ? 'cursor-ns-resize touch-none' : ''}`}
      title={`${leg.suspended ? 'Suspended: the broker or the prices are cut off. ' : ''}Held here: Kavix fires it.${draggable ? ' Pull it to another price.' : ''}`}
      {...(draggable
        ? { ...byPointer, ...byKey, role: 'button', tabIndex: 0, 'aria-label': `${words}: up and down move it, Enter lets go` }
        : { role: 'note' })}
    >
      <Pennant side={Number(held.quantity) > 0 ? 'sell' : 'buy'} short />
      &nbsp;{grouped(leg.quantity)} {leg.name}
      <span className="rest">
        &nbsp;{formatPrice(instrument, shown)} · {signed(money)}
        {multiple === null ? '' : ` · ${signed(multiple)} R`} · {leg.suspended ? 'SUSPENDED' : 'held here'}
      </span>
    </span>
  );
}

/** While a stop of the position is dragged the rail shows what the day would then stand to lose. */
function useDraggedStop(from: Price | null, to: Price | null, quantity: Quantity, held: LivePosition | null, instrument: Instrument): void {
  useEffect(() => {
    const mark = held?.units.mark ?? null;
    if (to === null || from === null || held === null || mark === null) return undefined;
    const fromMark = (at: Price): string => exitMoney(instrument, held, quantity, at, mark);
    dragsStop(held, fromMark(to), false, fromMark(from));
    return () => dragsStop(held, null, false);
  }, [from, to, quantity, held, instrument]);
}

/** What an order that reduces the position makes of it at its price, before fees, with its R; null for what opens. */
function leavesWith(order: LiveOrder, price: Price, held: LivePosition | null, instrument: Instrument): string | null {
  if (held === null || !reduces({ side: order.side, quantity: order.remainingQuantity }, held.units.quantity)) return null;
  const money = exitMoney(instrument, held, order.units.remaining, price);
  const multiple = inR(money, held.firstRisk);
  return multiple === null ? signed(money) : `${signed(money)} · ${signed(multiple)} R`;
}

/** Whether a tag at a height, so wide, would lie over the newest bars. */
function coversNewest(model: ChartModel, y: number, width: number): boolean {
  const { view, series } = model;
  const { first, last } = view.range(series);
  for (let i = last; i >= Math.max(first, last - 12); i--) {
    if (view.x(series, i) < view.plotWidth - width) return false;
    if (view.y(series.high[i] ?? 0) - TAG_PX / 2 <= y && y <= view.y(series.low[i] ?? 0) + TAG_PX / 2) return true;
  }
  return false;
}

interface TagProps {
  readonly plot: ChartController;
  readonly order: LiveOrder;
  /** How many others share the plate. */
  readonly more: number;
  readonly held: LivePosition | null;
  readonly draggable: boolean;
  readonly ringed: boolean;
  readonly onRing: (id: string) => void;
  readonly onTurn: () => void;
}

function HookTag({ plot, order, more, held, draggable, ringed, onRing, onTurn }: TagProps) {
  const { pane: id, instrument } = plot.of;
  const stop = waitsForStop(order);
  const price = waitsAt(order);
  const { to, byPointer } = usePull(plot, price ?? 0, (at) => moveOrder(id, 'chart', order, at, instrument));
  const protects = stop && price !== null && leavesWith(order, to ?? price, held, instrument) !== null;
  useDraggedStop(protects ? price : null, to, order.units.remaining, held, instrument);
  if (price === null) return null;
  const shown = to ?? price;
  const ghost = to === null ? null : orderMovedTo(order, to, instrument);
  const pending = order.state.startsWith('pending');
  const money = leavesWith(order, shown, held, instrument);
  return (
    <span
      data-at={shown}
      data-order={order.id}
      tabIndex={-1}
      role="group"
      aria-label={order.sentence}
      title={order.sentence}
      className={`hook pointer-events-auto absolute right-0 top-0 flex items-center pl-3 ${pending || to !== null ? 'hollow' : ''} ${ghost && !ghost.ok ? 'broken' : ''} ${ringed ? 'ringed' : ''} ${draggable ? 'cursor-ns-resize touch-none' : ''}`}
      {...(draggable ? byPointer : {})}
      onPointerDown={(event) => {
        if ((event.target as HTMLElement).closest('button')) return event.stopPropagation();
        if (event.button === 0) onRing(order.id);
        if (draggable) byPointer.onPointerDown(event);
        else event.stopPropagation();
      }}
    >
      <Pennant side={order.side} short />
      &nbsp;{grouped(order.remainingQuantity)} {stop ? 'stop' : 'limit'}
      <span className="rest">
        &nbsp;{formatPrice(instrument, shown)}
        {money === null ? '' : ` · ${money}`}
        {ghost && !ghost.ok ? ' · not legal' : ''}
      </span>
      {more > 0 && (
        <button type="button" className="h-[24px] px-1 font-bold" aria-label={`${more} more orders at this price: show the next`} onClick={onTurn}>
          +{more}
        </button>
      )}
      <button
        type="button"
        className="grid h-[24px] w-[24px] place-items-center"
        aria-label={`Cancel: ${order.sentence}`}
        onClick={() => act(id, 'chart', { kind: 'cancel', order })}
      >
        <X size={11} />
      </button>
    </span>
  );
}
