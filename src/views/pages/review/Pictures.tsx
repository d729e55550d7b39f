import type { GridColumn } from '../../../kit/Grid.tsx';
import { figured, resulting, worded } from '../../../kit/Table.tsx';
import { signedStatistic } from '../../../kit/Figure.tsx';

const WIDTH = 560;
const HEIGHT = 120;

/** The running result of so many round trips, what it fell from its high shaded. */
export function Curve({ nets, count }: { nets: readonly number[]; count: number }) {
  const points = [0, ...nets];
  let most = 0;
  const highs = points.map((net) => (most = Math.max(most, net)));
  const [low, high] = [Math.min(...points), Math.max(...points, 1)];
  const x = (i: number): number => (points.length < 2 ? 0 : (i / (points.length - 1)) * WIDTH);
  const y = (value: number): number => HEIGHT - ((value - low) / (high - low || 1)) * HEIGHT;
  const line = (values: readonly number[]): string => values.map((value, i) => `${x(i).toFixed(1)},${y(value).toFixed(1)}`).join(' ');
  const back = points.map((value, i) => `${x(i).toFixed(1)},${y(value).toFixed(1)}`).reverse();
  return (
    <svg
      viewBox={`0 -4 ${WIDTH} ${HEIGHT + 8}`}
      className="h-[120px] w-full"
      preserveAspectRatio="none"
      role="img"
      aria-label={`Running result over ${count} round trips, ending at ${nets[nets.length - 1] ?? 0} EUR`}
    >
      <polygon points={`${line(highs)} ${back.join(' ')}`} fill="var(--color-down-wash, currentColor)" opacity="0.25" />
      <line x1="0" x2={WIDTH} y1={y(0)} y2={y(0)} stroke="currentColor" opacity="0.4" strokeDasharray="3 3" vectorEffect="non-scaling-stroke" />
      <polyline points={line(points)} fill="none" stroke="currentColor" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

/** Results as dots on an axis of multiples of what was risked first. */
export function Multiples({ values }: { values: readonly number[] }) {
  const most = Math.max(2, ...values.map(Math.abs));
  const x = (value: number): number => 10 + ((value + most) / (2 * most)) * (WIDTH - 20);
  const ticks = [-Math.floor(most), 0, Math.floor(most)];
  return (
    <svg viewBox={`0 0 ${WIDTH} 54`} className="h-[54px] w-full" role="img" aria-label={`${values.length} results as multiples of the first risk`}>
      <line x1="0" x2={WIDTH} y1="36" y2="36" stroke="currentColor" opacity="0.4" />
      {ticks.map((tick) => (
        <text key={tick} x={x(tick)} y="50" fontSize="11" textAnchor="middle" fill="currentColor">
          {tick} R
        </text>
      ))}
      {values.map((value, i) => (
        <circle key={i} cx={x(value)} cy={30 - (i % 4) * 7} r="3" fill="currentColor" opacity="0.65" />
      ))}
    </svg>
  );
}

/** What of the gross result the costs take, in percent; null where there was none to take it from. */
export const costShare = ({ gross, fees }: { readonly gross: string; readonly fees: string }): number | null =>
  Number(gross) > 0 ? (Number(fees) / Number(gross)) * 100 : null;

/** The share of the gross result that the costs take: a bar that is full where they take all of it. */
export function CostBar({ figures }: { figures: { readonly gross: string; readonly fees: string } }) {
  const share = costShare(figures);
  return (
    <span className="inline-flex items-center justify-end gap-2">
      <span className="relative inline-block h-[8px] w-[60px] bg-well" aria-hidden="true">
        <span className="absolute inset-y-0 left-0 bg-ink opacity-60" style={{ width: `${Math.min(share ?? 0, 100)}%` }} />
      </span>
      <span className="w-[64px] text-right">{share === null ? 'no gross' : share > 999 ? 'over 999 %' : `${share.toFixed(1)} %`}</span>
    </span>
  );
}

interface Group {
  readonly key: string;
  readonly figures: { readonly net: string; readonly count: number };
}

/** The columns of groups of results: the name, what it made as a bar and as a figure, how many. */
export const groupColumns = <G extends Group>(by: string, most: number): readonly GridColumn<G>[] => [
  worded(by, ({ key }) => key),
  { id: 'bar', head: 'as a bar', unseen: true, cell: ({ figures }) => <ResultBar value={Number(figures.net)} most={most} /> },
  resulting('net', ({ figures }) => figures.net, signedStatistic),
  figured('count', ({ figures }) => String(figures.count)),
];

/** The largest result of groups, up or down: that of the longest bar. */
export const largestOf = (groups: readonly { readonly figures: { readonly net: string } }[]): number =>
  Math.max(...groups.map(({ figures }) => Math.abs(Number(figures.net))));

/** A share of the largest as a bar, to the right from the middle for what was made and to the left for what was lost. */
function ResultBar({ value, most }: { value: number; most: number }) {
  const width = most === 0 ? 0 : (Math.abs(value) / most) * 50;
  return (
    <span className="relative inline-block h-[8px] w-[120px] bg-well" aria-hidden="true">
      <span className="absolute inset-y-0 bg-ink opacity-60" style={{ left: `${value < 0 ? 50 - width : 50}%`, width: `${width}%` }} />
      <span className="absolute inset-y-0 left-1/2 w-px bg-hair" />
    </span>
  );
}
