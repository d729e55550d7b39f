import { useEffect, useState } from 'react';
import { VENUES, VENUE_IDS } from '../../core/instrument/index.ts';
import { clockText } from '../../kit/clock.ts';
import { Mark } from '../../kit/Mark.tsx';

const WIDTH = 1280;
const HEIGHT = 800;
const DRAWN_MS = 9000;

/** Points of a day's closes, from one edge of the window to the other. */
function linePoints(closes: readonly number[], shown: number): string {
  const [low, high] = [Math.min(...closes), Math.max(...closes)];
  const x = (i: number): number => (i / Math.max(1, closes.length - 1)) * WIDTH;
  const y = (close: number): number => HEIGHT * 0.72 - ((close - low) / Math.max(1, high - low)) * HEIGHT * 0.42;
  return closes
    .slice(0, Math.max(2, Math.ceil(shown * closes.length)))
    .map((close, i) => `${x(i).toFixed(1)},${y(close).toFixed(1)}`)
    .join(' ');
}

/** How much of the day is drawn by now: it grows once, and stands still where motion is not wanted. */
function useDrawn(): number {
  const [shown, setShown] = useState(0);
  useEffect(() => {
    if (window.matchMedia('(prefers-reduced-motion: reduce)').matches) {
      setShown(1);
      return undefined;
    }
    const from = performance.now();
    const timer = setInterval(() => {
      const share = Math.min(1, (performance.now() - from) / DRAWN_MS);
      setShown(share);
      if (share === 1) clearInterval(timer);
    }, 80);
    return () => clearInterval(timer);
  }, []);
  return shown;
}

/** The venues' clocks go on from the market's time. */
function useMarketTime(time: number | null): number | null {
  const [now, setNow] = useState(time);
  useEffect(() => {
    if (time === null) return undefined;
    const from = performance.now();
    const timer = setInterval(() => setNow(time + performance.now() - from), 1000);
    return () => clearInterval(timer);
  }, [time]);
  return now;
}

/** The coast that one signs in to: the mark, a day of its index as a hairline, the venues' clocks. */
export function Coast({ closes, time }: { closes: readonly number[]; time: number | null }) {
  const drawn = useDrawn();
  const now = useMarketTime(time);
  return (
    <div className="h-full">
      {closes.length > 1 && (
        <svg className="absolute inset-0 h-full w-full" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" fill="none" aria-hidden="true">
          <polyline points={linePoints(closes, drawn)} stroke="var(--line)" strokeWidth="1" vectorEffect="non-scaling-stroke" />
        </svg>
      )}
      <div className="relative flex h-full flex-col justify-between p-12">
        <Mark width={280} />
        <dl className="flex gap-8">
          {VENUE_IDS.map((venue) => (
            <div key={venue}>
              <dt className="text-quiet">{venue}</dt>
              <dd className="figure text-[20px]">{now === null ? '–' : clockText(VENUES[venue].zone, now)}</dd>
            </div>
          ))}
        </dl>
      </div>
    </div>
  );
}
