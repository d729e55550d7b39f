import { useStore } from '@nanostores/react';
import { createContext, useContext, useEffect, useMemo, useState } from 'react';
import { Button } from '../../../kit/Button.tsx';
import { Empty } from '../../../kit/Empty.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { Handle } from '../../../kit/Handle.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { later, usePart } from '../../../kit/later.ts';
import { MenuItem, MenuLabel, RightMenu } from '../../../kit/Menu.tsx';
import { TextCell } from '../../../kit/TextCell.tsx';
import { instrumentOf } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { followInRow } from '../../act/quote-cells.ts';
import { usePaneGrid, walkCommands } from '../../act/table.ts';
import { dragsInstrument, takesInstrument } from '../../workspace/drag.ts';
import { $letters, $panes, setInstrument, settingOf, targetOf } from '../../workspace/panes.ts';
import { readSettings } from '../../workspace/settings.ts';
import { ListMenu } from './ListMenu.tsx';
import { WATCHLIST } from './settings.ts';
import { $watchlists, COAST, changeWatchlist, loadWatchlist, type WatchRow } from './watchlists.ts';

/** A row and its place in the list, by which it is known: an instrument may stand in a list twice. */
interface Placed {
  readonly at: number;
  readonly key: string;
  readonly row: WatchRow;
}

type Column = (typeof WATCHLIST.columns.options)[number][0];
const WORDS: ReadonlyMap<string, string> = new Map(WATCHLIST.columns.options);
const place = (row: WatchRow, at: number): Placed => ({ at, row, key: 'section' in row ? `section ${at} ${row.section}` : `${at} ${row.instrument}` });

interface Editing {
  /** The place of the row whose note, or of the section whose name, is edited. */
  readonly edited: number | null;
  readonly edit: (at: number) => void;
  /** Null takes the row out; the same row leaves it as it is. */
  readonly change: (placed: Placed, next: WatchRow | null) => void;
}

const columnsFor = (chosen: readonly Column[], { edited, change }: Editing): GridColumn<Placed>[] => [
  { id: 'move', head: 'move', unseen: true, cell: ({ row }) => <Handle of={'section' in row ? row.section : row.instrument} />, cellProps: () => ({ className: 'p-0 w-[14px]' }) }, // prettier-ignore
  {
    id: 'instrument',
    head: 'instrument',
    cell: (placed) => {
      const { row, at } = placed;
      if ('section' in row) return row.section;
      return (
        <>
          {row.mark && <span className="mr-1 rounded-[2px] border border-line px-[3px] text-[11px]">{row.mark}</span>}
          <InstrumentName id={row.instrument} />
          {row.note && <span className="text-quiet"> ·</span>}
          {edited === at && (
            <TextCell
              label={`Note on ${row.instrument}`}
              value={row.note ?? ''}
              onDone={(note) => change(placed, note === null || note === (row.note ?? '') ? row : { ...row, note })}
            />
          )}
        </>
      );
    },
    cellProps: ({ row }) => ({ className: 'w-full max-w-0 truncate', ...('instrument' in row ? dragsInstrument(row.instrument) : {}) }),
  },
  ...chosen.map((id): GridColumn<Placed> => {
    const head = WORDS.get(id) ?? id;
    if (id === 'note')
      return { id, head, cell: ({ row }) => ('instrument' in row ? row.note : ''), cellProps: () => ({ className: 'max-w-[110px] truncate' }) };
    if (id === 'mark') return { id, head, unseen: true, cell: ({ row }) => ('instrument' in row ? row.mark : '') };
    return { id, head, figure: true };
  }),
];

const SORTING = later(() => import('../../../kit/Sorting.tsx'));

