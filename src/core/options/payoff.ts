import { intrinsic, valueOption, type Right } from './value.ts';

/** A leg of a position in one underlying: an option, or the underlying itself. */
export interface PayoffLeg {
  /** Signed; `unit` is the money of one whole price unit for one. */
  readonly quantity: number;
  readonly unit: number;
  readonly price: number;
  readonly option: { readonly right: Right; readonly strike: number; readonly expiresAt: number; readonly volatility: number | null } | null;
}

export interface Payoff {
  readonly points: readonly { readonly spot: number; readonly atExpiry: number; readonly atDate: number | null }[];
  readonly breakEvens: readonly number[];
  readonly worst: number | null;
  readonly best: number | null;
}

const POINTS = 61;
const FURTHEST = 0.3;
const MS_A_YEAR = 31_536_000_000;

const atExpiry = (legs: readonly PayoffLeg[], spot: number): number =>
  legs.reduce((sum, { quantity, unit, price, option }) => sum + quantity * unit * ((option ? intrinsic({ ...option, spot }) : spot) - price), 0);

/**
 * What legs make at expiry and as of a time, from −30 to +30 % of the spot; break-evens, worst and best over all
 * prices from 0 up, at expiry. No fees. Worst and best are null where there is no end.
 */
export function payoffOf(legs: readonly PayoffLeg[], spot: number, at: number, rate: number, dividendYield: number): Payoff {
  const asOf = (price: number): number | null => {
    let sum = 0;
    for (const { quantity, unit, price: paid, option } of legs) {
      let value = price;
      if (option) {
        const years = (option.expiresAt - at) / MS_A_YEAR;
        if (years > 0 && option.volatility === null) return null;
        value = valueOption({ right: option.right, strike: option.strike, spot: price, years, rate, dividendYield }, option.volatility ?? 0).price;
      }
      sum += quantity * unit * (value - paid);
    }
    return sum;
  };
  const points = Array.from({ length: POINTS }, (_, k) => {
    const price = spot * (1 - FURTHEST + (2 * FURTHEST * k) / (POINTS - 1));
    return { spot: price, atExpiry: atExpiry(legs, price), atDate: asOf(price) };
  });
  return { points, ...ends(legs) };
}

/** The picture at expiry is straight between the strikes: its ends and zeros follow from them. */
function ends(legs: readonly PayoffLeg[]): Omit<Payoff, 'points'> {
  const kinks = [...new Set([0, ...legs.flatMap(({ option }) => option?.strike ?? [])])].sort((a, b) => a - b);
  const values = kinks.map((price) => atExpiry(legs, price));
  const last = kinks[kinks.length - 1] ?? 0;
  const lastValue = values[values.length - 1] ?? 0;
  const slope = atExpiry(legs, last + 1) - lastValue;
  const small = 1e-9 * Math.max(1, ...values.map(Math.abs));
  const breakEvens: number[] = [];
  const zero = (from: number, a: number, to: number, b: number): void => {
    if (Math.abs(a) <= small) breakEvens.push(from);
    else if (Math.abs(b) > small && a < 0 !== b < 0) breakEvens.push(from + ((to - from) * a) / (a - b));
  };
  for (let i = 1; i < kinks.length; i++) zero(kinks[i - 1] ?? 0, values[i - 1] ?? 0, kinks[i] ?? 0, values[i] ?? 0);
  if (Math.abs(lastValue) <= small) breakEvens.push(last);
  else if (Math.abs(slope) > small && lastValue < 0 !== slope < 0) breakEvens.push(last - lastValue / slope);
  return {
    breakEvens: [...new Set(breakEvens)].filter((price) => price > 0 || legs.every(({ option }) => option !== null)),
    worst: slope < -small ? null : Math.min(...values),
    best: slope > small ? null : Math.max(...values),
  };
}
