/** How often what the market changes is painted: faster than it can be read. */
const PACE_MS = 66;
/** What one frame may spend on it; the rest is painted in the next. */
const FRAME_MS = 1;

/** What waits for the next round, and what this round has still to paint. */
const due = new Map<object, () => void>();
const round = new Map<object, () => void>();
let planned = false;
let beganAt = -Infinity;

function paint(): void {
  const from = performance.now();
  for (const [key, one] of round) {
    round.delete(key);
    one();
    if (performance.now() - from > FRAME_MS) break;
  }
  if (round.size > 0) requestAnimationFrame(paint);
  else {
    planned = false;
    if (due.size > 0) plan();
  }
}

function begin(): void {
  beganAt = performance.now();
  for (const [key, one] of due) round.set(key, one);
  due.clear();
  paint();
}

function plan(): void {
  planned = true;
  const wait = beganAt + PACE_MS - performance.now();
  if (wait > 0) setTimeout(() => requestAnimationFrame(begin), wait);
  else requestAnimationFrame(begin);
}

/**
 * Paints soon, together with all else that is due: in one frame, or over the next ones when there is much, so that
 * none is late. Of several paints for one key the newest counts. After a quiet moment it is the very next frame.
 */
export function paintSoon(key: object, paint: () => void): void {
  due.set(key, paint);
  if (!planned) plan();
}

/** Takes back what was to be painted for a key. */
export function paintNoMore(key: object): void {
  due.delete(key);
  round.delete(key);
}
