import { asPrice, addTicks, gridFloor, tickAt, type Instrument, type Price } from '../../../core/instrument/index.ts';

export const ROW_PX = 24;
/** The column of results at the right. */
export const RESULT_PX = 40;
/** The line below the rows that says what a press does. */
export const WORDS_PX = 20;

/** The prices of a ladder's rows, highest first, with `centre` in the middle; rows of several ticks stand on their multiples. */
export function rowPrices(instrument: Instrument, centre: Price, rows: number, group: number): Price[] {
  const middle = Math.floor(rows / 2);
  if (group === 1) {
    const prices: Price[] = [];
    let price = addTicks(instrument, gridFloor(instrument, centre), middle);
    for (let i = 0; i < rows; i++) {
      prices.push(price);
      price = price > 0 ? addTicks(instrument, price, -1) : price;
    }
    return prices;
  }
  const step = tickAt(instrument, centre) * group;
  const base = Math.floor(centre / step) * step;
  return Array.from({ length: rows }, (_, i) => asPrice(base + (middle - i) * step));
}

/** The row a price belongs to: bids round down, asks up; -1 beyond the rows in view. */
export function rowOf(prices: readonly Price[], price: Price, side: 'bid' | 'ask'): number {
  const last = prices.length - 1;
  const top = prices[0] ?? 0;
  const bottom = prices[last] ?? 0;
  const step = top - (prices[1] ?? top);
  if (side === 'bid') return price >= top + step ? -1 : prices.findIndex((row) => row <= price);
  if (price <= bottom - ((prices[last - 1] ?? bottom) - bottom)) return -1;
  for (let i = last; i >= 0; i--) if ((prices[i] ?? 0) >= price) return i;
  return -1;
}

/** What a position makes at a price, short enough for its column: whole money, thousands from 10,000 on, then millions. */
export function makesText(makes: number | null): string {
  if (makes === null) return '';
  const whole = Math.abs(Math.round(makes));
  const sign = whole === 0 ? '' : makes < 0 ? '−' : '+';
  if (whole < 1e4) return `${sign}${whole}`;
  if (whole < 999_500) return `${sign}${(whole / 1000).toFixed(whole < 99_950 ? 1 : 0)}k`;
  return `${sign}${(whole / 1e6).toFixed(1)}M`;
}
