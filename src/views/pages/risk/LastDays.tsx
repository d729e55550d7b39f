import { useStore } from '@nanostores/react';
import { formatDay, previousTradingDay, tradingDay } from '../../../core/market/index.ts';
import { signed } from '../../../kit/Figure.tsx';
import { $clock } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

const DAYS = 20;
const NEAR = 0.75;
const [WIDTH, HEIGHT, GAP] = [36, 96, 4];

/** What each of the last days made, held against what a day may lose: how near it came, and when it went beyond. */
export function LastDays({ account, limit }: { account: string; limit: number | null }) {
  const now = useStore($clock)?.time;
  const today = now === undefined ? null : tradingDay('HALM', Date.parse(now));
  const days: string[] = [];
  for (let day = today ?? 0; today !== null && days.length < DAYS; day = previousTradingDay('HALM', day)) days.unshift(formatDay(day));
  const { data } = useAsked(
    'GET /api/review/figures',
    { query: { account, from: days[0], to: days[days.length - 1], by: 'day' } },
    { when: today !== null, everyMs: 10_000 },
  );
  if (!data) return null;
  const nets = days.map((day) => ({ day, net: Number(data.groups.find(({ key }) => key === day)?.figures.net ?? 0) }));
  const most = Math.max(limit ?? 0, ...nets.map(({ net }) => Math.abs(net)), 1);
  const [near, beyond] = [
    nets.filter(({ net }) => limit !== null && net <= -NEAR * limit && net > -limit),
    nets.filter(({ net }) => limit !== null && net <= -limit),
  ];
  const middle = HEIGHT / 2;
  const y = (value: number): number => middle - (value / most) * (middle - 4);
  const words = nets.map(({ day, net }) => `${day} ${signed(net.toFixed(2))}`).join(', ');
  return (
    <Section title="The last 20 days" about="What closed trades made, in EUR, held against what a day may lose.">
      <svg width={DAYS * WIDTH} height={HEIGHT} className="max-w-full bg-well" role="img" aria-label={words}>
        <line x1={0} x2={DAYS * WIDTH} y1={middle} y2={middle} stroke="var(--line)" />
        {limit !== null && <line x1={0} x2={DAYS * WIDTH} y1={y(-limit)} y2={y(-limit)} stroke="var(--ink)" strokeWidth={2} />}
        {nets.map(({ day, net }, i) => (
          <rect
            key={day}
            x={i * WIDTH + GAP}
            y={Math.min(middle, y(net))}
            width={WIDTH - 2 * GAP}
            height={Math.max(net === 0 ? 0 : 1, Math.abs(y(net) - middle))}
            fill={limit !== null && net <= -limit ? 'var(--crimson)' : net < 0 ? 'var(--copper)' : 'var(--weed)'}
          >
            <title>{`${day}: ${signed(net.toFixed(2))}`}</title>
          </rect>
        ))}
      </svg>
      <p className="mt-1">
        {limit === null
          ? 'No limit is set: the tallest bar is the scale.'
          : `${beyond.length === 0 ? 'None' : beyond.map(({ day }) => day).join(', ')} went beyond; ${near.length === 0 ? 'none' : near.map(({ day }) => day).join(', ')} came within a quarter of it.`}
      </p>
    </Section>
  );
}
