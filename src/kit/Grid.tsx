import {
  useReactTable,
  getCoreRowModel,
  getExpandedRowModel,
  getGroupedRowModel,
  getSortedRowModel,
  type ColumnDef,
  type SortingState,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Ellipsis } from 'lucide-react';
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type ComponentProps, type ComponentType, type ReactNode } from 'react';
import { followInView } from './in-view.ts';
import { Menu, MenuChoice, MenuItem, MenuLine } from './Menu.tsx';
import { saveFile } from './save-file.ts';

export type Sorting = SortingState;
type CellProps = ComponentProps<'td'> & Readonly<Record<`data-${string}`, string | undefined>>;
type RowProps = ComponentProps<'tr'> & Readonly<Record<`data-${string}`, string | undefined>>;

/** A column of a table over rows `R`. */
export interface GridColumn<R> {
  readonly id: string;
  readonly head: string;
  /** Figures stand at the right. */
  readonly figure?: boolean;
  /** What the cell shows; a column without it is written by the row's `live`, into `[data-column]`. */
  readonly cell?: (row: R) => ReactNode;
  /** More of the cell: its class, tooltip, what it can be dragged as. */
  readonly cellProps?: (row: R) => CellProps;
  /** What it sorts by, and what stands in the CSV; a column without it is neither sorted nor saved. */
  readonly value?: (row: R) => number | string | undefined;
  readonly csv?: (row: R) => string;
  /** What stands below, over all rows. */
  readonly total?: (rows: readonly R[]) => ReactNode;
  /** Its head is there for those who listen alone. */
  readonly unseen?: true;
  /** Always in view, however narrow the pane: what the row's button does. */
  readonly sticks?: true;
}

export interface GridGroup<R> {
  readonly id: string;
  readonly words: string;
  readonly of: (row: R) => string;
  /** What is said beside a group's name, of the group as a whole. */
  readonly beside?: (name: string) => ReactNode;
}

interface Given<R> {
  readonly rows: readonly R[];
  /** What the rows are of, as a list's name or a filter: others are shown at once, also under the pointer. */
  readonly of?: string;
  readonly columns: readonly GridColumn<R>[];
  readonly keyOf: (row: R) => string;
  readonly sorting?: Sorting;
  readonly onSorting?: (sorting: Sorting) => void;
  readonly groups?: readonly GridGroup<R>[];
  readonly groupBy?: string | null;
  readonly onGroupBy?: (id: string | null) => void;
  /** Under the pointer its rows go on moving: it is stopped by hand, or seldom changes. */
  readonly moves?: true;
}

const NO_ROWS: never[] = [];
const UNSORTED: Sorting = [];
/** So often a table sorted by what the market changes is put in order again, never under the pointer. */
const SORT_AGAIN_MS = 2000;

/**
 * A table's rows as they are shown: chosen, sorted, grouped. While the pointer is over them they stand still: what is
 * new comes last, and what is gone keeps its place, quiet, until the pointer leaves.
 */
