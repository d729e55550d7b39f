import { useAsked } from '../../act/queries.tsx';

const LINE = { width: 64, height: 16 };
const AGAIN_MS = 60_000;
const BARS = 110;

/** The day's closes as a hairline, from its five-minute bars. */
export function DayLine({ instrument }: { instrument: string }) {
  const asked = { path: { id: instrument }, query: { interval: '5m', limit: BARS } };
  const bars = useAsked('GET /api/bars/{id}', asked, { freshMs: AGAIN_MS, everyMs: AGAIN_MS }).data?.items ?? [];
  const day = bars[bars.length - 1]?.time.slice(0, 10);
  const closes = bars.filter((bar) => bar.time.slice(0, 10) === day).map((bar) => Number(bar.close));
  return (
    <svg width={LINE.width} height={LINE.height} className="block" role="img" aria-label={`Day line of ${instrument}`}>
      <polyline points={linePoints(closes, LINE.width, LINE.height)} fill="none" stroke="var(--quiet)" strokeWidth="1" />
    </svg>
  );
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
