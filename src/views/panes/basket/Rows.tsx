import { useMemo, type ReactNode } from 'react';
import { newRow, slippedTicks, takesLimit, takesStop, type DraftRow } from '../../../client/baskets.ts';
import { ORDER_TYPES } from '../../../core/instrument/index.ts';
import { Choice } from '../../../kit/Choice.tsx';
import { grouped, signed } from '../../../kit/Figure.tsx';
import { Grid, useGrid, type GridColumn } from '../../../kit/Grid.tsx';
import { Pennant } from '../../../kit/Instrument.tsx';
import { Menu, MenuItem } from '../../../kit/Menu.tsx';
import { $positions, $session, instrumentOf, positionKey, type ApiBasketRun, type Problem } from '../../../live/index.ts';
import { useSavedPlans } from '../../act/queries.tsx';
import { followInRow } from '../../act/quote-cells.ts';
import { chosenColumns } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { InstrumentCell } from './InstrumentCell.tsx';
import { BASKET } from './settings.ts';
import type { ApiCheck } from './use-basket.ts';

const UNTIL = ['day', 'gtc', 'ioc', 'fok'].map((value) => ({ value, words: value }));
const TYPES = ORDER_TYPES.map((value) => ({ value, words: value }));

interface Props {
  readonly rows: readonly DraftRow[];
  readonly onChange: (rows: readonly DraftRow[]) => void;
  readonly columns: readonly string[];
  readonly problems: ReadonlyMap<string, string>;
  readonly check: ApiCheck | null;
  readonly run: ApiBasketRun | null;
  /** What is said of a row of the run or the basket that stands beside, by the row's id; null where none does. */
  readonly beside: { readonly head: string; readonly words: ReadonlyMap<string, string> } | null;
  readonly onRing: (row: DraftRow) => void;
}

/** A row as the table shows it, with its place among the others. */
interface Shown extends DraftRow {
  readonly at: number;
}

