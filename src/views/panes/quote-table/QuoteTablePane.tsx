import { useStore } from '@nanostores/react';
import { createColumnHelper, getCoreRowModel, getSortedRowModel, useReactTable, type SortingState } from '@tanstack/react-table';
import { useEffect, useMemo, useRef, useState } from 'react';
import { accountFor } from '../../client/session.ts';
import type { Instrument } from '../../core/instrument/index.ts';
import { instrumentOf } from '../../live/index.ts';
import { OrderCells } from '../act/OrderCells.tsx';
import { takesInstrument } from '../workspace/drag.ts';
import { QUOTE_COLUMNS, setting } from '../workspace/pane-settings.ts';
import { $letters, $panes, setInstrument, setPaneSetting, settingOf, targetOf } from '../workspace/panes.ts';
import { QuoteRow } from './QuoteRow.tsx';
import { groupsOf, sortValue } from './quote-cells.ts';
import { usePaneCommands } from '../act/keys.ts';

const FIRST_ROWS = [
  'GANET.HALM', 'GANET.QUAY', 'KELPA.HALM', 'BRINE.HALM', 'HALMF.HALM', 'HALM40.HALM', 'HALM40-JUN26.HALM', 'HALM40M-JUN26.HALM',
  'SALMO-JUN26.HALM', 'GANET-APR26-40C.HALM', 'CARB-EUR.VSPR', 'CARBI.VSPR',
]; // prettier-ignore
const SORT_AGAIN_MS = 2000;
const UNSORTED: SortingState = [];
const WORDS: ReadonlyMap<string, string> = new Map(QUOTE_COLUMNS);
const LEFT = new Set(['name', 'kind', 'venue', 'sector', 'state', 'day', 'balance']);

