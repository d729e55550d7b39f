import { signed } from '../../../kit/Figure.tsx';
import type { AnswerOf } from '../../../live/index.ts';

type Trip = AnswerOf<'GET /api/review/round-trips'>['items'][number];
type Bar = AnswerOf<'GET /api/bars/{id}'>['items'][number];
type Course = AnswerOf<'GET /api/review/round-trips/{id}/course'>;

const [WIDTH, HEIGHT] = [1180, 210];
const MARK = 5;
const LETTER_PX = 7;
/** Of more fills than these the prices would cover one another. */
const MOST_PRICES = 6;

interface Props {
  readonly trip: Trip;
  readonly bars: readonly Bar[];
  /** Null until it is known. */
  readonly course: Course | null;
}

/** Where a round trip was at its worst and at its best: the bars' extremes while it was open, with what it made there. */
function extremesOf({ side, openedAt, closedAt, mae, mfe }: Trip, bars: readonly Bar[], spacing: number) {
  const [opened, closed] = [Date.parse(openedAt), Date.parse(closedAt)];
  const open = bars.filter(({ time }) => Date.parse(time) + spacing > opened && Date.parse(time) <= closed);
  const by = (price: (bar: Bar) => number): Bar | undefined =>
    open.reduce<Bar | undefined>((best, bar) => (best && price(best) >= price(bar) ? best : bar), undefined);
  const [low, high] = [by((bar) => -Number(bar.low)), by((bar) => Number(bar.high))];
  if (!low || !high) return [];
  const [atLow, atHigh] =
    side === 'long'
      ? ([
          ['at worst', mae],
          ['at best', mfe],
        ] as const)
      : ([
          ['at best', mfe],
          ['at worst', mae],
        ] as const);
  return [
    { bar: low, price: Number(low.low), below: true, words: atLow[0], value: atLow[1] },
    { bar: high, price: Number(high.high), below: false, words: atHigh[0], value: atHigh[1] },
  ].filter(({ value }) => Number(value) !== 0);
}

function wordsOf({ averageEntry, averageExit, mae, mfe }: Trip, course: Course | null, low: number, high: number): string {
  const levels = (kind: 'stop' | 'target'): string => {
    const prices = (course?.levels ?? []).filter((level) => level.kind === kind).map(({ price }) => price);
    return prices.length === 0 ? '' : `; ${kind}s at ${[...new Set(prices)].join(', ')}`;
  };
  return `From ${low} to ${high}; in at ${averageEntry ?? '–'}, out at ${averageExit ?? '–'}${levels('stop')}${levels('target')}; at worst ${signed(mae)}, at best ${signed(mfe)}`;
}

/** A round trip on its market: each fill, where its stops and targets stood as they moved, and where it was at its worst and best. */
export function TripPicture({ trip, bars, course }: Props) {
  const { fills = [], levels = [] } = course ?? {};
  const prices = [...fills, ...levels].map(({ price }) => Number(price));
  const low = Math.min(...bars.map((bar) => Number(bar.low)), ...prices);
  const high = Math.max(...bars.map((bar) => Number(bar.high)), ...prices);
  const times = bars.map(({ time }) => Date.parse(time));
  const [from, to] = [times[0] ?? 0, times[times.length - 1] ?? 1];
  const spacing = (to - from) / Math.max(1, bars.length - 1);
  const x = (time: number): number => 4 + ((Math.min(Math.max(time, from), to) - from) / (to - from || 1)) * (WIDTH - 8);
  const y = (price: number): number => 16 + ((high - price) / (high - low || 1)) * (HEIGHT - 32);
  const at = (time: string): number => x(Date.parse(time));
  const ink = (side: 'buy' | 'sell'): string => (side === 'buy' ? 'var(--weed)' : 'var(--copper)');
  const last = { stop: levels.filter(({ kind }) => kind === 'stop').pop(), target: levels.filter(({ kind }) => kind === 'target').pop() };
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-[210px] w-full bg-well text-[11px]" role="img" aria-label={wordsOf(trip, course, low, high)}>
      {bars.map((bar, i) => (
        <line
          key={bar.time}
          x1={x(times[i] ?? 0)}
          x2={x(times[i] ?? 0)}
          y1={y(Number(bar.high))}
          y2={y(Number(bar.low))}
          stroke="var(--line)"
          strokeWidth={1.4}
        />
      ))}
      {levels.map(({ kind, price, from: since, to: until }, i) => (
        <line
          key={i}
          data-level={kind}
          x1={at(since)}
          x2={at(until)}
          y1={y(Number(price))}
          y2={y(Number(price))}
          stroke={kind === 'stop' ? 'var(--ink)' : 'var(--quiet)'}
          strokeDasharray={kind === 'stop' ? '6 4' : '1 4'}
          strokeWidth={1.5}
        />
      ))}
      {(['stop', 'target'] as const).map((kind) => {
        const level = last[kind];
        return (
          level && (
            <text key={kind} x={at(level.from)} y={y(Number(level.price)) - 4} fill="var(--quiet)">
              {kind} {level.price}
            </text>
          )
        );
      })}
      {fills.map(({ id, time, side, price, enters }, i) => {
        const [cx, cy] = [at(time), y(Number(price))];
        const away = side === 'buy' ? MARK : -MARK;
        return (
          <g key={`${id} ${i}`}>
            <path
              data-fill={enters ? 'in' : 'out'}
              d={`M${cx} ${cy} l${-MARK} ${away} h${2 * MARK} z`}
              fill={enters ? 'var(--well)' : ink(side)}
              stroke={ink(side)}
              strokeWidth={1.5}
            />
            {fills.length <= MOST_PRICES && (
              <text
                x={cx + (enters ? MARK + 3 : -MARK - 3)}
                y={cy + ((side === 'buy') === enters ? 12 : -5)}
                textAnchor={enters ? 'start' : 'end'}
                fill="var(--quiet)"
              >
                {price}
              </text>
            )}
          </g>
        );
      })}
      {extremesOf(trip, bars, spacing).map(({ bar, price, below, words, value }) => {
        const label = `${words} ${signed(value)}`;
        const half = (label.length * LETTER_PX) / 2;
        return (
          <g key={words} data-extreme={words}>
            <circle cx={at(bar.time)} cy={y(price)} r={2.5} fill="var(--ink)" />
            <text x={Math.max(half, Math.min(at(bar.time), WIDTH - half))} y={y(price) + (below ? 12 : -5)} textAnchor="middle" fill="var(--ink)">
              {label}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
