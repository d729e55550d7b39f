import { NO_QUANTITY, asPrice, asQuantity, tickAt, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { BookSide } from './tape-row.ts';

export interface ConsolidatedLevel {
  readonly price: Price;
  readonly quantity: Quantity;
  /** Null where the venue does not say. */
  readonly orders: number | null;
  /** Running total from the best level. */
  readonly total: Quantity;
}

/**
 * Levels joined into rows of several ticks: bids are rounded down to the row's price, asks up.
 *
 * @param levels best first
 * @param ticks ticks to a row, by the tick of the band each price lies in
 */
export function consolidate(
  instrument: Instrument,
  side: BookSide,
  levels: Iterable<{ readonly price: Price; readonly quantity: Quantity; readonly orders: number | null }>,
  ticks: number,
): ConsolidatedLevel[] {
  const rows: ConsolidatedLevel[] = [];
  let total = NO_QUANTITY;
  for (const { price, quantity, orders } of levels) {
    total = asQuantity(total + quantity);
    const step = tickAt(instrument, price) * ticks;
    const at = asPrice((side === 'bid' ? Math.floor(price / step) : Math.ceil(price / step)) * step);
    const last = rows[rows.length - 1];
    if (last?.price === at) {
      const joined = last.orders === null || orders === null ? null : last.orders + orders;
      rows[rows.length - 1] = { price: at, quantity: asQuantity(last.quantity + quantity), orders: joined, total };
    } else rows.push({ price: at, quantity, orders, total });
  }
  return rows;
}
