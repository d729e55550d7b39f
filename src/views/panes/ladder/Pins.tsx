import { X } from 'lucide-react';
import { useRef, useState } from 'react';
import { usePutBack } from '../../../kit/put-back.ts';
import { laidOut } from '../../../kit/scale.ts';
import { TRAVEL_PX, waitsAt } from '../../../client/gestures/index.ts';
import { formatPrice, type Instrument, type Price } from '../../../core/instrument/index.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { Pennant } from '../../../kit/Instrument.tsx';
import type { LiveOrder } from '../../../live/index.ts';
import { ROW_PX, rowOf } from './rows.ts';

interface Props {
  readonly orders: readonly LiveOrder[];
  readonly prices: readonly Price[];
  readonly instrument: Instrument;
  readonly ringed: string | null;
  readonly onRing: (id: string) => void;
  readonly onCancel: (order: LiveOrder) => void;
  readonly onMove: (order: LiveOrder, price: Price) => void;
}

/** Of orders at one place the one that is ringed, else the one that was turned to. */
function shownOf(here: readonly LiveOrder[], turn: number, ringed: string | null): readonly LiveOrder[] {
  const one = here.find(({ id }) => id === ringed) ?? here[turn % here.length];
  return one ? [one] : [];
}

/** One's own orders on the outer edges of the ladder: buys left, sells right. */
export function Pins({ orders, prices, instrument, ringed, onRing, onCancel, onMove }: Props) {
  /** Which order of a shared place it shows. */
  const [turned, setTurned] = useState<Readonly<Record<string, number>>>({});
  const places = new Map<string, { row: number; side: 'buy' | 'sell'; orders: LiveOrder[] }>();
  for (const order of orders) {
    const price = waitsAt(order);
    const row = price === null ? -1 : rowOf(prices, price, order.side === 'buy' ? 'bid' : 'ask');
    if (row < 0) continue;
    const key = `${order.side} ${row}`;
    const place = places.get(key);
    if (place) place.orders.push(order);
    else places.set(key, { row, side: order.side, orders: [order] });
  }
  return [...places.values()].map(({ row, side, orders: here }) => (
    <div
      key={`${side} ${row}`}
      data-pins={`${side} ${row}`}
      className={`absolute z-10 flex h-[24px] items-center gap-[2px] ${side === 'buy' ? 'left-0' : 'right-[var(--result,40px)]'}`}
      style={{ top: row * ROW_PX }}
    >
      {shownOf(here, turned[`${side} ${row}`] ?? 0, ringed).map((order) => (
        <Pin
          key={order.id}
          order={order}
          row={row}
          prices={prices}
          instrument={instrument}
          ringed={ringed === order.id}
          onRing={onRing}
          onCancel={onCancel}
          onMove={onMove}
        />
      ))}
      {here.length > 1 && (
        <button
          type="button"
          data-pin
          className="h-[20px] rounded-[2px] border border-line bg-pane px-1 text-[12px] leading-none"
          aria-label={`${here.length - 1} more orders at this price: show the next`}
          onClick={() => {
            onRing('');
            setTurned((before) => ({ ...before, [`${side} ${row}`]: (before[`${side} ${row}`] ?? 0) + 1 }));
          }}
        >
          +{here.length - 1}
        </button>
      )}
    </div>
  ));
}

function Pin(props: Omit<Props, 'orders' | 'ringed'> & { order: LiveOrder; row: number; ringed: boolean }) {
  const { order, row, prices, instrument, ringed, onRing, onCancel, onMove } = props;
  const [shift, setShift] = useState(0);
  const began = useRef<{ y: number; id: number } | null>(null);
  const kind = order.stopPrice !== null && order.triggeredAt === null ? ' stop' : '';
  const pending = order.state.startsWith('pending');
  usePutBack(() => {
    began.current = null;
    setShift(0);
  });
  const rows = Math.round(shift / ROW_PX);
  const to = prices[row + rows];
  return (
    <span
      data-pin={order.id}
      role="group"
      aria-label={order.sentence}
      title={order.ahead === null ? order.sentence : `${order.sentence} ${grouped(order.ahead)} ahead of it.`}
      className={`pin ${pending ? 'plate pending bg-pane' : 'plate brass'} ${ringed ? 'ring-2 ring-lamp' : ''} flex items-center pl-1 pr-0 touch-none select-none`}
      style={{ transform: shift === 0 ? undefined : `translateY(${rows * ROW_PX}px)`, zIndex: shift === 0 ? undefined : 30 }}
      onPointerDown={(event) => {
        if (event.button !== 0 || (event.target as HTMLElement).closest('button')) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        began.current = { y: event.clientY, id: event.pointerId };
        onRing(order.id);
      }}
      onPointerMove={(event) => began.current && setShift(laidOut(event.clientY - began.current.y))}
      onPointerUp={(event) => {
        const start = began.current;
        began.current = null;
        setShift(0);
        if (!start || Math.abs(event.clientY - start.y) < TRAVEL_PX || rows === 0 || to === undefined) return;
        onMove(order, to);
      }}
    >
      <span className="text-[12px] leading-[18px]">
        <Pennant side={order.side} short /> {grouped(order.remainingQuantity)}
        {kind}
        {order.ahead !== null && rows === 0 ? ` │ ${grouped(order.ahead)}` : ''}
        {rows !== 0 && to !== undefined ? ` ${formatPrice(instrument, to)}` : ''}
      </span>
      <button type="button" className="grid h-[24px] w-[24px] place-items-center" aria-label={`Cancel: ${order.sentence}`} onClick={() => onCancel(order)}>
        <X size={11} />
      </button>
    </span>
  );
}
