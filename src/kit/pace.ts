/** How often what the market changes is painted: faster than it can be read. */
const PACE_MS = 66;

const due = new Map<object, () => void>();
let waiting = false;
let paintedAt = -Infinity;

function run(): void {
  waiting = false;
  paintedAt = performance.now();
  const paints = [...due.values()];
  due.clear();
  for (const paint of paints) paint();
}

/**
 * Paints soon, all that is due in one frame: so the page is laid out once for all its panes. Of several paints for
 * one key the newest counts. After a quiet moment it is the very next frame.
 */
export function paintSoon(key: object, paint: () => void): void {
  due.set(key, paint);
  if (waiting) return;
  waiting = true;
  const wait = paintedAt + PACE_MS - performance.now();
  if (wait > 0) setTimeout(() => requestAnimationFrame(run), wait);
  else requestAnimationFrame(run);
}

/** Takes back what was to be painted for a key. */
export const paintNoMore = (key: object): void => void due.delete(key);
