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

/**
 * {@link meanAt} by a sum that slides along in `sums`. It is summed anew every `n` bars, at indexes that are the
 * same whoever begins where: rounding does not pile up, and bar by bar gives what the whole gives.
 */
export function slidingMeanAt(from: Float64Array, sums: Float64Array, n: number, i: number): number {
  if (i < n - 1) return NaN;
  if (i === n - 1 || i % n === 0) {
    let sum = 0;
    for (let j = i - n + 1; j <= i; j++) sum += from[j] as number;
    sums[i] = sum;
  } else sums[i] = (sums[i - 1] as number) + (from[i] as number) - (from[i - n] as number);
  return sums[i] / n;
}

/** Population standard deviation of the last `n` values about `mean`. */
export function deviationAt(from: Float64Array, n: number, mean: number, i: number): number {
  let sum = 0;
  for (let j = i - n + 1; j <= i; j++) {
    const away = (from[j] as number) - mean;
    sum += away * away;
  }
  return Math.sqrt(sum / n);
}

/** Highest of the last `n` values; `places` keeps where it stands, so that the window is looked through only when it leaves. */
export function highestAt(from: Float64Array, places: Float64Array, n: number, i: number): number {
  const before = i === 0 ? -1 : (places[i - 1] as number);
  const value = from[i] as number;
  let at = i;
  if (before > i - n && (from[before] as number) > value) at = before;
  else if (before <= i - n) for (let j = Math.max(0, i - n + 1); j < i; j++) if ((from[j] as number) > (from[at] as number)) at = j;
  places[i] = at;
  return from[at] as number;
}

/** Lowest of the last `n` values; see {@link highestAt}. */
export function lowestAt(from: Float64Array, places: Float64Array, n: number, i: number): number {
  const before = i === 0 ? -1 : (places[i - 1] as number);
  const value = from[i] as number;
  let at = i;
  if (before > i - n && (from[before] as number) < value) at = before;
  else if (before <= i - n) for (let j = Math.max(0, i - n + 1); j < i; j++) if ((from[j] as number) < (from[at] as number)) at = j;
  places[i] = at;
  return from[at] as number;
}
