import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import { VENUES } from '../../core/instrument/index.ts';
import { formatDay, isTradingDay, localDay, sessionTimes, weekday } from '../../core/market/index.ts';
import { Button } from '../../kit/Button.tsx';
import { clockText } from '../../kit/clock.ts';
import { Popover } from '../../kit/Popover.tsx';
import { $clock, request, type ApiClock } from '../../live/index.ts';

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const SPEEDS = [0, 1, 5, 20] as const;
const STEPS = [
  { label: '+1 s', ms: 1000 },
  { label: '+1 min', ms: 60_000 },
  { label: '+10 min', ms: 600_000 },
  { label: '+1 h', ms: 3_600_000 },
] as const;

/** The market's time, run on between two messages by its speed. */
function useMarketTime(clock: ApiClock | null): number | null {
  const [time, setTime] = useState<number | null>(null);
  useEffect(() => {
    if (!clock) return undefined;
    const heard = performance.now();
    const at = Date.parse(clock.time);
    const tick = (): void => setTime(at + (clock.mode === 'live' ? Math.min(1000, performance.now() - heard) * clock.speed : 0));
    tick();
    const timer = setInterval(tick, 200);
    return () => clearInterval(timer);
  }, [clock]);
  return time;
}

const { zone } = VENUES.HALM;

function sessionWords(time: number): string {
  const day = localDay(zone, time);
  if (!isTradingDay(VENUES.HALM, day)) return 'HALM closed';
  const { preOpen, open, close } = sessionTimes('HALM', day);
  const left = (until: number): string => {
    const minutes = Math.ceil((until - time) / 60_000);
    return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`;
  };
  if (time < (preOpen ?? open)) return `HALM opens in ${left(open)}`;
  if (time < open) return `HALM pre-open, ${left(open)}`;
  return time < close ? `HALM open, ${left(close)} left` : 'HALM closed';
}

export function MarketClock() {
  const clock = useStore($clock);
  const time = useMarketTime(clock);
  if (!clock || time === null) return <span className="w-[196px] text-quiet">–</span>;
  const day = localDay(zone, time);
  const run = (body: object): void => void request('POST /api/clock', { body });
  return (
    <Popover
      label="Market clock"
      align="end"
      trigger={
        <button type="button" className="flex w-[210px] items-baseline justify-end gap-2">
          <span className="sr-only">Market clock</span>
          <span className="figure text-[14px] font-bold" data-testid="market-time">
            {clockText(zone, time)}
          </span>
          <span className="truncate text-[12px]">
            {DAYS[weekday(day)]} · {sessionWords(time)}
          </span>
        </button>
      }
    >
      <p className="mb-2">
        {formatDay(day)} {zone} · {clock.market === 'demo' ? 'demo market' : 'tape'}
        {clock.mode === 'manual' ? ', by hand' : clock.speed === 0 ? ', stands still' : `, ${clock.speed}×`}
        {clock.ended ? ', the tape has ended' : ''}
      </p>
      {clock.mode === 'live' && (
        <div className="mb-2 flex gap-1" role="group" aria-label="Speed">
          {SPEEDS.map((speed) => (
            <Button key={speed} aria-pressed={clock.speed === speed} onClick={() => run({ speed })}>
              {speed === 0 ? 'pause' : `${speed}×`}
            </Button>
          ))}
        </div>
      )}
      <div className="flex gap-1" role="group" aria-label="Move on">
        {STEPS.map(({ label, ms }) => (
          <Button key={label} onClick={() => run({ advanceBy: ms })}>
            {label}
          </Button>
        ))}
      </div>
    </Popover>
  );
}
