import { sumOf } from '../core/number/index.ts';
import { addTicks, asPrice, isInverse, type Instrument } from '../core/instrument/index.ts';
import type { ApiPosition } from '../live/index.ts';

type Held = Pick<ApiPosition, 'quantity' | 'averagePrice' | 'mark'>;

/** A figure as a multiple of what was risked first, with one decimal; null where no stop has worked for the position. */
export function inR(money: string, firstRisk: string | null): string | null {
  const risk = firstRisk === null ? 0 : Number(firstRisk);
  // Half a tenth below nothing is nothing, not less than it.
  return risk > 0 ? (Number(money) / risk).toFixed(1).replace(/^-0\.0$/, '0.0') : null;
}

/** The open result in percent of what the position cost; null while it is flat. */
export function openPercent({ averagePrice, mark, quantity }: Held, instrument: Instrument): string | null {
  if (quantity === '0' || averagePrice === null || mark === null) return null;
  const [average, now] = [Number(averagePrice), Number(mark)];
  return ((isInverse(instrument) ? 1 - average / now : now / average - 1) * Math.sign(Number(quantity)) * 100).toFixed(2);
}

/** How many ticks the mark stands from the average, up for what gains, with one decimal; of the band at the mark. */
export function openTicks({ averagePrice, mark, quantity }: Held, instrument: Instrument): string | null {
  if (quantity === '0' || averagePrice === null || mark === null) return null;
  const scale = 10 ** instrument.priceDecimals;
  const at = asPrice(Math.max(1, Math.round(Number(mark) * scale)));
  const tick = addTicks(instrument, at, 1) - at;
  return (((Number(mark) - Number(averagePrice)) * scale * Math.sign(Number(quantity))) / tick).toFixed(1);
}

/** How many decimals a sum of a currency is told with where room is short. */
export const moneyPlaces = (currency: string): number => (currency === 'EUR' ? 2 : 4);

/** Sums of money by currency, exact, EUR first. */
export function sumsByCurrency(
  amounts: Iterable<{ readonly currency: string; readonly amount: string }>,
): readonly (readonly [currency: string, sum: string])[] {
  const by = new Map<string, string[]>();
  for (const { currency, amount } of amounts) {
    const known = by.get(currency);
    if (known) known.push(amount);
    else by.set(currency, [amount]);
  }
  return [...by].sort(([a], [b]) => Number(b === 'EUR') - Number(a === 'EUR') || (a < b ? -1 : 1)).map(([currency, all]) => [currency, sumOf(all)]);
}

/** An amount with the other sign. */
export const negated = (amount: string): string => (amount.startsWith('-') ? amount.slice(1) : Number(amount) === 0 ? amount : `-${amount}`);
