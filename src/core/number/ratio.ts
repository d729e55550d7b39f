import { divideHalfEven, formatScaled, parseScaled, powerOfTen } from './decimal.ts';

/** An exact fraction; the denominator is positive. For what is worked out before it is taken to a grid. */
export interface Ratio {
  readonly n: bigint;
  readonly d: bigint;
}

/** @throws RangeError where the denominator is zero */
export function ratio(n: bigint, d = 1n): Ratio {
  if (d === 0n) throw new RangeError('division by zero');
  return d < 0n ? { n: -n, d: -d } : { n, d };
}

/** A decimal string, exact; what is none counts as 0. */
export function ratioOf(text: string): Ratio {
  const point = text.indexOf('.');
  const decimals = point < 0 ? 0 : text.length - point - 1;
  return ratio(parseScaled(text, decimals) ?? 0n, powerOfTen(decimals));
}

export const addRatio = (a: Ratio, b: Ratio): Ratio => ratio(a.n * b.d + b.n * a.d, a.d * b.d);
export const subtractRatio = (a: Ratio, b: Ratio): Ratio => ratio(a.n * b.d - b.n * a.d, a.d * b.d);
export const multiplyRatio = (a: Ratio, b: Ratio): Ratio => ratio(a.n * b.n, a.d * b.d);
export const divideRatio = (a: Ratio, b: Ratio): Ratio => ratio(a.n * b.d, a.d * b.n);
export const compareRatio = (a: Ratio, b: Ratio): number => Number(a.n * b.d > b.n * a.d) - Number(a.n * b.d < b.n * a.d);

/** The greatest integer at or below it. */
export const floorRatio = ({ n, d }: Ratio): bigint => (n >= 0n ? n / d : -((-n + d - 1n) / d));
/** The least integer at or above it. */
export const ceilRatio = ({ n, d }: Ratio): bigint => (n >= 0n ? (n + d - 1n) / d : -(-n / d));
export const isWhole = ({ n, d }: Ratio): boolean => n % d === 0n;

/** As decimal text with at most so many places, a half going to the even; without zeros at the end. */
export const formatRatio = ({ n, d }: Ratio, decimals = 8): string => formatScaled(divideHalfEven(n * powerOfTen(decimals), d), decimals, 0);
