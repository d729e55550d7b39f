import { useStore } from '@nanostores/react';
import { useCallback, useEffect, useRef, useState, type RefObject } from 'react';
import { NO_QUANTITY, type Price, parseQuantity, type Instrument } from '../../core/instrument/index.ts';
import { ghostAt, type Ghost, type GhostAsk } from '../../core/orders/index.ts';
import { SidePlate } from '../../kit/Instrument.tsx';
import { quoteOf } from '../../live/index.ts';
import { TRAVEL_PX } from '../act/guard.ts';
import { quotesFresh } from '../act/lamps.ts';
import { pressOrder } from '../act/press.ts';
import { LegalOrders } from '../ladder/LegalOrders.tsx';
import { setting } from '../workspace/pane-settings.ts';
import { $directSend, $panes, $sizes, canTrade, sizeOf, type Target } from '../workspace/panes.ts';
import { snap, type ChartModel } from './model.ts';
import { AXIS_PX, TIME_PX } from './viewport.ts';

export const STRIP_PX = 44;

interface Props {
  readonly id: string;
  readonly target: Target;
  readonly instrument: Instrument;
  readonly model: ChartModel;
  readonly movedAt: RefObject<number>;
  readonly redraw: () => void;
}

/** Two columns between plot and price axis from which orders are placed: what a press does crosses the plot in words. */
export function OrderStrip({ id, target, instrument, model, movedAt, redraw }: Props) {
  useStore($sizes);
  const direct = useStore($directSend).chart;
  const farTicks = setting<number>(useStore($panes)[id], 'farTicks');
  const size = sizeOf(target.account, instrument.id);
  const strip = useRef<HTMLDivElement>(null);
  const [aim, setAim] = useState<{ side: 'buy' | 'sell'; y: number } | null>(null);
  const [menu, setMenu] = useState<{ x: number; y: number; price: Price } | null>(null);
  const painted = useRef<Ghost | null>(null);
  const pressed = useRef<{ ghost: Ghost | null; side: 'buy' | 'sell'; x: number; y: number; price: Price } | null>(null);
  const [, repaint] = useState(0);

  const askAt = useCallback(
    (side: 'buy' | 'sell', price: Price): GhostAsk | null => {
      const market = quoteOf(instrument.id);
      return market ? { instrument, side, price, quantity: parseQuantity(instrument, size) ?? NO_QUANTITY, market, want: 'either' } : null;
    },
    [instrument, size],
  );
  useEffect(() => {
    if (!aim) return undefined;
    const timer = setInterval(() => repaint((n) => n + 1), 60);
    return () => clearInterval(timer);
  }, [aim]);
  // The scale stands still while an order could be pressed.
  useEffect(() => {
    model.view.frozen = aim !== null || menu !== null;
    redraw();
    return () => {
      model.view.frozen = false;
    };
  }, [aim, menu, model, redraw]);

  const price = aim ? snap(model, aim.y) : null;
  const ask = aim && price !== null ? askAt(aim.side, price) : null;
  const tradable = canTrade(target.account, instrument.id);
  const ghost = ask && tradable && quotesFresh() ? ghostAt(ask) : null;
  painted.current = ghost?.ok ? ghost.value : null;
  const words =
    ghost === null ? (tradable ? 'the price is old: nothing can be sent' : `${target.account} can’t trade it`) : ghost.ok ? ghost.value.words : ghost.refusal;

  const place = (event: React.PointerEvent | React.MouseEvent): { side: 'buy' | 'sell'; y: number } | null => {
    const at = strip.current?.getBoundingClientRect();
    if (!at) return null;
    return { side: event.clientX - at.left < STRIP_PX / 2 ? 'buy' : 'sell', y: event.clientY - at.top };
  };
  const y = price === null ? 0 : model.view.y(price);
  return (
    <>
      <div
        ref={strip}
        className={`absolute top-0 flex select-none border-x ${direct === 'all' ? 'border-solid' : 'border-dashed'} border-line`}
        style={{ right: AXIS_PX, width: STRIP_PX, bottom: TIME_PX + model.view.ownPx }}
        data-testid="order-strip"
        onPointerMove={(event) => setAim(place(event))}
        onPointerLeave={() => setAim(null)}
        onPointerDown={(event) => {
          event.stopPropagation();
          if (event.button !== 0 || !aim || price === null) return;
          setMenu(null);
          pressed.current = { ghost: painted.current, side: aim.side, x: event.clientX, y: event.clientY, price };
        }}
        onPointerUp={(event) => {
          const began = pressed.current;
          pressed.current = null;
          if (event.button !== 0 || !began || !aim || price === null) return;
          const now = askAt(aim.side, price);
          if (!now || began.side !== aim.side || began.price !== price || Math.hypot(event.clientX - began.x, event.clientY - began.y) >= TRAVEL_PX) return;
          pressOrder({ pane: id, surface: 'chart', account: target.account, movedAt: movedAt.current, painted: began.ghost, ask: now, farTicks });
        }}
        onContextMenu={(event) => {
          event.preventDefault();
          const at = place(event);
          if (at) setMenu({ x: 0, y: at.y, price: snap(model, at.y) });
        }}
      >
        {(['buy', 'sell'] as const).map((side) => (
          <div
            key={side}
            className="h-full flex-1 pt-1 text-center"
            style={{ background: aim?.side === side ? `color-mix(in srgb, var(--${side === 'buy' ? 'teal' : 'copper'}) 14%, transparent)` : undefined }}
          >
            <SidePlate side={side} />
          </div>
        ))}
        {menu && (
          <LegalOrders
            at={menu}
            instrument={instrument}
            account={target.account}
            pane={id}
            quantity={parseQuantity(instrument, size) ?? NO_QUANTITY}
            onDone={() => setMenu(null)}
          />
        )}
      </div>
      {aim && price !== null && (
        <div className="pointer-events-none absolute left-0 z-20" style={{ top: y, right: AXIS_PX + STRIP_PX }} aria-hidden="true">
          <div
            className={`border-t ${ghost?.ok ? (aim.side === 'buy' ? 'border-teal' : 'border-copper') : 'border-line'} ${ghost?.ok && ghost.value.effect === 'fills now' ? 'border-solid' : 'border-dashed'}`}
          />
          <span
            data-testid="strip-words"
            className={`absolute right-1 top-[-11px] rounded-[2px] border bg-pane px-2 leading-[20px] ${ghost?.ok ? (aim.side === 'buy' ? 'border-teal' : 'border-copper') : 'border-line quiet'} ${ghost?.ok && ghost.value.effect === 'fills now' ? '' : 'border-dashed'}`}
          >
            {words}
          </span>
        </div>
      )}
    </>
  );
}
