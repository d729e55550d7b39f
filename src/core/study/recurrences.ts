/** Recurrences over columns. Each fills one index from what stands before it. */

/** Mean of the last `n` values of `from`, which begins to be known at `start`: a fresh sum each time, so that nothing drifts. */
export function meanAt(from: Float64Array, n: number, start: number, i: number): number {
  if (i < start + n - 1) return NaN;
  let sum = 0;
  for (let j = i - n + 1; j <= i; j++) sum += from[j] as number;
  return sum / n;
}

/**
 * Exponential mean with weight 2 ÷ (n + 1), seeded with the plain mean of the first `n` values.
 *
 * @param start where `from` begins to be known
 */
export function emaAt(from: Float64Array, into: Float64Array, n: number, start: number, i: number): number {
  const first = start + n - 1;
  if (i < first) return NaN;
  if (i === first) return meanAt(from, n, start, i);
  const before = into[i - 1] as number;
  return before + (2 / (n + 1)) * ((from[i] as number) - before);
}

/** Wilder's mean: weight 1 ÷ n, seeded with the plain mean of the first `n` values. */
export function wilderAt(from: Float64Array, into: Float64Array, n: number, start: number, i: number): number {
  const first = start + n - 1;
  if (i < first) return NaN;
  if (i === first) return meanAt(from, n, start, i);
  return ((into[i - 1] as number) * (n - 1) + (from[i] as number)) / n;
}

/** Population standard deviation of the last `n` values about `mean`. */
export function deviationAt(from: Float64Array, n: number, mean: number, i: number): number {
  let sum = 0;
  for (let j = i - n + 1; j <= i; j++) sum += ((from[j] as number) - mean) ** 2;
  return Math.sqrt(sum / n);
}

export function highestAt(from: Float64Array, n: number, i: number): number {
  let most = -Infinity;
  for (let j = i - n + 1; j <= i; j++) if ((from[j] as number) > most) most = from[j] as number;
  return most;
}

export function lowestAt(from: Float64Array, n: number, i: number): number {
  let least = Infinity;
  for (let j = i - n + 1; j <= i; j++) if ((from[j] as number) < least) least = from[j] as number;
  return least;
}
