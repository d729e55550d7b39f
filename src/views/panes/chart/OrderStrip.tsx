import { useStore } from '@nanostores/react';
import { useEffect, useRef, useState } from 'react';
import { placeIn } from '../../../kit/scale.ts';
import { useOrderArea } from '../../act/order-area.ts';
import { $directSend, $sizes, sizeOf } from '../../../client/session.ts';
import { NO_QUANTITY, type Price, parseQuantity } from '../../../core/instrument/index.ts';
import { quoteOf } from '../../../live/index.ts';
import { LegalOrders } from '../../act/LegalOrders.tsx';
import { readSettings } from '../../workspace/settings.ts';
import { CHART } from './settings.ts';
import { $panes } from '../../workspace/panes.ts';
import type { ChartController } from './controller.ts';
import { snap } from './model.ts';
import { AXIS_PX, STRIP_PX, TIME_PX } from './viewport.ts';

/** Two columns between plot and price axis from which orders are placed: what a press does crosses the plot in words. */
export function OrderStrip({ plot }: { plot: ChartController }) {
  const { model } = plot;
  const { pane: id, account, instrument } = plot.of;
  useStore($sizes);
  const direct = useStore($directSend).chart;
  const { farTicks } = readSettings(useStore($panes)[id], CHART);
  const size = sizeOf(account, instrument.id);
  const strip = useRef<HTMLDivElement>(null);
  const [aim, setAim] = useState<{ side: 'buy' | 'sell'; y: number } | null>(null);
  const [menu, setMenu] = useState<{ x: number; y: number; price: Price } | null>(null);
  const [, repaint] = useState(0);
  const area = useOrderArea<{ side: 'buy' | 'sell'; price: Price }>({
    pane: id,
    surface: 'chart',
    key: (at) => `${at.side} ${at.price}`,
    account: () => account,
    instrument: () => instrument.id,
    ask: (at) => {
      const market = quoteOf(instrument.id);
      return market ? { instrument, ...at, quantity: parseQuantity(instrument, size) ?? NO_QUANTITY, market, want: 'either' } : null;
    },
    farTicks: () => farTicks,
    changedAt: () => plot.movedAt,
    list: (at) => setMenu({ x: 0, y: model.view.y(at.price), price: at.price }),
  });
  useEffect(() => {
    if (!aim) return undefined;
    const timer = setInterval(() => repaint((n) => n + 1), 60);
    return () => clearInterval(timer);
  }, [aim]);
  // The scale stands still while an order could be pressed.
  useEffect(() => {
    model.view.frozen = aim !== null || menu !== null;
    plot.redraw();
    return () => {
      model.view.frozen = false;
    };
  }, [aim, menu, model, plot]);

  const price = aim ? snap(model, aim.y) : null;
  area.point(aim && price !== null ? { side: aim.side, price } : null);
  const { ghost, words, sends } = area.paint() ?? { ghost: null, words: '', sends: false };

  const place = (event: React.PointerEvent | React.MouseEvent): { side: 'buy' | 'sell'; y: number } | null => {
    if (!strip.current) return null;
    const { x, y: at } = placeIn(strip.current, event);
    return { side: x < STRIP_PX / 2 ? 'buy' : 'sell', y: at };
  };
  const y = price === null ? 0 : model.view.y(price);
  return (
    <>
      <div
        ref={strip}
        data-order-area
        className={`absolute top-0 flex select-none border-x ${direct === 'all' || sends ? 'border-solid' : 'border-dashed'} border-line`}
        style={{ right: AXIS_PX, width: STRIP_PX, bottom: TIME_PX + model.view.ownPx }}
        data-testid="order-strip"
        onPointerMove={(event) => setAim(place(event))}
        onPointerLeave={() => setAim(null)}
        onPointerDown={(event) => {
          event.stopPropagation();
          if (event.button !== 0 || area.aim === null) return;
          setMenu(null);
          area.down(area.aim, event.clientX, event.clientY);
        }}
        onPointerUp={(event) => {
          if (event.button === 0) area.up(area.aim, event.clientX, event.clientY);
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
            style={{ background: aim?.side === side ? `color-mix(in srgb, var(--${side === 'buy' ? 'weed' : 'copper'}) 14%, transparent)` : undefined }}
          >
            <span className={`block pt-[14px] text-[11px] leading-[14px] ${side === 'buy' ? 'text-weed' : 'text-copper'}`}>{side}</span>
          </div>
        ))}
        <GullWing />
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
      </div>
      {aim && price !== null && (
        <div className="pointer-events-none absolute left-0 z-20" style={{ top: y, right: AXIS_PX + STRIP_PX }} aria-hidden="true">
          <div
            className={`border-t ${ghost ? (aim.side === 'buy' ? 'border-weed' : 'border-copper') : 'border-line'} ${ghost && ghost.effect === 'fills now' ? 'border-solid' : 'border-dashed'}`}
          />
          <span
            data-testid="strip-words"
            className={`absolute right-1 top-[-11px] rounded-[2px] border bg-pane px-2 leading-[20px] ${ghost ? (aim.side === 'buy' ? 'border-weed' : 'border-copper') : 'border-line text-quiet'} ${sends ? '' : 'border-dashed'} ${ghost?.effect === 'fills now' ? 'font-bold' : ''}`}
          >
            {words}
          </span>
        </div>
      )}
    </>
  );
}

/** The line over the two columns: a wing for each side. */
function GullWing() {
  return (
    <svg
      className="pointer-events-none absolute left-0 top-[2px]"
      width={STRIP_PX}
      height="14"
      viewBox="0 0 44 14"
      fill="none"
      strokeWidth="1.3"
      aria-hidden="true"
    >
      <path d="M1 12C5 2 14 1 22 8" stroke="var(--weed)" />
      <path d="M22 8c8-7 17-6 21 4" stroke="var(--copper)" />
    </svg>
  );
}