export function useGrid<R>(given: Given<R>) {
  const { rows, columns, keyOf, sorting = UNSORTED, onSorting, groups = [], groupBy = null } = given;
  const [over, setOver] = useState(false);
  const [round, setRound] = useState(0);
  const sorted = sorting.length > 0;
  useEffect(() => {
    if (!sorted || over) return undefined;
    const timer = setInterval(() => setRound((n) => n + 1), SORT_AGAIN_MS);
    return () => clearInterval(timer);
  }, [sorted, over]);
  const grouping = groups.find(({ id }) => id === groupBy);
  const defined = useMemo(
    (): ColumnDef<R>[] => [
      ...columns.map((column) => ({
        id: column.id,
        sortUndefined: 'last' as const,
        enableSorting: column.value !== undefined,
        accessorFn: (row: R) => column.value?.(row),
      })),
      ...groups.map(({ id, of }) => ({ id: `group ${id}`, accessorFn: of })),
    ],
    [columns, groups],
  );
  // What is neither sorted nor grouped is shown as it comes, however many they are.
  const asTheyCome = onSorting === undefined && groups.length === 0;
  // eslint-disable-next-line react-hooks/exhaustive-deps -- the same rows anew are what is put in order again
  const data = useMemo(() => (asTheyCome ? NO_ROWS : [...rows]), [asTheyCome, rows, round]);
  const table = useReactTable({
    data,
    columns: defined,
    getRowId: keyOf,
    state: {
      sorting: grouping ? [{ id: `group ${grouping.id}`, desc: false }, ...sorting] : sorting,
      grouping: grouping ? [`group ${grouping.id}`] : [],
      expanded: true,
    },
    onSortingChange: (next) => onSorting?.(typeof next === 'function' ? next(sorting) : next),
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getGroupedRowModel: getGroupedRowModel(),
    getExpandedRowModel: getExpandedRowModel(),
    groupedColumnMode: false,
    // There are no pages and nothing to reset; left on, it would draw the table again and again.
    autoResetAll: false,
  });
  const now = asTheyCome
    ? rows.map((row): Line<R> => ({ kind: 'row', key: keyOf(row), row, gone: false }))
    : table
        .getRowModel()
        .rows.map((row): Line<R> =>
          row.getIsGrouped()
            ? { kind: 'group', key: row.id, name: String(row.groupingValue), count: row.subRows.length }
            : { kind: 'row', key: row.id, row: row.original, gone: false },
        );
  const lines = useStill(now, over && !given.moves, JSON.stringify([given.of, sorting, groupBy]));
  return { ...given, table, lines, setOver, keys: lines.flatMap((line) => (line.kind === 'row' && !line.gone ? [line.key] : [])) };
}

type Line<R> =
  | { readonly kind: 'group'; readonly key: string; readonly name: string; readonly count: number }
  | { readonly kind: 'row'; readonly key: string; readonly row: R; readonly gone: boolean };

/** `as` says what the trader chose to see: chosen anew, nothing stays where it was. */
function useStill<R>(now: readonly Line<R>[], over: boolean, as: string): readonly Line<R>[] {
  const before = useRef<readonly Line<R>[]>(now);
  const seen = useRef(as);
  const still = over && seen.current === as ? keptInPlace(before.current, now) : now;
  useLayoutEffect(() => {
    before.current = still;
    seen.current = as;
  });
  return still;
}

function keptInPlace<R>(before: readonly Line<R>[], now: readonly Line<R>[]): readonly Line<R>[] {
  const there = new Map(now.map((line) => [line.key, line]));
  const known = new Set(before.map(({ key }) => key));
  const kept = before.map((line): Line<R> => there.get(line.key) ?? (line.kind === 'row' ? { ...line, gone: true } : line));
  return [...kept, ...now.filter(({ key }) => !known.has(key))];
}

type GridState<R> = ReturnType<typeof useGrid<R>>;

interface Props<R> {
  readonly grid: GridState<R>;
  /** The table's accessible name. */
  readonly name: string;
  /** What is said where there are no rows. */
  readonly empty: ReactNode;
  readonly ringed?: string | null;
  readonly selected?: string | null;
  readonly onRing?: (key: string) => void;
  readonly rowProps?: (row: R) => RowProps;
  /** Draws a row of its own kind around its cells. */
  readonly rowAs?: ComponentType<{ readonly row: R; readonly rowProps: RowProps; readonly children: ReactNode }>;
  /** A row that is a heading over the ones below it. */
  readonly section?: (row: R) => ReactNode;
  /** Follows what the row shows while it is in view, writing its `[data-column]` cells; gives how to end it. */
  readonly live?: (element: HTMLElement, row: R) => () => void;
  /** Whether it offers to be saved and grouped; it does unless told otherwise. */
  readonly menu?: boolean;
  /** What can be done with the table besides. */
  readonly menuItems?: ReactNode;
  readonly className?: string;
  readonly onHover?: (over: boolean) => void;
}

/** More rows than these are drawn as they are scrolled to. */
const VIRTUAL_FROM = 80;
const ROW_PX = 22;

