/** How high a hook tag is, and so how far apart two stand. */
export const TAG_PX = 24;

/**
 * Where tags stand so that none covers another: each as near its own height as it can be, in their order from the top.
 *
 * @param heights where each wants its middle, in any order
 * @returns the middles, by the same places
 */
export function standApart(heights: readonly number[], least: number, most: number): number[] {
  const order = heights.map((_, i) => i).sort((a, b) => (heights[a] ?? 0) - (heights[b] ?? 0) || a - b);
  const found = [...heights];
  // Down from the top, then up from the bottom where that pushed some out.
  let floor = least - TAG_PX;
  for (const i of order) floor = found[i] = Math.max(found[i] ?? 0, floor + TAG_PX);
  let ceiling = most + TAG_PX;
  for (const i of [...order].reverse()) ceiling = found[i] = Math.min(found[i] ?? 0, ceiling - TAG_PX);
  return found;
}
