import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import { clockText } from '../../../kit/clock.ts';
import { figureTo, grouped, placesOf } from '../../../kit/Figure.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { instrumentOf } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { usePaneGrid, useRinged } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $panes, setInstrument, setPaneSetting, settingOf, targetOf } from '../../workspace/panes.ts';
import type { ApiScanResult } from './draft.ts';

interface Row {
  readonly instrument: string;
  readonly values: readonly (string | null)[];
  /** Came since the run before, left, or nearly passes. */
  readonly change: 'came' | 'left' | 'almost' | null;
}

/** What is nearly there has a hollow mark. */
const MARKS = { came: '● new', left: 'gone', almost: '○ almost' } as const;

const columnsOf = (lines: readonly string[], rows: readonly Row[]): GridColumn<Row>[] => [
  {
    id: 'instrument',
    head: 'instrument',
    cell: (row) => <InstrumentName id={row.instrument} />,
    cellProps: (row) => dragsInstrument(row.instrument),
    value: (row) => row.instrument,
  },
  {
    id: 'change',
    head: 'since',
    cell: (row) => (row.change === null ? '' : MARKS[row.change]),
    value: (row) => row.change ?? '',
  },
  ...lines.map((phrase, k): GridColumn<Row> => {
    const places = placesOf(rows.flatMap(({ values }) => values[k] ?? []));
    return {
      id: `line ${k}`,
      head: phrase.replace(/ (<|>|=|is|rises|falls|crosses|within|between|turns|returns).*$/, ''),
      figure: true,
      cell: (row) => {
        const value = row.values[k];
        return value === null || value === undefined ? '–' : figureTo(value, places);
      },
      cellProps: (row) => ({ title: `${phrase}: ${row.values[k] ?? 'unknown'}` }),
      value: (row) => {
        const value = row.values[k];
        return value === null || value === undefined ? undefined : Number.isNaN(Number(value)) ? value : Number(value);
      },
    };
  }),
  {
    id: 'name',
    head: 'name',
    cell: (row) => instrumentOf(row.instrument)?.name,
    cellProps: () => ({ className: 'w-full max-w-0 truncate text-quiet' }),
    value: (row) => instrumentOf(row.instrument)?.name,
  },
];

interface Props {
  readonly pane: string;
  readonly phrases: readonly string[];
  readonly result: ApiScanResult;
  readonly before: ApiScanResult | null;
}

/** What a run found: walked by the arrow keys, and what is linked follows. */
export function ScanResults({ pane: id, phrases, result, before }: Props) {
  const pane = useStore($panes)[id];
  const nearly = settingOf<boolean>(pane, 'almost', false);
  const rows = useMemo((): Row[] => {
    const known = new Set(before?.items.map(({ instrument }) => instrument));
    const now = new Set(result.items.map(({ instrument }) => instrument));
    const found = result.items.map((item): Row => ({ ...item, change: before && !known.has(item.instrument) ? 'came' : null }));
    const left = (before?.items ?? []).filter(({ instrument }) => !now.has(instrument)).map((item): Row => ({ ...item, change: 'left' }));
    const almost = nearly ? result.almost.map((item): Row => ({ ...item, change: 'almost' })) : [];
    return [...found, ...almost, ...left.filter(({ instrument }) => !almost.some((one) => one.instrument === instrument))];
  }, [result, before, nearly]);
  const columns = useMemo(() => columnsOf(phrases, rows), [phrases, rows]);
  const grid = usePaneGrid({ pane, rows, of: result.id, columns, keyOf: (row) => row.instrument });
  const { ringed, ring, commands } = useRinged(grid.keys, (instrument) => setInstrument(id, instrument));
  usePaneCommands(id, commands);
  return (
    <>
      <p className="h-[20px] shrink-0 truncate px-2 text-quiet">
        {grouped(String(result.count))} of {grouped(String(result.universe))} at {clockText('Atlantic/Faroe', result.at)}, in {result.milliseconds} ms
        {result.almost.length > 0 && (
          <label className="ml-3 inline-flex items-center gap-1">
            <input type="checkbox" className="accent-lamp" checked={nearly} onChange={(event) => setPaneSetting(id, 'almost', event.target.checked)} />
            {result.almost.length} almost
          </label>
        )}
      </p>
      <Grid
        className="min-h-0 flex-1"
        grid={grid}
        name="What the scan found"
        empty="Nothing fits all lines. Switch a line off, or loosen the one that few pass alone."
        ringed={ringed}
        selected={targetOf(id)?.instrument ?? null}
        onRing={ring}
      />
    </>
  );
}
