import { atom, listenKeys, onMount, type ReadableAtom } from 'nanostores';
import { hereLegs, type HereLeg } from '../../../client/exit-plans.ts';
import { waitsAt, waitsForStop } from '../../../client/gestures/index.ts';
import type { Instrument, Price } from '../../../core/instrument/index.ts';
import { $plans, $positions, $working, NO_ORDERS, positionKey, priceOf, type LiveOrder, type LivePosition } from '../../../live/index.ts';
import type { ChartLine } from './model.ts';

/** What is one's own in an account's instrument. */
export interface OwnHere {
  readonly orders: readonly LiveOrder[];
  /** Null where it is flat. */
  readonly position: (LivePosition & { readonly averagePrice: string }) | null;
  /** Exits that are held here. */
  readonly here: readonly HereLeg[];
}

const heldOnly = (position: LivePosition | undefined): OwnHere['position'] =>
  position && position.units.quantity !== 0 && position.averagePrice !== null ? { ...position, averagePrice: position.averagePrice } : null;

/** What is one's own in an account's instrument, followed as long as somebody asks. */
export function ownIn(account: string, instrument: string): ReadableAtom<OwnHere> {
  const key = positionKey(account, instrument);
  const orders = (): OwnHere['orders'] => $working.get()[key] ?? NO_ORDERS;
  const position = (): OwnHere['position'] => heldOnly($positions.get()[key]);
  const here = (): OwnHere['here'] => hereLegs(Object.values($plans.get()), account, instrument);
  const $own = atom<OwnHere>({ orders: orders(), position: position(), here: here() });
  onMount($own, () => {
    $own.set({ orders: orders(), position: position(), here: here() });
    const stops = [
      listenKeys($working, [key], () => $own.set({ ...$own.get(), orders: orders() })),
      listenKeys($positions, [key], () => $own.set({ ...$own.get(), position: position() })),
      $plans.listen(() => $own.set({ ...$own.get(), here: here() })),
    ];
    return () => stops.forEach((stop) => stop());
  });
  return $own;
}

/** The lines that one's own draws across a plot. */
export function linesOf({ orders, position, here }: OwnHere, instrument: Instrument): ChartLine[] {
  const line = (price: Price | null, isStop: boolean, pending = false): ChartLine[] =>
    price === null ? [] : [{ price, kind: isStop ? 'stop' : 'limit', pending }];
  return [
    ...orders.flatMap((order) => line(waitsAt(order), waitsForStop(order), order.state.startsWith('pending'))),
    ...here.flatMap(({ price, name }) => line(priceOf(instrument, price), name === 'stop')),
    ...(position ? [{ price: position.units.average ?? 0, kind: 'position' as const, pending: false }] : []),
  ];
}
