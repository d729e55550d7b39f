import { useStore } from '@nanostores/react';
import { VENUES } from '../../../core/instrument/index.ts';
import { clockText } from '../../../kit/clock.ts';
import { signed } from '../../../kit/Figure.tsx';
import { $clock } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

const [WIDTH, HEIGHT, PAD] = [720, 150, 12];
const time = (text: string): string => clockText(VENUES.HALM.zone, text, 'HH:mm');

const read = ({ time: at, net }: { readonly time: string; readonly net: string }) => ({ time: at, at: Date.parse(at), net: Number(net), text: net });

/**
 * Today's net by the minute and at each fill, with its low, against what the day may lose.
 *
 * @param net as it is just now, where the curve ends
 */
export function TodayCurve({ account, limit, net: live }: { account: string; limit: number | null; net: string | undefined }) {
  const now = useStore($clock)?.time;
  const { data } = useAsked('GET /api/risk/{account}/day', { path: { account } }, { everyMs: 10_000 });
  if (!data) return null;
  const told = data.points.map(read);
  const newest = told[told.length - 1];
  const points = newest && now && live !== undefined ? [...told, { ...read({ time: now, net: live }), at: Math.max(newest.at, Date.parse(now)) }] : told;
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
  // The day's own extremes may lie between two points, and the present may be beyond them.
  const low = points.reduce((least, one) => (one.net < least.net ? one : least), read(data.low));
  const high = points.reduce((most, one) => (one.net > most.net ? one : most), read(data.high));
  const words = `net ${signed(last.text)}, lowest ${signed(low.text)} at ${time(low.time)}, highest ${signed(high.text)} at ${time(high.time)}`;
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
