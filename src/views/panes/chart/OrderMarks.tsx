import { X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { laidOut } from '../../../kit/scale.ts';
import { TRAVEL_PX, moveOrder, orderMovedTo, waitsForStop, act } from '../../../client/gestures/index.ts';
import { formatPrice, type Instrument, type Price } from '../../../core/instrument/index.ts';
import { grouped, resultClass, shortened, signed } from '../../../kit/Figure.tsx';
import { Pennant } from '../../../kit/Instrument.tsx';
import { priceOf, type ApiOrder, type ApiPosition } from '../../../live/index.ts';
import { snap, type ChartModel } from './model.ts';
import { AXIS_PX } from './viewport.ts';

interface Props {
  readonly id: string;
  readonly orders: readonly ApiOrder[];
  readonly position: ApiPosition | undefined;
  readonly instrument: Instrument;
  readonly model: ChartModel;
  readonly draggable: boolean;
  /** Room that the order strip takes at the right of the plot. */
  readonly stripPx: number;
  /** Hands over what puts the marks to their prices after each drawing. */
  readonly onPlace: (place: () => void) => void;
  readonly redraw: () => void;
}

/** Hook tags at the ends of the order lines, and the position's own mark. */
export function OrderMarks({ id, orders, position, instrument, model, draggable, stripPx, onPlace, redraw }: Props) {
  const layer = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const place = (): void => {
      for (const mark of layer.current?.querySelectorAll<HTMLElement>('[data-at]') ?? []) {
        const y = model.view.y(Number(mark.dataset['at']));
        mark.style.transform = `translateY(${Math.round(y) - 10}px)`;
        if (mark.dataset['order']) mark.classList.toggle('short', coversNewest(model, y, Number(mark.dataset['width'] ?? 0)));
        mark.style.visibility = y < 6 || y > model.view.plotHeight - 6 ? 'hidden' : 'visible';
      }
    };
    onPlace(place);
    redraw();
    return () => onPlace(() => undefined);
  }, [model, onPlace, redraw, orders, position]);
  const held = position && position.quantity !== '0' && position.averagePrice !== null ? position : null;
  const average = held ? Number(held.averagePrice) * 10 ** instrument.priceDecimals : 0;
  return (
    <div ref={layer} className="pointer-events-none absolute inset-0 overflow-hidden" style={{ right: AXIS_PX + stripPx }}>
      {held && (
        <span data-at={average} className="absolute left-1 top-0 rounded-[2px] border border-line bg-pane px-2 leading-[18px]" data-testid="position-mark">
          {Number(held.quantity) > 0 ? 'long' : 'short'} {grouped(held.quantity.replace('-', ''))} at{' '}
          {shortened(held.averagePrice ?? '', instrument.priceDecimals + 1)} · <b className={resultClass(held.unrealised)}>{signed(held.unrealised)}</b>
        </span>
      )}
      {orders.map((order) => (
        <HookTag key={order.id} id={id} order={order} instrument={instrument} model={model} draggable={draggable} redraw={redraw} />
      ))}
    </div>
  );
}

/** Whether a tag at a height, so wide, would lie over the newest bars. */
function coversNewest(model: ChartModel, y: number, width: number): boolean {
  const { view, series } = model;
  const { first, last } = view.range(series);
  for (let i = last; i >= Math.max(first, last - 12); i--) {
    if (view.x(series, i) < view.plotWidth - width) return false;
    if (view.y(series.high[i] ?? 0) - 10 <= y && y <= view.y(series.low[i] ?? 0) + 10) return true;
  }
  return false;
}

/** About how wide a tag is that says all. */
const TAG_PX = 150;

function HookTag({
  id,
  order,
  instrument,
  model,
  draggable,
  redraw,
}: {
  id: string;
  order: ApiOrder;
  instrument: Instrument;
  model: ChartModel;
  draggable: boolean;
  redraw: () => void;
}) {
  const stop = waitsForStop(order);
  const price = priceOf(instrument, stop ? order.stopPrice : order.limitPrice);
  const [to, setTo] = useState<Price | null>(null);
  const began = useRef<{ y: number; top: number } | null>(null);
  useEffect(() => {
    const back = (): void => {
      began.current = null;
      setTo(null);
      model.view.frozen = false;
    };
    const onKey = (event: KeyboardEvent): void => {
      if (event.key === 'Escape') back();
    };
    window.addEventListener('blur', back);
    window.addEventListener('keydown', onKey);
    return () => {
      window.removeEventListener('blur', back);
      window.removeEventListener('keydown', onKey);
    };
  }, [model]);
  if (price === null) return null;
  const shown = to ?? price;
  const ghost = to === null ? null : orderMovedTo(order, to, instrument);
  const pending = order.state.startsWith('pending');
  return (
    <span
      data-at={shown}
      data-order={order.id}
      data-width={TAG_PX}
      tabIndex={-1}
      role="group"
      aria-label={order.sentence}
      title={order.sentence}
      className={`hook pointer-events-auto absolute right-0 top-0 flex items-center pl-3 ${pending || to !== null ? 'hollow' : ''} ${ghost && !ghost.ok ? 'broken' : ''} ${draggable ? 'cursor-ns-resize touch-none' : ''}`}
      onPointerDown={(event) => {
        event.stopPropagation();
        if (!draggable || event.button !== 0 || (event.target as HTMLElement).closest('button')) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        began.current = { y: event.clientY, top: model.view.y(price) };
        model.view.frozen = true;
      }}
      onPointerMove={(event) => {
        const start = began.current;
        if (!start || Math.abs(event.clientY - start.y) < TRAVEL_PX) return;
        setTo(snap(model, start.top + laidOut(event.clientY - start.y)));
        redraw();
      }}
      onPointerUp={() => {
        const start = began.current;
        began.current = null;
        model.view.frozen = false;
        setTo(null);
        if (!start || to === null || to === price) return;
        moveOrder(id, 'chart', order, to, instrument);
      }}
    >
      <Pennant side={order.side} short />
      &nbsp;{grouped(order.remainingQuantity)} {stop ? 'stop' : 'limit'}
      <span className="rest">
        &nbsp;{formatPrice(instrument, shown)}
        {ghost && !ghost.ok ? ' · not legal' : ''}
      </span>
      <button
        type="button"
        className="grid h-[20px] w-[24px] place-items-center"
        aria-label={`Cancel: ${order.sentence}`}
        onClick={() => act(id, 'chart', { kind: 'cancel', order })}
      >
        <X size={11} />
      </button>
    </span>
  );
}
