import { useEffect, useRef } from 'react';
import { openSlip } from '../../client/gestures/index.ts';
import { formatPrice, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { ghostAt, ghostRequest, type Ghost } from '../../core/orders/index.ts';
import { FLOAT, floatClosed } from '../../kit/floats.ts';
import { MENU_ITEM } from '../../kit/Menu.tsx';
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
  useEffect(() => first.current?.focus(), []);
  const market = quoteOf(instrument.id);
  const found: Ghost[] = [];
  if (market)
    for (const side of ['buy', 'sell'] as const)
      for (const want of ['limit', 'stop'] as const) {
        const ghost = ghostAt({ instrument, side, price: at.price, quantity, market, want });
        if (ghost.ok) found.push(ghost.value);
      }
  return (
    <div
      role="menu"
      aria-label="Legal orders here"
      className={`${FLOAT} absolute p-1`}
      style={{ left: Math.max(0, Math.min(at.x, 60)), top: at.y }}
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
