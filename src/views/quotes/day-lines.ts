import { request } from '../../live/index.ts';

/** Closes of today's bars, by instrument; asked for a few at a time and again after a while. */
interface DayLine {
  readonly closes: readonly number[];
  readonly askedAt: number;
}

const AGAIN_MS = 60_000;
const AT_ONCE = 4;
const BARS = 110;

const known = new Map<string, DayLine>();
const waiting: { id: string; done: (closes: readonly number[]) => void }[] = [];
let running = 0;

/** The day's closes of an instrument, from its five-minute bars. */
export function dayLine(id: string, done: (closes: readonly number[]) => void): void {
  const line = known.get(id);
  if (line && Date.now() - line.askedAt < AGAIN_MS) {
    done(line.closes);
    return;
  }
  waiting.push({ id, done });
  next();
}

function next(): void {
  if (running >= AT_ONCE) return;
  const one = waiting.shift();
  if (!one) return;
  running++;
  void request('GET /api/bars/{id}', { path: { id: one.id }, query: { interval: '5m', limit: BARS } }).then((found) => {
    running--;
    if (found.ok) {
      const { items } = found.value;
      const day = items[items.length - 1]?.time.slice(0, 10);
      const closes = items.filter((bar) => bar.time.slice(0, 10) === day).map((bar) => Number(bar.close));
      known.set(one.id, { closes, askedAt: Date.now() });
      one.done(closes);
    }
    next();
  });
}

/** The points of a line in a box of a size, highest value on top. */
export function linePoints(closes: readonly number[], width: number, height: number): string {
  if (closes.length < 2) return '';
  const high = Math.max(...closes);
  const low = Math.min(...closes);
  const reach = high - low || 1;
  return closes
    .map((close, i) => `${((i / (closes.length - 1)) * width).toFixed(1)},${(height - 1 - ((close - low) / reach) * (height - 2)).toFixed(1)}`)
    .join(' ');
}
