import { useEffect, useRef, useState, type PointerEvent, type ReactNode } from 'react';
import { NO_QUANTITY, parseQuantity } from '../../core/instrument/index.ts';
import { ghostAt, type Ghost, type GhostAsk } from '../../core/orders/index.ts';
import { instrumentOf, priceOf, quoteOf } from '../../live/index.ts';
import { $sizes, canTrade, sizeOf } from '../workspace/panes.ts';
import { quotesFresh } from './lamps.ts';
import { TRAVEL_PX } from './guard.ts';
import { pressOrder } from './press.ts';

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

/**
 * The press targets of a table. While the pointer rests in a cell the words below say what a press sends;
 * a press sends just that, or says why not.
 */
export function OrderCells(props: {
  pane: string;
  accountOf: (instrument: string) => string;
  farTicks?: number;
  className?: string;
  children: ReactNode;
  onHover?: (over: boolean) => void;
}) {
  const { pane, accountOf, farTicks = 5, onHover } = props;
  const [aim, setAim] = useState<Aim | null>(null);
  const [, repaint] = useState(0);
  const movedAt = useRef(0);
  const painted = useRef<Ghost | null>(null);
  const pressed = useRef<{ ghost: Ghost | null; aim: Aim; x: number; y: number } | null>(null);
  useEffect(() => {
    if (!aim) return undefined;
    const stop = $sizes.listen(() => repaint((n) => n + 1));
    const timer = setInterval(() => {
      // The cell may show another price by now: then the ghost is of that price, and what was aimed at is gone.
      const now = aim.cell.dataset['price'];
      if (now !== aim.price) {
        movedAt.current = performance.now();
        setAim(now ? { ...aim, price: now } : null);
      } else repaint((n) => n + 1);
    }, 60);
    return () => {
      clearInterval(timer);
      stop();
    };
  }, [aim]);
  const ask = aim ? askOf(aim) : null;
  const tradable = aim ? canTrade(aim.account, aim.instrument) : false;
  const ghost = ask && tradable && quotesFresh() ? ghostAt(ask) : null;
  painted.current = ghost?.ok ? ghost.value : null;
  const words = !aim
    ? ''
    : !tradable
      ? `${aim.account} can’t trade ${aim.instrument}`
      : ghost === null
        ? 'the price is old: nothing can be sent'
        : ghost.ok
          ? ghost.value.words
          : ghost.refusal;
  return (
    <div
      className={`relative ${props.className ?? ''}`}
      onPointerEnter={() => onHover?.(true)}
      onPointerLeave={() => {
        setAim(null);
        onHover?.(false);
      }}
      onPointerMove={(event: PointerEvent) => {
        const next = aimOf(event.target, accountOf);
        setAim((before) => (before?.cell === next?.cell && before?.price === next?.price ? before : next));
      }}
      onPointerDown={(event) => {
        const at = aimOf(event.target, accountOf);
        if (event.button === 0 && at) pressed.current = { ghost: aim?.cell === at.cell ? painted.current : null, aim: at, x: event.clientX, y: event.clientY };
      }}
      onPointerUp={(event) => {
        const began = pressed.current;
        pressed.current = null;
        const at = aimOf(event.target, accountOf);
        if (event.button !== 0 || !began || at?.cell !== began.aim.cell || Math.hypot(event.clientX - began.x, event.clientY - began.y) >= TRAVEL_PX) return;
        const now = askOf(began.aim);
        if (now) pressOrder({ pane, surface: 'tables', account: began.aim.account, movedAt: movedAt.current, painted: began.ghost, ask: now, farTicks });
      }}
    >
      {props.children}
      <p className="ladder-words" aria-live="off" data-testid="cell-words">
        {words}
      </p>
    </div>
  );
}
