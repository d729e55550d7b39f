import type { Instrument } from '../core/instrument/index.ts';
import { formatScaled, parseScaled } from '../core/number/index.ts';

/** A leg that was gathered: signed contracts, and the price it would be done at. */
export interface SpreadLeg {
  readonly instrument: string;
  readonly quantity: number;
  readonly price: string;
}

/** Another press on the same side adds one contract, on the other side takes one away; a leg of none is gone. */
export function gathered(legs: readonly SpreadLeg[], instrument: string, side: 'buy' | 'sell', price: string): SpreadLeg[] {
  const by = side === 'buy' ? 1 : -1;
  const before = legs.find((leg) => leg.instrument === instrument);
  if (!before) return [...legs, { instrument, quantity: by, price }];
  const quantity = before.quantity + by;
  return quantity === 0 ? legs.filter((leg) => leg !== before) : legs.map((leg) => (leg === before ? { ...leg, quantity, price } : leg));
}

const SCALE = 8;

/** What the legs cost together, a unit of each: what comes in is negative. Exact. */
export function costOf(legs: readonly SpreadLeg[]): string {
  const sum = legs.reduce((total, { quantity, price }) => total + BigInt(quantity) * (parseScaled(price, SCALE) ?? 0n), 0n);
  return formatScaled(sum, SCALE, 2);
}

/** What legs come to at expiry, in money of one contract: null has no end. */
export interface SpreadEnds {
  readonly worst: string | null;
  readonly best: string | null;
  readonly breakEvens: readonly string[];
}

/** What legs can make and lose in money, and the best as a multiple of the worst: R is what is at risk. */
export function multiplesOf({ worst, best }: SpreadEnds): string {
  const [least, most] = [worst, best].map((value) => (value === null ? null : Number(value)));
  const risked = typeof least === 'number' && least < 0 ? -least : null;
  const inR = typeof most === 'number' && risked !== null ? `, ${(most / risked).toFixed(1)} R` : '';
  const money = (value: number | null | undefined): string => (typeof value === 'number' ? `${signedText(value)} EUR` : 'without end');
  return `at most ${money(most)}${inR}; at worst ${money(least)}`;
}

const signedText = (value: number): string => `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(2)}`;

/**
 * A spread as a sentence: what it buys and sells, what it costs, what it can make and lose, where it is even. All
 * sums are of one unit of the underlying, as the prices are.
 *
 * @param unit what one unit of price of a contract is in money
 */
export function spreadWords(legs: readonly SpreadLeg[], ends: SpreadEnds | null, unit: number, instrumentOf: (id: string) => Instrument | undefined): string {
  const named = legs.map(({ instrument, quantity }) => {
    const option = instrumentOf(instrument);
    const count = Math.abs(quantity) === 1 ? '' : `${Math.abs(quantity)} × `;
    const strike = option?.strike == null ? instrument : String(Number(option.strike) / 10 ** option.priceDecimals);
    return `${quantity > 0 ? 'buys' : 'sells'} ${count}${strike} ${option?.right ?? ''}`.trim();
  });
  const cost = costOf(legs);
  const price = cost.startsWith('-') ? `brings ${cost.slice(1)}` : `costs ${cost}`;
  if (!ends) return [...named, price].join(', ');
  const end = (words: string, value: string | null): string => (value === null ? `${words} without end` : `${words} ${signedText(Number(value) / unit)}`);
  const even = ends.breakEvens.length === 0 ? 'nowhere even' : `even at ${ends.breakEvens.map((at) => Number(at).toFixed(2)).join(' and ')}`;
  return [...named, price, end('at most', ends.best), end('at worst', ends.worst), even].join(', ');
}
