import { signedFixed } from '../core/number/index.ts';

/** Of a round trip what a setup is judged by. */
export interface JudgedTrip {
  readonly netEur: string;
  readonly r: string | null;
}

/** How a setup has done lately. */
export interface LatelyDone {
  readonly count: number;
  readonly won: number;
  /** Mean of the multiples of what was risked first, of those that have one; null without any. */
  readonly meanR: number | null;
  /** Each one's result in R, or its sign alone where it had no stop; oldest first. */
  readonly marks: readonly { readonly net: number; readonly r: number | null }[];
}

/** So many round trips say how a setup does. */
export const LATELY = 20;

/** @param trips by the time they closed, oldest first */
export function lately(trips: readonly JudgedTrip[]): LatelyDone {
  const marks = trips.slice(-LATELY).map(({ netEur, r }) => ({ net: Number(netEur), r: r === null ? null : Number(r) }));
  const rs = marks.flatMap(({ r }) => r ?? []);
  return {
    count: marks.length,
    won: marks.filter(({ net }) => net > 0).length,
    meanR: rs.length === 0 ? null : rs.reduce((sum, r) => sum + r, 0) / rs.length,
    marks,
  };
}

/** The last of a setup in one line. */
export const latelyWords = (setup: string, { count, won, meanR }: LatelyDone): string =>
  `${setup}, the last ${count}: ${won} won${meanR === null ? ', none with a stop' : `, ${signedFixed(meanR)} R on average`}`;

/** Half a quantity on the step of its instrument, at least one step; null where there is nothing to halve. */
export function halfOf(quantity: string, decimals: number): string | null {
  const steps = Math.round(Number(quantity) * 10 ** decimals);
  if (!Number.isFinite(steps) || steps < 2) return null;
  return (Math.floor(steps / 2) / 10 ** decimals).toFixed(decimals);
}
