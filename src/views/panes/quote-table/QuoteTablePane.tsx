import { useStore } from '@nanostores/react';
import { X } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { openSlip } from '../../../client/gestures/index.ts';
import { accountFor, sizeOf } from '../../../client/session.ts';
import type { Instrument } from '../../../core/instrument/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Empty } from '../../../kit/Empty.tsx';
import { grouped, resultClass, signed } from '../../../kit/Figure.tsx';
import { Grid, type GridColumn } from '../../../kit/Grid.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { $positions, $working, instrumentOf, positionKey, quoteOf, type ApiPosition } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { OrderCells, orderCell } from '../../act/OrderCells.tsx';
import { followInRow, sortValue } from '../../act/quote-cells.ts';
import { usePaneGrid, walkCommands } from '../../act/table.ts';
import { dragsInstrument, takesInstrument } from '../../workspace/drag.ts';
import { $letters, $panes, setInstrument, setPaneSetting, settingOf, targetOf } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { DayLine } from './DayLine.tsx';
import { QUOTES } from './settings.ts';

// prettier-ignore
const FIRST_ROWS = [
  'GANET.HALM', 'KELPA.HALM', 'BRINE.HALM', 'HALMF.HALM', 'GANET.QUAY', 'HALM40.HALM', 'HALM40-JUN26.HALM',
  'HALM40M-JUN26.HALM', 'SALMO-JUN26.HALM', 'GANET-APR26-40C.HALM', 'CARB-EUR.VSPR', 'CARBI.VSPR',
];
type Column = (typeof QUOTES.columns.options)[number][0];
const WORDS: ReadonlyMap<string, string> = new Map(QUOTES.columns.options);
const LEFT = new Set<Column>(['name', 'kind', 'venue', 'sector', 'state', 'day', 'balance']);

const GROUPS = [
  { id: 'venue', words: 'venue', of: (row: Instrument) => row.venue },
  { id: 'kind', words: 'kind', of: (row: Instrument) => row.kind },
  { id: 'sector', words: 'sector', of: (row: Instrument) => row.sector ?? 'none' },
];

interface Around {
  readonly pane: string;
  readonly accountOf: (instrument: string) => string;
  readonly positionOf: (instrument: string) => ApiPosition | undefined;
  readonly workingOf: (instrument: string) => number;
  readonly onOut: (instrument: string) => void;
}

/** The slip, seeded with exactly what was pressed. */
function seed({ pane, accountOf }: Around, instrument: string, side: 'buy' | 'sell', given: { quantity?: string; limitPrice?: string; reduceOnly?: boolean }) {
  const account = accountOf(instrument);
  openSlip(pane, {
    account,
    instrument,
    side,
    type: given.limitPrice === undefined ? 'market' : 'limit',
    quantity: given.quantity ?? sizeOf(account, instrument),
    ...(given.limitPrice === undefined ? {} : { limitPrice: given.limitPrice }),
    ...(given.reduceOnly ? { reduceOnly: true } : {}),
  });
}

/** How a column's cell is made; what the market writes has none. */
function cellOf(column: Column, around: Around): Pick<GridColumn<Instrument>, 'cell' | 'cellProps'> {
  switch (column) {
    case 'bid':
    case 'ask':
      return { cellProps: () => orderCell(column === 'bid' ? 'buy' : 'sell') };
    case 'bidQuantity':
    case 'askQuantity': {
      const [side, words] = column === 'bidQuantity' ? (['buy', 'Bid'] as const) : (['sell', 'Ask'] as const);
      const press = ({ id }: Instrument): void => {
        const text = quoteOf(id)?.text;
        const [limitPrice, quantity] = side === 'buy' ? [text?.bid, text?.bidQuantity] : [text?.ask, text?.askQuantity];
        if (limitPrice && quantity) seed(around, id, side, { quantity, limitPrice });
      };
      return {
        cell: (row) => (
          <button type="button" className="figure" onClick={() => press(row)}>
            <span className="sr-only">{`${words} quantity of ${row.id} `}</span>
            <span data-column={column} />
          </button>
        ),
      };
    }
    case 'position':
      return {
        cell: ({ id }) => {
          const quantity = around.positionOf(id)?.quantity ?? '0';
          const close = (): void => seed(around, id, Number(quantity) > 0 ? 'sell' : 'buy', { quantity: quantity.replace('-', ''), reduceOnly: true });
          return (
            quantity !== '0' && (
              <button type="button" className="figure underline underline-offset-2" onClick={close}>
                {grouped(quantity.replace('-', '−'))}
              </button>
            )
          );
        },
      };
    case 'result': {
      const openOf = (id: string): string => {
        const held = around.positionOf(id);
        return held && held.quantity !== '0' ? held.unrealised : '';
      };
      return {
        cell: ({ id }) => openOf(id) && signed(openOf(id)),
        cellProps: ({ id }) => ({ className: openOf(id) === '' ? '' : resultClass(openOf(id)) }),
      };
    }
    case 'day':
      return { cell: ({ id }) => <DayLine instrument={id} /> };
    case 'balance':
      return { cell: () => <span data-column="balance" className="block"><span className="block h-[8px] w-[52px]" /></span> }; // prettier-ignore
    case 'name':
    case 'kind':
    case 'venue':
    case 'sector':
      return { cell: (row) => row[column] };
    default:
      return {};
  }
}

