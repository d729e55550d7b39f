import { VENUES } from '../../../core/instrument/index.ts';
import { clockText } from '../../../kit/clock.ts';
import { signed } from '../../../kit/Figure.tsx';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

const [WIDTH, HEIGHT, PAD] = [720, 150, 12];
const time = (text: string): string => clockText(VENUES.HALM.zone, text, 'HH:mm');

/** Today's net by the minute and at each fill, with its low, against what the day may lose. */
export function TodayCurve({ account, limit }: { account: string; limit: number | null }) {
  const { data } = useAsked('GET /api/risk/{account}/day', { path: { account } }, { everyMs: 10_000 });
  if (!data) return null;
  const points = data.points.map((one) => ({ at: Date.parse(one.time), net: Number(one.net) }));
  const [first, last] = [points[0], points[points.length - 1]];
  if (!first || !last || points.length < 2)
    return (
      <Section title="Today">
        <p className="text-quiet">Nothing was held or traded today.</p>
      </Section>
    );
  const nets = points.map(({ net }) => net);
  const floor = Math.min(0, ...nets, ...(limit === null ? [] : [-limit]));
  const roof = Math.max(1, ...nets);
  const x = (at: number): number => PAD + ((at - first.at) / Math.max(1, last.at - first.at)) * (WIDTH - 2 * PAD);
  const y = (net: number): number => PAD + ((roof - net) / (roof - floor)) * (HEIGHT - 2 * PAD);
  // Between two moments the result stands as it was: it is drawn in steps.
  const path = points.map(({ at, net }, i) => (i === 0 ? `M${x(at).toFixed(1)} ${y(net).toFixed(1)}` : `H${x(at).toFixed(1)}V${y(net).toFixed(1)}`)).join('');
  const low = { at: Date.parse(data.low.time), net: Number(data.low.net) };
  const words = `net ${signed(data.points[data.points.length - 1]?.net ?? '0')}, lowest ${signed(data.low.net)} at ${time(data.low.time)}, highest ${signed(data.high.net)} at ${time(data.high.time)}`;
  return (
    <Section title="Today" about="Net of fees, by the minute and at each fill; carried positions count from the settlement before.">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full max-w-[900px] bg-well"
        role="img"
        aria-label={`Today of ${account}: ${words}`}
        data-testid="today-curve"
      >
        <line x1={0} x2={WIDTH} y1={y(0)} y2={y(0)} stroke="var(--line)" />
        {limit !== null && <line x1={0} x2={WIDTH} y1={y(-limit)} y2={y(-limit)} stroke="var(--ink)" strokeWidth={3} />}
        <path d={path} fill="none" stroke={last.net < 0 ? 'var(--copper)' : 'var(--weed)'} strokeWidth={1.5} />
        <circle cx={x(low.at)} cy={y(low.net)} r={3.5} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
      </svg>
      <p className="mt-1">{words}.</p>
    </Section>
  );
}
