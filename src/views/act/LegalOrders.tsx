import { useEffect, useLayoutEffect, useRef } from 'react';
import { breakoutPair, openPair, openSlip, pairBounds } from '../../client/gestures/index.ts';
import { formatPrice, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { ghostAt, ghostRequest, type Ghost } from '../../core/orders/index.ts';
import { FLOAT, floatClosed } from '../../kit/floats.ts';
import { MENU_ITEM } from '../../kit/Menu.tsx';
import { laidOut } from '../../kit/scale.ts';
import { quoteOf } from '../../live/index.ts';
import { alertAt } from './alerts.ts';

/** Every order that is legal at a price, each opening the slip. */
export function LegalOrders(props: {
  at: { x: number; y: number; price: Price };
  instrument: Instrument;
  account: string;
  pane: string;
  quantity: Quantity;
  onDone: () => void;
}) {
  const { at, instrument, account, pane, quantity, onDone } = props;
  const first = useRef<HTMLButtonElement>(null);
  const box = useRef<HTMLDivElement>(null);
  // It stands whole within its pane, as near to where it was asked for as there is room.
  useLayoutEffect(() => {
    const menu = box.current;
    const around = menu?.closest('[data-pane]')?.getBoundingClientRect();
    if (!menu || !around) return;
    const { right, bottom } = menu.getBoundingClientRect();
    const [left, up] = [Math.min(0, around.right - right), Math.min(0, around.bottom - bottom)];
    menu.style.translate = `${laidOut(left)}px ${laidOut(up)}px`;
  }, []);
  useEffect(() => first.current?.focus(), []);
  const market = quoteOf(instrument.id);
  const found: Ghost[] = [];
  if (market)
    for (const side of ['buy', 'sell'] as const)
      for (const want of ['limit', 'stop'] as const) {
        const ghost = ghostAt({ instrument, side, price: at.price, quantity, market, want });
        if (ghost.ok) found.push(ghost.value);
      }
  const bounds = market ? pairBounds(instrument, at.price, market) : null;
  const pair = market && bounds ? breakoutPair({ account, instrument, quantity, market }, bounds) : null;
  return (
    <div
      ref={box}
      role="menu"
      aria-label="Legal orders here"
      className={`${FLOAT} absolute w-max max-w-[300px] p-1 text-left`}
      style={{ left: at.x, top: at.y }}
      onPointerDown={(event) => event.stopPropagation()}
      onPointerUp={(event) => event.stopPropagation()}
      onKeyDown={(event) => event.key === 'Escape' && onDone()}
      onBlur={(event) => {
        if (event.currentTarget.contains(event.relatedTarget)) return;
        floatClosed();
        onDone();
      }}
    >
      {found.map((ghost, i) => (
        <button
          key={ghost.words}
          ref={i === 0 ? first : undefined}
          type="button"
          role="menuitem"
          className={MENU_ITEM}
          onClick={() => {
            openSlip(pane, { account, ...ghostRequest(ghost, instrument) });
            onDone();
          }}
        >
          {ghost.words}
        </button>
      ))}
      {pair?.ok && bounds && (
        <button
          type="button"
          role="menuitem"
          className={MENU_ITEM}
          onClick={() => {
            openPair(pane, pair.value);
            onDone();
          }}
        >
          Breakout pair: buys from {formatPrice(instrument, bounds.high)}, sells from {formatPrice(instrument, bounds.low)}
        </button>
      )}
      {found.length === 0 && <p className="px-2">No order is legal at this price.</p>}
      <button
        ref={found.length === 0 ? first : undefined}
        type="button"
        role="menuitem"
        className={MENU_ITEM}
        onClick={() => {
          void alertAt(pane, instrument.id, formatPrice(instrument, at.price));
          onDone();
        }}
      >
        tell me when it reaches {formatPrice(instrument, at.price)}
      </button>
    </div>
  );
}
