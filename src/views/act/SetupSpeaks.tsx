import { useStore } from '@nanostores/react';
import { LATELY, halfOf, lately, latelyWords } from '../../client/setups.ts';
import { $setupWords } from '../../client/settings.ts';
import { useAsked } from './queries.tsx';

/** The last of a setup as marks on a line: what won stands above it, what lost below, as far as its R. */
export function SetupMarks({ marks }: { marks: ReturnType<typeof lately>['marks'] }) {
  const most = Math.max(1, ...marks.map(({ r }) => Math.abs(r ?? 1)));
  const [width, height] = [6, 24];
  return (
    <svg width={marks.length * width + 2} height={height} className="shrink-0" aria-hidden="true">
      <line x1={0} x2={marks.length * width + 2} y1={height / 2} y2={height / 2} stroke="var(--line)" />
      {marks.map(({ net, r }, i) => {
        const tall = Math.max(2, (Math.abs(r ?? 1) / most) * (height / 2 - 2));
        return (
          <rect
            key={i}
            x={i * width + 1}
            y={net > 0 ? height / 2 - tall : height / 2}
            width={4}
            height={tall}
            fill={r === null ? 'var(--quiet)' : 'var(--ink)'}
          />
        );
      })}
    </svg>
  );
}

/** Where a size is chosen for a setup: how its last have done; where they lost on average, the trader's own words and half the size. */
export function SetupSpeaks({ setup, quantity, decimals, onHalf }: { setup: string; quantity: string; decimals: number; onHalf: (half: string) => void }) {
  const words = useStore($setupWords)[setup];
  const { data } = useAsked('GET /api/review/round-trips', { query: { setup, newest: LATELY } }, { freshMs: 10_000 });
  if (!data || data.items.length === 0) return null;
  const done = lately(data.items);
  const half = halfOf(quantity, decimals);
  const loses = done.meanR !== null && done.meanR < 0;
  return (
    <div className="flex flex-wrap items-center gap-2" role="group" aria-label={`How ${setup} has done`}>
      <SetupMarks marks={done.marks} />
      <span>{latelyWords(setup, done)}</span>
      {loses && <span className="plate heather whitespace-normal">{words ?? `${setup} has lost on average. Half the size?`}</span>}
      {loses && half !== null && (
        <button type="button" className="underline underline-offset-4" onClick={() => onHalf(half)}>
          {half} instead
        </button>
      )}
    </div>
  );
}