const columnsFor = (columns: readonly Column[], around: Around): GridColumn<Instrument>[] => [
  {
    id: 'instrument',
    head: 'instrument',
    cell: ({ id }) => (
      <>
        <InstrumentName id={id} />
        {around.workingOf(id) > 0 && <span className="plate brass ml-1 px-1 text-[11px]">{around.workingOf(id)}</span>}
      </>
    ),
    cellProps: ({ id }) => dragsInstrument(id),
    value: ({ id }) => id,
  },
  ...columns.map((column) => ({
    id: column,
    head: WORDS.get(column) ?? column,
    figure: !LEFT.has(column),
    ...cellOf(column, around),
    value: (row: Instrument) => sortValue(row, column),
  })),
  {
    id: 'out',
    head: 'take out',
    sticks: true,
    cell: ({ id }) => (
      <button type="button" className="grid h-[20px] w-[20px] place-items-center text-quiet" aria-label={`Take out ${id}`} onClick={() => around.onOut(id)}>
        <X size={11} />
      </button>
    ),
  },
];

/** Any instruments of any kinds and venues in one table, from which one can trade. */
export default function QuoteTablePane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const working = useStore($working);
  const positions = useStore($positions);
  const ids = settingOf<readonly string[]>(pane, 'instruments', FIRST_ROWS);
  const { columns, decimals, by } = useSettings(pane, QUOTES);
  const target = targetOf(id);
  const [search, setSearch] = useState('');
  const rows = useMemo(() => matching(ids, search), [ids, search]);
  const accountOf = (instrument: string): string => (target?.instrument === instrument ? target.account : accountFor(instrument, target?.account));
  const add = (instrument: string): void => setPaneSetting(id, 'instruments', [...new Set([...ids, instrument])]);
  const out = (instrument: string): void => setPaneSetting(id, 'instruments', ids.filter((one) => one !== instrument)); // prettier-ignore
  // The columns stay as they are while what they look at changes: a cell asks for it when it is drawn.
  const around = useRef<Around | null>(null);
  around.current = {
    pane: id,
    accountOf,
    positionOf: (instrument) => positions[positionKey(accountOf(instrument), instrument)],
    workingOf: (instrument) => working[positionKey(accountOf(instrument), instrument)]?.length ?? 0,
    onOut: out,
  };
  const shown = useMemo(() => {
    const now = (): Around => around.current as Around;
    return columnsFor(columns, {
      pane: id,
      accountOf: (one) => now().accountOf(one),
      positionOf: (one) => now().positionOf(one),
      workingOf: (one) => now().workingOf(one),
      onOut: (one) => now().onOut(one),
    });
  }, [columns, id]);
  const grid = usePaneGrid({ pane, rows, of: `${search} ${ids.join()}`, columns: shown, keyOf: (row) => row.id, groups: GROUPS, groupBy: by });
  usePaneCommands(id, [
    ...walkCommands('row', grid.keys, target?.instrument ?? null, (instrument) => setInstrument(id, instrument)),
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
          className="field w-[130px] h-[20px]"
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
          <Button size="small" onClick={() => add(target.instrument)}>
            Add {target.instrument}
          </Button>
        )}
        <span className="ml-auto text-quiet">{rows.length} rows</span>
      </div>
      <OrderCells pane={id} accountOf={accountOf} rowsOfTheirOwn className="min-h-0 flex-1">
        <div className="h-full" {...takesInstrument(add)}>
          <Grid
            grid={grid}
            name="Quotes"
            className="quotes [&_td]:px-[3px] [&_th]:px-[3px]"
            empty={
              ids.length > 0 ? (
                <Empty says="None of these rows match." offers="show all" onOffer={() => setSearch('')} />
              ) : target ? (
                <Empty says="No rows." offers={`add ${target.instrument}`} onOffer={() => add(target.instrument)} />
              ) : (
                'No rows. Drag an instrument here.'
              )
            }
            selected={target?.instrument ?? null}
            onRing={(instrument) => setInstrument(id, instrument)}
            rowProps={(row) => ({ 'data-instrument': row.id })}
            live={(element, row) => followInRow(element, row, decimals)}
          />
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
