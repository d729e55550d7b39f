import { signed } from '../../kit/Figure.tsx';
import type { Rung } from './stave.ts';

const WIDTH = 300;
const HEIGHT = 168;
const LEFT = 58;
const LONGEST = 140;
const EDGE = 14;
/** Figures of rungs that lie closer than this would cover one another. */
const APART = 13;

/** Rows for labels, each as near to its rung as the others leave it. */
function labelRows(wanted: readonly number[]): number[] {
  const order = wanted.map((y, i) => [y, i] as const).sort((a, b) => a[0] - b[0]);
  const rows = [...wanted];
  let last = -Infinity;
  for (const [y, i] of order) {
    rows[i] = Math.max(y, last + APART);
    last = rows[i];
  }
  return rows;
}

/** A plan drawn: the entry as the ground line, each leg a rung at its true distance, as long as its share, its money at the end. */
export function Stave({ rungs, entry, label }: { rungs: readonly Rung[]; entry: string; label: string }) {
  const far = Math.max(1, ...rungs.map(({ away }) => Math.abs(away)));
  const ground = HEIGHT / 2;
  const yOf = (away: number): number => ground - (away / far) * (ground - EDGE);
  const rows = labelRows(rungs.map(({ away }) => yOf(away)));
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="figure w-full text-[11px]" role="img" aria-label={label}>
      <line x1={LEFT} x2={WIDTH - EDGE} y1={ground} y2={ground} stroke="var(--ink)" strokeWidth={1} />
      <line x1={LEFT} x2={LEFT} y1={EDGE - 6} y2={HEIGHT - EDGE + 6} stroke="var(--line)" strokeWidth={1} />
      <text x={LEFT - 6} y={ground + 4} textAnchor="end" fill="var(--ink)">
        {entry}
      </text>
      {rungs.map(({ step, leg, price, away, share, money }, i) => {
        const y = yOf(away);
        const row = rows[i] ?? y;
        const end = LEFT + share * LONGEST;
        const colour = leg === 'target' ? 'var(--weed)' : 'var(--copper)';
        return (
          <g key={`${step} ${leg}`}>
            <line x1={LEFT} x2={end} y1={y} y2={y} stroke={colour} strokeWidth={3} strokeDasharray={leg === 'stop' ? '6 4' : undefined} />
            <line x1={end} x2={end + 8} y1={y} y2={row} stroke="var(--line)" strokeWidth={1} />
            <text x={LEFT - 6} y={row + 4} textAnchor="end" fill="var(--quiet)">
              {price}
            </text>
            <text x={end + 12} y={row + 4} fill="var(--ink)">
              {step + 1} · {signed(money)}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