/** Any instruments of any kinds and venues in one table, from which one can trade. */
export function QuoteTablePane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const ids = settingOf<readonly string[]>(pane, 'instruments', FIRST_ROWS);
  const columns = setting<readonly string[]>(pane, 'columns');
  const decimals = setting<string>(pane, 'decimals');
  const by = setting<string>(pane, 'by');
  const sorting = settingOf<SortingState>(pane, 'sorting', UNSORTED);
  const target = targetOf(id);
  const [search, setSearch] = useState('');
  const over = useRef(false);

  const wanted = useMemo(() => matching(ids, search), [ids, search]);
  // A sorted table is put in order again from time to time, never under the pointer: a new list of the same rows.
  const [fresh, setFresh] = useState({ of: wanted, rows: wanted });
  useEffect(() => {
    if (sorting.length === 0) return undefined;
    const timer = setInterval(() => !over.current && setFresh({ of: wanted, rows: [...wanted] }), SORT_AGAIN_MS);
    return () => clearInterval(timer);
  }, [sorting.length, wanted]);
  const data = fresh.of === wanted ? fresh.rows : wanted;
  const helper = useMemo(() => createColumnHelper<Instrument>(), []);
  const defined = useMemo(
    () => [
      helper.accessor('id', { id: 'instrument' }),
      ...columns.map((name) => helper.accessor((row) => sortValue(row, name), { id: name, sortUndefined: 'last' })),
    ],
    [helper, columns],
  );
  const table = useReactTable({
    data: data as Instrument[],
    columns: defined,
    state: { sorting },
    onSortingChange: (next) => setPaneSetting(id, 'sorting', typeof next === 'function' ? next(sorting) : next),
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    // There are no pages and nothing to reset; left on, it would draw the table again and again.
    autoResetAll: false,
  });
  const rows = table.getRowModel().rows.map((row) => row.original);
  const groups = by === 'none' ? [{ name: null, rows }] : groupsOf(rows, by);
  const flat = groups.flatMap((group) => group.rows.map((row) => row.id));
  const walk = (step: number): void => {
    const at = flat.indexOf(target?.instrument ?? '');
    const next = flat[Math.max(0, Math.min(flat.length - 1, at + step))];
    if (next) setInstrument(id, next);
  };
  const accountOf = (instrument: string): string => (target?.instrument === instrument ? target.account : accountFor(instrument, target?.account));
  const add = (instrument: string): void => setPaneSetting(id, 'instruments', [...new Set([...ids, instrument])]);
  const out = (instrument: string): void => setPaneSetting(id, 'instruments', ids.filter((one) => one !== instrument)); // prettier-ignore
  usePaneCommands(id, [
    { keys: ['ArrowDown'], words: 'the next row', repeats: true, run: () => walk(1) },
    { keys: ['ArrowUp'], words: 'the row before', repeats: true, run: () => walk(-1) },
    {
      keys: ['Delete'],
      words: 'take the shown instrument out of the table',
      cannot: () => (target && ids.includes(target.instrument) ? null : 'what is shown is not in this table'),
      run: () => void (target && out(target.instrument)),
    },
  ]);
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[26px] shrink-0 items-center gap-2 px-2">
        <input
          className="field w-[130px] !h-[20px]"
          placeholder="search these rows"
          aria-label="Search these rows"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Escape') setSearch('');
          }}
        />
        {target && !ids.includes(target.instrument) && (
          <button type="button" className="control !min-h-[20px]" onClick={() => add(target.instrument)}>
            Add {target.instrument}
          </button>
        )}
        <span className="ml-auto quiet">{rows.length} rows</span>
      </div>
      <OrderCells pane={id} accountOf={accountOf} className="min-h-0 flex-1" onHover={(is) => (over.current = is)}>
        <div className="scroll h-full" tabIndex={0} role="group" aria-label="Quotes" {...takesInstrument(add)}>
          {rows.length === 0 && (
            <p className="p-2 quiet">
              {ids.length === 0 ? 'No rows. Drag an instrument here, or link the pane and add what it shows.' : 'None of these rows match.'}
            </p>
          )}
          <table className="list quotes">
            <caption className="sr-only">Quotes</caption>
            <thead>
              <tr>
                {table.getFlatHeaders().map((header) => {
                  const sorted = header.column.getIsSorted();
                  const words = header.id === 'instrument' ? 'instrument' : (WORDS.get(header.id) ?? header.id);
                  return (
                    <th
                      key={header.id}
                      className={header.id === 'instrument' || LEFT.has(header.id) ? '' : 'right'}
                      aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                    >
                      <button type="button" className="quiet" onClick={header.column.getToggleSortingHandler()}>
                        {words}
                        {sorted === 'asc' ? ' ↑' : sorted === 'desc' ? ' ↓' : ''}
                      </button>
                    </th>
                  );
                })}
                <th>
                  <span className="sr-only">take out</span>
                </th>
              </tr>
            </thead>
            {groups.map((group) => (
              <tbody key={group.name ?? 'all'}>
                {group.name !== null && (
                  <tr>
                    <th scope="rowgroup" colSpan={columns.length + 2} className="!static !text-ink">
                      {group.name} · {group.rows.length}
                    </th>
                  </tr>
                )}
                {group.rows.map((instrument) => (
                  <QuoteRow
                    key={instrument.id}
                    pane={id}
                    instrument={instrument}
                    account={accountOf(instrument.id)}
                    columns={columns}
                    decimals={decimals}
                    selected={instrument.id === target?.instrument}
                    onOut={() => out(instrument.id)}
                  />
                ))}
              </tbody>
            ))}
          </table>
        </div>
      </OrderCells>
    </div>
  );
}

/** The instruments of a table whose ticker or name holds what is searched. */
function matching(ids: readonly string[], search: string): readonly Instrument[] {
  const wanted = search.trim().toUpperCase();
  return ids.flatMap((id) => {
    const instrument = instrumentOf(id);
    const fits = instrument && (wanted === '' || id.includes(wanted) || instrument.name.toUpperCase().includes(wanted));
    return fits ? [instrument] : [];
  });
}
