import { X } from 'lucide-react';
import { grouped } from '../../../kit/Figure.tsx';
import { Handle, HandleOf } from '../../../kit/Handle.tsx';
import { Sorted, useSorted } from '../../../kit/Sorting.tsx';
import { PhraseField } from '../../act/PhraseField.tsx';
import type { ApiScanResult, Line } from './draft.ts';

type Count = ApiScanResult['lines'][number];

interface Props {
  readonly lines: readonly Line[];
  /** What each line with text counted in the last run, by its id. */
  readonly counts: ReadonlyMap<string, Count>;
  readonly universe: number;
  readonly onChange: (lines: readonly Line[]) => void;
  readonly onEnter: () => void;
}

/** The lines of a scan, each on or off, put in order by drag or keys. */
export function ScanLines({ lines, counts, universe, onChange, onEnter }: Props) {
  return (
    <Sorted keys={lines.map(({ id }) => id)} onMove={(move) => onChange(move(lines))}>
      <ol className="flex flex-col gap-1" aria-label="Lines of the scan">
        {lines.map((line, i) => (
          <OneLine
            key={line.id}
            line={line}
            number={i + 1}
            count={counts.get(line.id)}
            universe={universe}
            onChange={(next) => onChange(lines.map((one) => (one.id === line.id ? next : one)))}
            onDrop={() => onChange(lines.filter((one) => one.id !== line.id))}
            onEnter={onEnter}
          />
        ))}
      </ol>
    </Sorted>
  );
}

interface LineProps {
  readonly line: Line;
  readonly number: number;
  readonly count: Count | undefined;
  readonly universe: number;
  readonly onChange: (line: Line) => void;
  readonly onDrop: () => void;
  readonly onEnter: () => void;
}

function OneLine({ line, number, count, universe, onChange, onDrop, onEnter }: LineProps) {
  const { ref, style, handle } = useSorted(line.id);
  return (
    <li ref={ref} className="flex items-start gap-1" style={style} data-line={number}>
      <HandleOf value={handle}>
        <Handle of={`line ${number}`} className="mt-1" />
      </HandleOf>
      <input
        type="checkbox"
        className="mt-[5px] accent-lamp"
        aria-label={`Line ${number} counts`}
        checked={line.on}
        onChange={(event) => onChange({ ...line, on: event.target.checked })}
      />
      <div className="min-w-0 flex-1">
        <PhraseField
          label={`Line ${number}`}
          value={line.phrase}
          placeholder="such as: relative volume > 2"
          onChange={(phrase) => onChange({ ...line, phrase })}
          onEnter={onEnter}
        >
          <button type="button" className="grid h-[24px] w-[24px] place-items-center text-quiet" aria-label={`Drop line ${number}`} onClick={onDrop}>
            <X size={12} aria-hidden="true" />
          </button>
        </PhraseField>
        {count && line.on && <Counted count={count} universe={universe} />}
      </div>
    </li>
  );
}

/** How many pass the line alone and together with those above, in figures and as a thin bar. */
function Counted({ count, universe }: { count: Count; universe: number }) {
  const width = (n: number): string => `${universe === 0 ? 0 : (100 * n) / universe}%`;
  return (
    <div className="pb-1">
      <div className="relative h-[4px] bg-well" aria-hidden="true">
        <span className="absolute inset-y-0 left-0 border border-line" style={{ width: width(count.alone) }} />
        <span className="absolute inset-y-0 left-0 bg-line" style={{ width: width(count.together) }} />
      </div>
      <p className="text-quiet" title={count.unknownBecause === null ? undefined : `unknown: ${count.unknownBecause}`}>
        <span className="figure">{grouped(String(count.alone))}</span> alone, <span className="figure">{grouped(String(count.together))}</span> with those above
        {count.unknown > 0 && (
          <>
            , <span className="figure">{grouped(String(count.unknown))}</span> unknown: {count.unknownBecause}
          </>
        )}
      </p>
    </div>
  );
}