/** A table: sorted by its heads, walked and ringed, with totals below and what can be done with it at the head's end. */
export function Grid<R>(props: Props<R>) {
  const { grid, name, empty, ringed = null, section, className = '', onHover } = props;
  const { lines, columns, table } = grid;
  const scroll = useRef<HTMLDivElement>(null);
  const many = lines.length > VIRTUAL_FROM;
  // Asking for a height makes the browser lay out the page at once.
  const rowPx = (many ? scroll.current?.querySelector<HTMLElement>('tbody tr[data-key]')?.offsetHeight : undefined) ?? ROW_PX;
  const virtual = useVirtualizer({
    count: lines.length,
    enabled: many,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowPx,
    overscan: 12,
  });
  const at = ringed === null ? -1 : lines.findIndex(({ key }) => key === ringed);
  useEffect(() => {
    if (at < 0) return;
    if (many) virtual.scrollToIndex(at, { align: 'auto' });
    else scroll.current?.querySelector(`[data-key="${CSS.escape(lines[at]?.key ?? '')}"]`)?.scrollIntoView({ block: 'nearest' });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only where another row is ringed
  }, [ringed]);
  const shown = many ? virtual.getVirtualItems().map(({ index }) => index) : lines.map((_, i) => i);
  const from = shown[0] ?? 0;
  const to = shown[shown.length - 1] ?? -1;
  const over = (is: boolean): void => {
    grid.setOver(is);
    onHover?.(is);
  };
  const offers = props.menu !== false;
  // What can be done with the table stands in the head over the rows' buttons, or in one of its own.
  const last = columns[columns.length - 1];
  const ends = offers && last?.sticks ? last : undefined;
  const more = offers && !ends;
  const span = columns.length + (more ? 1 : 0);
  const own = grid.rows;
  return (
    <div
      ref={scroll}
      className={`scroll h-full ${className}`}
      tabIndex={0}
      role="group"
      aria-label={name}
      onPointerEnter={() => over(true)}
      onPointerLeave={() => over(false)}
    >
      <table className="list">
        <caption className="sr-only">{name}</caption>
        <thead>
          <tr>
            {columns.map((column) => (
              <Head key={column.id} column={column} of={table.getColumn(column.id)} can={grid.onSorting !== undefined}>
                {column === ends && <TableMenu grid={grid} name={name} items={props.menuItems} />}
              </Head>
            ))}
            {more && (
              <th className="act right">
                <TableMenu grid={grid} name={name} items={props.menuItems} />
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {from > 0 && <tr aria-hidden="true" style={{ height: from * rowPx }} />}
          {shown.map((index) => {
            const line = lines[index];
            if (!line) return null;
            if (line.kind === 'group')
              return (
                <tr key={line.key}>
                  <th scope="rowgroup" colSpan={span} className="static text-ink">
                    {line.name} · {line.count}
                    {grid.groups?.find(({ id }) => id === grid.groupBy)?.beside?.(line.name)}
                  </th>
                </tr>
              );
            const heading = section?.(line.row);
            return <Row key={line.key} {...props} line={line} heading={heading ?? null} span={span} more={more} />;
          })}
          {lines.length === 0 && (
            <tr>
              <td colSpan={span} className="h-auto whitespace-normal border-b-0 p-2 text-quiet">
                {empty}
              </td>
            </tr>
          )}
          {to < lines.length - 1 && <tr aria-hidden="true" style={{ height: (lines.length - 1 - to) * rowPx }} />}
        </tbody>
        {own.length > 1 && columns.some((column) => column.total) && (
          <tfoot>
            <tr>
              {columns.map((column, i) => (
                <td key={column.id} className={`sticky bottom-0 border-t border-line bg-pane font-semibold ${column.figure ? 'figure' : ''}`}>
                  {column.total?.(own) ?? (i === 0 ? 'all' : '')}
                </td>
              ))}
              {more && <td className="sticky bottom-0 border-t border-line bg-pane" />}
            </tr>
          </tfoot>
        )}
      </table>
    </div>
  );
}

function Row<R>(props: Props<R> & { line: Extract<Line<R>, { kind: 'row' }>; heading: ReactNode; span: number; more: boolean }) {
  const { grid, line, heading, span, more, ringed, selected, onRing, live, rowAs: As } = props;
  const { row, key, gone } = line;
  const element = useRef<HTMLTableRowElement>(null);
  const heard = useRef(live);
  heard.current = live;
  // A column that is chosen anew is written at once, also while the market stands still.
  const shown = grid.columns.map(({ id }) => id).join(' ');
  useEffect(() => {
    const own = element.current;
    if (!own || gone || !heard.current) return undefined;
    let stop: (() => void) | undefined;
    const leave = followInView(own, (inView) => {
      stop?.();
      stop = inView ? heard.current?.(own, row) : undefined;
    });
    return () => {
      leave();
      stop?.();
    };
  }, [key, row, gone, shown]);
  const given = props.rowProps?.(row) ?? {};
  const rowProps: RowProps = {
    ...given,
    ref: element,
    'data-key': key,
    className: `${given.className ?? ''} ${ringed === key ? 'ringed' : ''} ${gone ? 'gone' : ''}`,
    ...(selected === undefined ? {} : { 'aria-selected': selected === key }),
    onPointerDown: (event) => {
      given.onPointerDown?.(event);
      if (event.button === 0 && !event.defaultPrevented && !(event.target as HTMLElement).closest('button, input')) onRing?.(key);
    },
  };
  const cells = heading ? (
    <th colSpan={span} className="static text-ink">
      {heading}
    </th>
  ) : (
    <>
      {grid.columns.map((column) => {
        const { className = '', ...own } = column.cellProps?.(row) ?? {};
        return (
          <td
            key={column.id}
            data-column={column.cell ? undefined : column.id}
            className={`${column.figure ? 'figure' : ''} ${column.sticks ? 'act right' : ''} ${className}`}
            {...own}
          >
            {column.cell?.(row)}
          </td>
        );
      })}
      {more && <td className="w-0 px-0" />}
    </>
  );
  return As ? (
    <As row={row} rowProps={rowProps}>
      {cells}
    </As>
  ) : (
    <tr {...rowProps}>{cells}</tr>
  );
}

type TanColumn<R> = ReturnType<GridState<R>['table']['getColumn']>;

function Head<R>({ column, of, can, children }: { column: GridColumn<R>; of: TanColumn<R>; can: boolean; children: ReactNode }) {
  const sorted = of?.getIsSorted() ?? false;
  const place = `${column.figure ? 'right' : ''} ${column.sticks ? 'act' : ''}`;
  if (!can || !column.value)
    return (
      <th className={place}>
        <span className={column.sticks || column.unseen ? 'sr-only' : ''}>{column.head}</span>
        {children}
      </th>
    );
  return (
    <th className={place} aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}>
      <button type="button" className="text-quiet" onClick={of?.getToggleSortingHandler()}>
        {column.head}
        {sorted === 'asc' ? ' ↑' : sorted === 'desc' ? ' ↓' : ''}
      </button>
    </th>
  );
}

function TableMenu<R>({ grid, name, items }: { grid: GridState<R>; name: string; items: ReactNode }) {
  const { groups = [], groupBy = null, onGroupBy, onSorting, sorting = UNSORTED } = grid;
  const none = { value: '', words: 'nothing' };
  return (
    <Menu
      align="end"
      trigger={
        <button type="button" className="grid h-[18px] w-[18px] place-items-center" aria-label={`Table: ${name}`}>
          <Ellipsis size={12} />
        </button>
      }
    >
      <MenuItem onPick={() => void saveCsv(grid, name)}>Save these rows as CSV</MenuItem>
      {items}
      {onSorting && sorting.length > 0 && <MenuItem onPick={() => onSorting([])}>Unsorted</MenuItem>}
      {onGroupBy && groups.length > 0 && (
        <>
          <MenuLine />
          <MenuChoice
            label="Group by"
            value={groupBy ?? ''}
            options={[none, ...groups.map(({ id, words }) => ({ value: id, words }))]}
            onPick={(id) => onGroupBy(id === '' ? null : id)}
          />
        </>
      )}
    </Menu>
  );
}

const rowsOf = <R,>({ lines }: GridState<R>): R[] => lines.flatMap((line) => (line.kind === 'row' && !line.gone ? [line.row] : []));

async function saveCsv<R>(grid: GridState<R>, name: string): Promise<void> {
  const { gridCsv } = await import('./grid-csv.ts');
  saveFile(`${name}.csv`, 'text/csv', gridCsv(grid.columns, rowsOf(grid)));
}