/** One of the trader's own lists; a press or an arrow key walks it, and the linked panes follow. */
export default function WatchlistPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const name = settingOf(pane, 'list', COAST);
  const list = useStore($watchlists)[name];
  const { columns, decimals } = readSettings(pane, WATCHLIST);
  const target = targetOf(id);
  const [edited, setEdited] = useState<number | null>(null);
  const [pressed, setPressed] = useState<Placed | null>(null);
  useEffect(() => void loadWatchlist(name), [name, list]);
  const sorting = usePart(SORTING, false);
  const rows = useMemo(() => list?.rows ?? [], [list]);
  const placed = useMemo(() => rows.map(place), [rows]);
  const change = (next: readonly WatchRow[], words: string): void => void changeWatchlist(name, next, words);
  const add = (instrument: string): void => {
    if (!rows.some((row) => 'instrument' in row && row.instrument === instrument)) change([...rows, { instrument }], `${instrument} in ${name}`);
  };
  const editing: Editing = {
    edited,
    edit: setEdited,
    change: ({ at, row }, next) => {
      setEdited(null);
      if (next === null) change(rows.filter((_, i) => i !== at), `a row of ${name}`); // prettier-ignore
      else if (next !== row) change(rows.map((one, i) => (i === at ? next : one)), `a row of ${name}`); // prettier-ignore
    },
  };
  const own = rows.flatMap((row) => ('instrument' in row ? [row.instrument] : []));
  const missing = target && list && !own.includes(target.instrument) ? target.instrument : null;
  const at = rows.findIndex((row) => 'instrument' in row && row.instrument === target?.instrument);
  const notThere = at < 0 ? 'what is shown is not in this list' : null;
  usePaneCommands(id, [
    ...walkCommands('instrument', own, target?.instrument ?? null, (instrument) => setInstrument(id, instrument)),
    {
      keys: ['Delete'],
      words: 'take the shown instrument out of the list',
      cannot: () => notThere,
      run: () => change(rows.filter((_, i) => i !== at), `${target?.instrument ?? ''} in ${name}`), // prettier-ignore
    },
    { keys: ['F2'], words: 'a note for the shown instrument', cannot: () => notThere, run: () => setEdited(at) },
  ]);
  const shown = columnsFor(columns, editing);
  const grid = usePaneGrid({ pane, rows: placed, of: JSON.stringify(rows), columns: shown, keyOf: ({ key }) => key });
  const table = (
    <Grid
      className="[&_td]:px-[3px] [&_th]:px-[3px]"
      menu={false}
      grid={grid}
      name={`Watchlist ${name}`}
      empty={
        missing === null ? (
          `${name} is empty. Drag an instrument here, or paste a column of symbols.`
        ) : (
          <Empty says={`${name} is empty.`} offers={`add ${missing}`} onOffer={() => add(missing)} />
        )
      }
      selected={placed[at]?.key ?? null}
      onRing={(key) => {
        const row = placed.find((one) => one.key === key)?.row;
        if (row && 'instrument' in row) setInstrument(id, row.instrument);
      }}
      rowProps={({ row }) => ('instrument' in row ? { 'data-instrument': row.instrument, title: row.note } : {})}
      {...(sorting ? { rowAs: sorting.SortedRow } : {})}
      section={({ row, at: i, key }) => 'section' in row && <SectionHead key={key} placed={{ row, at: i, key }} />}
      live={(element, { row }) => {
        const instrument = 'instrument' in row ? instrumentOf(row.instrument) : undefined;
        return instrument ? followInRow(element, instrument, decimals) : () => undefined;
      }}
    />
  );
  return (
    <div className="flex h-full flex-col">
      <ListMenu id={id} name={name} rows={rows} />
      {list ? (
        <RightMenu
          trigger={
            <div
              className="min-h-0 flex-1"
              {...takesInstrument(add)}
              onContextMenu={(event) => {
                const key = (event.target as HTMLElement).closest<HTMLElement>('[data-key]')?.dataset['key'];
                const at = placed.find((one) => one.key === key);
                // Beside the rows there is no menu.
                if (at) setPressed(at);
                else event.preventDefault();
              }}
            >
              <EditContext value={editing}>
                {sorting ? (
                  <sorting.Sorted keys={placed.map(({ key }) => key)} onMove={(move) => change(move(rows), `the order of ${name}`)}>
                    {table}
                  </sorting.Sorted>
                ) : (
                  table
                )}
              </EditContext>
            </div>
          }
        >
          {pressed && <RowMenu placed={pressed} editing={editing} />}
        </RightMenu>
      ) : (
        <div className="skeleton min-h-0 flex-1" role="status" aria-label="Loading the list" />
      )}
      {missing && (
        <Button className="m-1 shrink-0" onClick={() => add(missing)}>
          Add {missing}
        </Button>
      )}
    </div>
  );
}

const EditContext = createContext<Editing | null>(null);

function SectionHead({ placed }: { placed: Placed }) {
  const editing = useContext(EditContext);
  const name = 'section' in placed.row ? placed.row.section : '';
  return (
    <span className="flex items-center" onDoubleClick={() => editing?.edit(placed.at)}>
      <Handle of={name} />
      {editing?.edited === placed.at ? (
        <TextCell
          label={`New name of ${name}`}
          value={name}
          onDone={(section) => editing.change(placed, section && section !== name ? { section } : placed.row)}
        />
      ) : (
        name
      )}
    </span>
  );
}

/** What can be done with a row: the right press's menu. */
function RowMenu({ placed, editing }: { placed: Placed; editing: Editing }) {
  const { row } = placed;
  const change = (next: WatchRow | null): void => editing.change(placed, next);
  const edit = (): void => void setTimeout(() => editing.edit(placed.at), 60);
  return (
    <>
      {'instrument' in row ? (
        <>
          <MenuLabel>Letter of {row.instrument}</MenuLabel>
          <div className="grid grid-cols-7">
            {[...'ABCDEFGHIJKLMNOPQRSTUVWXYZ'].map((mark) => (
              <MenuItem key={mark} onPick={() => change({ ...row, mark })}>
                {mark}
              </MenuItem>
            ))}
          </div>
          <MenuItem onPick={() => change({ ...row, mark: null })}>No letter</MenuItem>
          <MenuItem onPick={edit}>Note …</MenuItem>
        </>
      ) : (
        <MenuItem onPick={edit}>Rename the section</MenuItem>
      )}
      <MenuItem onPick={() => change(null)}>Take out</MenuItem>
    </>
  );
}
