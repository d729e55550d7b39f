import { useEffect, useState, type PointerEvent, type ReactNode } from 'react';
import { WORDS_LINE } from './words-line.ts';
import { $sizes, sizeOf } from '../../client/session.ts';
import { NO_QUANTITY, parseQuantity } from '../../core/instrument/index.ts';
import type { GhostAsk } from '../../core/orders/index.ts';
import { instrumentOf, priceOf, quoteOf } from '../../live/index.ts';
import { useOrderArea } from './order-area.ts';

interface Aim {
  readonly cell: HTMLElement;
  readonly instrument: string;
  readonly account: string;
  readonly side: 'buy' | 'sell';
  readonly price: string;
  readonly quantity: string;
}

/** Marks a cell as an order area: a press there rests an order of its side at its price. */
export const orderCell = (side: 'buy' | 'sell'): Record<string, string> => ({ 'data-order-side': side });

/** Reads what a cell would order: its side, the exact price it shows, its instrument, the size. */
function aimOf(target: EventTarget, account: (instrument: string) => string): Aim | null {
  const cell = (target as HTMLElement).closest<HTMLElement>('[data-order-side]');
  const instrument = cell?.closest<HTMLElement>('[data-instrument]')?.dataset['instrument'];
  const price = cell?.dataset['price'];
  if (!cell || !instrument || !price) return null;
  const owner = account(instrument);
  const side = cell.dataset['orderSide'] === 'buy' ? 'buy' : 'sell';
  return { cell, instrument, account: owner, side, price, quantity: sizeOf(owner, instrument) };
}

function askOf({ instrument, side, price, quantity }: Aim): GhostAsk | null {
  const spec = instrumentOf(instrument);
  const market = quoteOf(instrument);
  const at = spec ? priceOf(spec, price) : null;
  return spec && market && at !== null
    ? { instrument: spec, side, price: at, quantity: parseQuantity(spec, quantity) ?? NO_QUANTITY, market, want: 'limit' }
    : null;
}

const REPAINT_MS = 60;

/**
 * The press targets of a table. While the pointer rests in a cell the words below say what a press sends;
 * a press sends just that, or says why not.
 */
export function OrderCells(props: {
  pane: string;
  accountOf: (instrument: string) => string;
  farTicks?: number;
  /** Each row is its own instrument: that another one is shown by the pane changes nothing under the pointer. */
  rowsOfTheirOwn?: true;
  className?: string;
  children: ReactNode;
  onHover?: (over: boolean) => void;
}) {
  const { pane, accountOf, farTicks = 5, onHover } = props;
  const [, repaint] = useState(0);
  const area = useOrderArea<Aim>({
    pane,
    surface: 'tables',
    key: ({ instrument, side, price }) => `${instrument} ${side} ${price}`,
    account: ({ account }) => account,
    instrument: ({ instrument }) => instrument,
    ask: askOf,
    farTicks: () => farTicks,
    ...(props.rowsOfTheirOwn ? { changedAt: () => -Infinity } : {}),
  });
  const { aim } = area;
  const aims = aim !== null;
  useEffect(() => {
    if (!aims) return undefined;
    const again = (): void => repaint((n) => n + 1);
    const stop = $sizes.listen(again);
    const timer = setInterval(() => {
      // The cell may show another price by now: then the ghost is of that price, and what was aimed at is gone.
      const at = area.aim;
      const price = at?.cell.dataset['price'];
      if (at && price !== at.price) {
        area.moved();
        area.point(price ? { ...at, price } : null);
      }
      again();
    }, REPAINT_MS);
    return () => {
      clearInterval(timer);
      stop();
    };
  }, [aims, area]);
  const words = area.paint()?.words ?? '';
  return (
    <div
      data-order-area
      className={`relative ${props.className ?? ''}`}
      onPointerEnter={() => onHover?.(true)}
      onPointerLeave={() => {
        if (area.point(null)) repaint((n) => n + 1);
        onHover?.(false);
      }}
      onPointerMove={(event: PointerEvent) => area.point(aimOf(event.target, accountOf)) && repaint((n) => n + 1)}
      onPointerDown={(event) => {
        const at = aimOf(event.target, accountOf);
        if (event.button === 0 && at) area.down(at, event.clientX, event.clientY);
      }}
      onPointerUp={(event) => {
        const at = aimOf(event.target, accountOf);
        if (event.button !== 0) return;
        if (at) area.up(at, event.clientX, event.clientY);
        else area.drop();
      }}
    >
      {props.children}
      <p className={WORDS_LINE} aria-live="off" data-testid="cell-words">
        {words}
      </p>
    </div>
  );
}
