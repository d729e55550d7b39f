import type { Money } from '../number/index.ts';

export interface Share {
  readonly key: string;
  readonly value: Money;
  /** Percent at 2 decimals, as 10⁻². */
  readonly percent: bigint;
}

const WHOLE = 10_000n;

/**
 * Shares of a whole in percent with 2 decimals that sum to 100.00: each is rounded down, what is left goes one by
 * one to the largest remainders, ties by key (the method of largest remainder). Empty where nothing has a value.
 */
export function sharesOf(parts: readonly { readonly key: string; readonly value: Money }[]): Share[] {
  const sums = new Map<string, bigint>();
  for (const { key, value } of parts) sums.set(key, (sums.get(key) ?? 0n) + value);
  const total = [...sums.values()].reduce((sum, value) => sum + value, 0n);
  if (total <= 0n) return [];
  const byKey = (a: { key: string }, b: { key: string }): number => Number(a.key > b.key) - Number(a.key < b.key);
  const rows = [...sums].map(([key, value]) => ({ key, value: value as Money, percent: (value * WHOLE) / total, rest: (value * WHOLE) % total })).sort(byKey);
  let left = WHOLE - rows.reduce((sum, { percent }) => sum + percent, 0n);
  for (const row of [...rows].sort((a, b) => Number(b.rest > a.rest) - Number(b.rest < a.rest) || byKey(a, b)))
    if (left-- > 0n) row.percent += 1n;
    else break;
  return rows.map(({ key, value, percent }) => ({ key, value, percent }));
}