/** The rows of a basket, filled by keyboard alone: `Tab` to the next cell, the arrows to the rows above and below, `Enter` to a new row. */
export function Rows(props: Props) {
  const { rows, onChange, columns, problems, check, run, beside } = props;
  const plans = useSavedPlans().data?.items ?? [];
  const set = (id: string, to: Partial<DraftRow>): void => onChange(rows.map((row) => (row.id === id ? { ...row, ...to } : row)));
  const walk = (event: React.KeyboardEvent<HTMLElement>, at: number): void => {
    const column = (event.target as HTMLElement).dataset['cell'];
    const own = event.key === 'Enter' && event.ctrlKey;
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (event.key === 'Enter' && !own) {
      event.preventDefault();
      const row = rows[at];
      if (row && at === rows.length - 1) onChange([...rows, newRow(row.account, { side: row.side, type: row.type, until: row.until })]);
      focusSoon('instrument', at + 1);
    }
    if (step !== 0 && column !== undefined) {
      event.preventDefault();
      event.stopPropagation();
      focusSoon(column, at + step);
    }
  };
  const text = (
    row: Shown,
    field: 'quantity' | 'price' | 'stop' | 'setup',
    label: string,
    width: string,
    more: { off?: boolean; hint?: string } = {},
  ): ReactNode => (
    <input
      data-cell={field}
      data-row={row.at}
      className={`field ${field === 'setup' ? '' : 'figure'} ${width}`}
      aria-label={`${label}, row ${row.at + 1}`}
      disabled={more.off}
      placeholder={more.off ? '' : more.hint}
      spellCheck={false}
      autoComplete="off"
      value={more.off ? '' : row[field]}
      onChange={(event) => set(row.id, { [field]: event.target.value })}
      onKeyDown={(event) => walk(event, row.at)}
    />
  );
  const all: GridColumn<Shown>[] = [
    {
      id: 'instrument',
      head: 'instrument',
      cell: (row) => (
        <InstrumentCell
          label={`Instrument, row ${row.at + 1}`}
          value={row.instrument}
          cell={{ 'data-cell': 'instrument', 'data-row': String(row.at) }}
          onPick={(instrument) => set(row.id, { instrument })}
        />
      ),
    },
    {
      id: 'side',
      head: 'side',
      cell: (row) => (
        <button
          type="button"
          data-cell="side"
          data-row={row.at}
          aria-label={`Side, row ${row.at + 1}: ${row.side}`}
          onClick={() => set(row.id, { side: row.side === 'buy' ? 'sell' : 'buy' })}
          onKeyDown={(event) => {
            if (event.key === 'b' || event.key === 's') set(row.id, { side: event.key === 'b' ? 'buy' : 'sell' });
            else if (event.key !== 'Enter') walk(event, row.at);
          }}
        >
          <Pennant side={row.side} />
        </button>
      ),
    },
    { id: 'quantity', head: 'quantity', figure: true, cell: (row) => text(row, 'quantity', 'Quantity', 'w-[76px]') },
    {
      id: 'type',
      head: 'type',
      cell: (row) => (
        <Choice label={`Type, row ${row.at + 1}`} className="w-[92px]" value={row.type} options={TYPES} onPick={(type) => set(row.id, { type })} />
      ),
    },
    {
      id: 'price',
      head: 'price',
      cell: (row) => text(row, 'price', 'Price', 'w-[124px]', { off: !takesLimit(row.type), hint: 'bid - 2 spreads' }),
    },
    { id: 'stop', head: 'stop', cell: (row) => text(row, 'stop', 'Stop price', 'w-[76px]', { off: !takesStop(row.type) }) },
    {
      id: 'until',
      head: 'until',
      cell: (row) => (
        <Choice label={`Until, row ${row.at + 1}`} className="w-[60px]" value={row.until} options={UNTIL} onPick={(until) => set(row.id, { until })} />
      ),
    },
    {
      id: 'account',
      head: 'account',
      cell: (row) => (
        <Choice
          label={`Account, row ${row.at + 1}`}
          className="w-[76px]"
          value={row.account}
          options={($session.get()?.accounts ?? []).map((value) => ({ value, words: value }))}
          onPick={(account) => set(row.id, { account })}
        />
      ),
    },
    {
      id: 'plan',
      head: 'exit plan',
      cell: (row) => (
        <Choice
          label={`Exit plan, row ${row.at + 1}`}
          className="w-[96px]"
          value={row.plan}
          options={[{ value: '', words: 'none' }, ...plans.map(({ name }) => ({ value: name ?? '', words: name ?? '' }))]}
          onPick={(plan) => set(row.id, { plan })}
        />
      ),
    },
    { id: 'setup', head: 'setup', cell: (row) => text(row, 'setup', 'Setup', 'w-[96px]') },
    { id: 'quote', head: 'bid / ask', figure: true, cell: ({ instrument }) => (instrument === '' ? null : <QuoteCells />) },
    { id: 'day', head: 'day %', figure: true, cell: ({ instrument }) => (instrument === '' ? null : <span data-column="percent" />) },
    {
      id: 'position',
      head: 'position',
      figure: true,
      cell: ({ account, instrument }) => {
        const quantity = $positions.get()[positionKey(account, instrument)]?.quantity ?? '0';
        return quantity === '0' ? '' : signed(quantity);
      },
    },
  ];
  const told: GridColumn<Shown>[] = [
    {
      id: 'told',
      head: run ? 'run' : 'check',
      cell: (row) => <Told row={row} problems={problems} check={check} run={run} />,
      cellProps: () => ({ className: 'w-full max-w-0 truncate' }),
    },
    ...(beside
      ? [
          {
            id: 'beside',
            head: beside.head,
            cell: (row: Shown) => beside.words.get(row.id) ?? '–',
          },
        ]
      : []),
    {
      id: 'acts',
      head: 'acts',
      sticks: true,
      cell: (row) => (
        <Menu
          align="end"
          trigger={
            <button type="button" className="px-1 text-quiet" aria-label={`What can be done with row ${row.at + 1}`}>
              …
            </button>
          }
        >
          <MenuItem onPick={() => onChange(rows.flatMap((one) => (one.id === row.id ? [one, newRow(one.account, one)] : [one])))}>duplicate</MenuItem>
          <MenuItem onPick={() => onChange(rows.filter((one) => one.id !== row.id))}>remove</MenuItem>
        </Menu>
      ),
    },
  ];
  const shown = useMemo(() => rows.map((row, at) => ({ ...row, at })), [rows]);
  const grid = useGrid<Shown>({ rows: shown, columns: [...chosenColumns(all, BASKET.columns.options, columns), ...told], keyOf: ({ id }) => id });
  return (
    <Grid
      grid={grid}
      name="Rows of the basket"
      empty="No rows."
      menu={false}
      onRing={(key) => {
        const row = rows.find(({ id }) => id === key);
        if (row && row.instrument !== '') props.onRing(row);
      }}
      live={(element, row) => {
        const instrument = instrumentOf(row.instrument);
        return instrument ? followInRow(element, instrument, 'own') : () => undefined;
      }}
      rowProps={(row) => (row.instrument === '' ? {} : dragsInstrument(row.instrument))}
    />
  );
}

