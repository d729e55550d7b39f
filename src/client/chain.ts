/** A strike's option as far as its place in the chain hangs on it. */
interface Ranged {
  readonly strike: string;
  readonly call: { readonly delta: string | null } | null;
  readonly put: { readonly delta: string | null } | null;
}

export const CHAIN_RANGES = ['all', '3', '5', '10', 'delta'] as const;
/** All strikes, so many either side of the spot, or those with a delta that is worth a look. */
export type ChainRange = (typeof CHAIN_RANGES)[number];

/** Deltas outside of these are as good as certain. */
const [LEAST, MOST] = [0.05, 0.95];

/** The first strike above the spot, by its place; after the last where all are below, null where there is no spot. */
export function placeOfSpot(rows: readonly Pick<Ranged, 'strike'>[], spot: number | null): number | null {
  if (spot === null) return null;
  const above = rows.findIndex(({ strike }) => Number(strike) > spot);
  return above < 0 ? rows.length : above;
}

/** The strikes of a chain that a range shows, in order. Without a spot, or without deltas, all of them. */
export function rowsIn<R extends Ranged>(rows: readonly R[], range: ChainRange, spot: number | null): readonly R[] {
  const place = placeOfSpot(rows, spot);
  if (range === 'all' || place === null) return rows;
  if (range !== 'delta') return rows.slice(Math.max(0, place - Number(range)), place + Number(range));
  const sizes = rows.map(({ call, put }) => [call?.delta, put?.delta].flatMap((delta) => (delta == null ? [] : [Math.abs(Number(delta))])));
  if (sizes.every((known) => known.length === 0)) return rows;
  return rows.filter((_, i) => (sizes[i] ?? []).some((size) => size >= LEAST && size <= MOST));
}
