import type { Instrument } from '../core/instrument/index.ts';
import { formatScaled, parseScaled, signedFixed } from '../core/number/index.ts';

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

/** A leg's price as it would be closed: what was bought is sold to the bid, what was sold is bought at the ask. */
const closingSide = ({ quantity }: SpreadLeg): 'bid' | 'ask' => (quantity > 0 ? 'bid' : 'ask');

/**
 * What closing the legs would bring, a unit of each; what it would cost is negative. Exact.
 *
 * @param priceOf a contract's best price on a side as the server tells it, or null where there is none
 */
export function worthOf(legs: readonly SpreadLeg[], priceOf: (instrument: string, side: 'bid' | 'ask') => string | null): string | null {
  const prices = legs.map((leg) => priceOf(leg.instrument, closingSide(leg)));
  if (prices.includes(null)) return null;
  return costOf(legs.map((leg, i) => ({ ...leg, price: prices[i] ?? '' })));
}

/** At what worth of its legs a spread is left: with its target, with its stop, or with the one that comes first. Empty is none. */
export interface SpreadExit {
  readonly target: string;
  readonly stop: string;
}

/** Why a spread can't be left so; null where it can. */
export function exitProblem(legs: readonly SpreadLeg[], { target, stop }: SpreadExit): string | null {
  for (const text of [target, stop]) if (text !== '' && parseScaled(text, SCALE) === null) return `${text} is no price`;
  if (target === '' && stop === '') return 'write a worth to leave at';
  const [cost, most, least] = [costOf(legs), target, stop].map((text) => parseScaled(text, SCALE));
  if (typeof cost === 'bigint' && typeof most === 'bigint' && most <= cost) return `a target lies above what it costs, ${costOf(legs)}`;
  if (typeof cost === 'bigint' && typeof least === 'bigint' && least >= cost) return `a stop lies below what it costs, ${costOf(legs)}`;
  return null;
}

/** A spread's exit as the condition that each of its legs waits for: that something of it is held, and what all are worth. */
export function exitCondition(legs: readonly SpreadLeg[], { target, stop }: SpreadExit): string {
  const terms = legs.map((leg, i) => {
    const sign = leg.quantity > 0 ? (i === 0 ? '' : ' + ') : i === 0 ? '-' : ' - ';
    const times = Math.abs(leg.quantity) === 1 ? '' : `${Math.abs(leg.quantity)} x `;
    return `${sign}${times}${leg.instrument} ${closingSide(leg)}`;
  });
  const worth = terms.join('');
  const tests = [...(target === '' ? [] : [`${worth} >= ${target}`]), ...(stop === '' ? [] : [`${worth} <= ${stop}`])];
  return `held and ${tests.length === 1 ? tests.join('') : `(${tests.join(' or ')})`}`;
}

/** The order that a leg waits with: all of it that is held then leaves at the best price of the other side; options take no market orders. */
export const exitPhrase = (leg: SpreadLeg, account: string): string =>
  `${leg.quantity > 0 ? 'sell' : 'buy'} position ${leg.instrument} at ${closingSide(leg)}, account ${account}`;

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
  const money = (value: number | null | undefined): string => (typeof value === 'number' ? `${signedFixed(value)} EUR` : 'without end');
  return `at most ${money(most)}${inR}; at worst ${money(least)}`;
}

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
  const end = (words: string, value: string | null): string => (value === null ? `${words} without end` : `${words} ${signedFixed(Number(value) / unit)}`);
  const even = ends.breakEvens.length === 0 ? 'nowhere even' : `even at ${ends.breakEvens.map((at) => Number(at).toFixed(2)).join(' and ')}`;
  return [...named, price, end('at most', ends.best), end('at worst', ends.worst), even].join(', ');
}