const QuoteCells = () => (
  <span className="flex justify-end gap-1">
    <span data-column="bid" />
    <span className="text-quiet">/</span>
    <span data-column="ask" />
  </span>
);

/** Puts the caret into a cell once the row is there. */
const focusSoon = (column: string, row: number): void =>
  void setTimeout(() => {
    const cell = document.querySelector<HTMLInputElement>(`[data-cell="${column}"][data-row="${row}"]`);
    cell?.focus();
    if (cell instanceof HTMLInputElement) cell.select();
  });

const SENT_NOTHING = new Set<string>(['refused', 'skipped']);

export function runWords(row: ApiBasketRun['rows'][number]): string {
  const { state, filled, asked, averagePrice, arrival, slippage } = row;
  const instrument = instrumentOf(row.instrument);
  const ticks = instrument ? slippedTicks(row, instrument) : null;
  return [
    `${state} ${grouped(filled)} of ${grouped(asked)}`,
    averagePrice === null ? '' : ` at ${averagePrice}`,
    averagePrice === null || arrival === null ? '' : ` against ${arrival}`,
    slippage === null ? '' : `, slipped ${signed(slippage)}`,
    ticks === null ? '' : `, ${signed(ticks)} ticks`,
  ].join('');
}

type Judged = Pick<Props, 'problems' | 'check' | 'run'>;

/** Why a row is wrong, was refused or would be; null where it is none of these. */
function refusalOf({ id }: DraftRow, { problems, check, run }: Judged): string | null {
  const wrong = problems.get(id);
  if (wrong !== undefined) return wrong;
  const running = run?.rows.find((one) => one.id === id);
  if (running) return SENT_NOTHING.has(running.state) ? running.reason : null;
  const checked = check?.rows.find((one) => one.id === id);
  if (!checked || checked.ok) return null;
  const { detail, errors } = (checked.error ?? {}) as Partial<Problem>;
  return errors?.map(({ message }) => message).join('; ') ?? detail ?? checked.checks.find(({ result }) => result === 'refuse')?.message ?? 'it is refused';
}

/** Which rows are wrong or refused, and why: in their cells there is no room for it. */
export function Refusals({ rows, ...judged }: Judged & Pick<Props, 'rows'>) {
  const refused = rows.flatMap((row, at) => {
    const why = refusalOf(row, judged);
    return why === null ? [] : [{ row, at, why }];
  });
  if (refused.length === 0) return null;
  return (
    <ul className="scroll max-h-[72px] shrink-0 border-t border-hair px-2 py-1" aria-label="Rows that are refused">
      {refused.map(({ row, at, why }) => (
        <li key={row.id}>
          <span className="text-quiet">
            row {at + 1}, {row.instrument || 'no instrument'}:
          </span>{' '}
          {why}
        </li>
      ))}
    </ul>
  );
}

/** What is to be said of a row in its cell: that it is refused, how far it is, or what would come of it now. */
function Told({ row, ...judged }: Judged & { row: DraftRow }) {
  const why = refusalOf(row, judged);
  if (why !== null)
    return (
      <span className="plate heather" title={why}>
        refused
      </span>
    );
  const running = judged.run?.rows.find(({ id }) => id === row.id);
  if (running) {
    const share = Number(running.asked) === 0 ? 0 : Number(running.filled) / Number(running.asked);
    return (
      <span className="flex items-center gap-2" title={runWords(running)}>
        <span
          className="h-[8px] w-[80px] shrink-0 border border-line"
          role="progressbar"
          aria-label={`Filled, ${row.instrument}`}
          aria-valuenow={Math.round(share * 100)}
        >
          <span className="block h-full bg-ink" style={{ width: `${share * 100}%` }} />
        </span>
        <span className="truncate">{runWords(running)}</span>
      </span>
    );
  }
  const checked = judged.check?.rows.find(({ id }) => id === row.id);
  return checked ? <span title={checked.sentence}>{effectWords(checked.estimate)}</span> : null;
}

/** What an order would do as it comes: fill so much now, rest with the others. */
function effectWords(estimate: ApiCheck['rows'][number]['estimate']): string {
  if (!estimate) return 'passes';
  const { fills, unfilledQuantity, averagePrice } = estimate;
  const now = fills.reduce((sum, { quantity }) => sum + Number(quantity), 0);
  if (now === 0) return 'rests';
  return `fills ${grouped(String(now))} now at about ${averagePrice ?? '–'}${Number(unfilledQuantity) > 0 ? `, ${grouped(unfilledQuantity)} rest` : ''}`;
}
