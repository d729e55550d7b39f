import { useStore } from '@nanostores/react';
import { createColumnHelper, getCoreRowModel, getSortedRowModel, useReactTable, type SortingState } from '@tanstack/react-table';
import { X } from 'lucide-react';
import { Fragment, useEffect, useMemo, useRef, useState } from 'react';
import { formatPrice, type Instrument } from '../../core/instrument/index.ts';
import { grouped, resultClass, shortened, signed, writeFigure } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { paintInView } from '../../kit/in-view.ts';
import { writeClass, writeText, writeTitle } from '../../kit/write.ts';
import { $orders, $positions, followQuote, instrumentOf, isWorking, positionKey, quoteOf, type LiveQuote } from '../../live/index.ts';
import { OrderCells, orderCell } from '../act/OrderCells.tsx';
import { openSlip } from '../slip/slip-store.ts';
import { dragsInstrument, takesInstrument } from '../workspace/drag.ts';
import { QUOTE_COLUMNS, setting } from '../workspace/pane-settings.ts';
import { $letters, $panes, accountFor, setInstrument, setPaneSetting, settingOf, sizeOf, targetOf } from '../workspace/panes.ts';
import { dayLine, linePoints } from './day-lines.ts';

const FIRST_ROWS = [
  'GANET.HALM', 'GANET.QUAY', 'KELPA.HALM', 'BRINE.HALM', 'HALMF.HALM', 'HALM40.HALM', 'HALM40-JUN26.HALM', 'HALM40M-JUN26.HALM',
  'SALMO-JUN26.HALM', 'GANET-APR26-40C.HALM', 'CARB-EUR.VSPR', 'CARBI.VSPR',
]; // prettier-ignore
const SORT_AGAIN_MS = 2000;
const UNSORTED: SortingState = [];
const LINE = { width: 64, height: 16 };
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
  const [pulse, setPulse] = useState(0);
  const over = useRef(false);

  // A sorted table is put in order again from time to time, never under the pointer.
  useEffect(() => {
    if (sorting.length === 0) return undefined;
    const timer = setInterval(() => !over.current && setPulse((n) => n + 1), SORT_AGAIN_MS);
    return () => clearInterval(timer);
  }, [sorting.length]);

  const data = useMemo(() => {
    const wanted = search.trim().toUpperCase();
    return ids.flatMap((one) => {
      const instrument = instrumentOf(one);
      const fits = instrument && (wanted === '' || one.includes(wanted) || instrument.name.toUpperCase().includes(wanted));
      return fits ? [instrument] : [];
    });
    // The pulse asks for a fresh order of the same rows.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ids, search, pulse]);
  const helper = useMemo(() => createColumnHelper<Instrument>(), []);
  const defined = useMemo(
    () => [
      helper.accessor('id', { id: 'instrument' }),
      ...columns.map((name) => helper.accessor((row) => sortValue(row, name), { id: name, sortUndefined: 'last' })),
    ],
    [helper, columns],
  );
  const table = useReactTable({
    data,
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
        <div
          className="scroll h-full"
          tabIndex={0}
          role="group"
          aria-label="Quotes"
          {...takesInstrument(add)}
          onKeyDown={(event) => {
            if (event.key === 'Delete' && target && ids.includes(target.instrument)) out(target.instrument);
            if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
            event.preventDefault();
            walk(event.key === 'ArrowDown' ? 1 : -1);
          }}
        >
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
                  <Fragment key={instrument.id}>
                    <QuoteRow
                      pane={id}
                      instrument={instrument}
                      account={accountOf(instrument.id)}
                      columns={columns}
                      decimals={decimals}
                      selected={instrument.id === target?.instrument}
                      onOut={() => out(instrument.id)}
                    />
                  </Fragment>
                ))}
              </tbody>
            ))}
          </table>
        </div>
      </OrderCells>
    </div>
  );
}

function groupsOf(rows: readonly Instrument[], by: string): { name: string | null; rows: Instrument[] }[] {
  const groups = new Map<string, Instrument[]>();
  for (const row of rows) {
    const name = (by === 'venue' ? row.venue : by === 'kind' ? row.kind : row.sector) ?? 'none';
    const group = groups.get(name);
    if (group) group.push(row);
    else groups.set(name, [row]);
  }
  return [...groups].sort(([a], [b]) => (a < b ? -1 : 1)).map(([name, of]) => ({ name, rows: of }));
}

/** What a column sorts by. */
function sortValue(instrument: Instrument, column: string): number | string | undefined {
  const quote = quoteOf(instrument.id);
  const text = quote?.text;
  const number = (value: string | null | undefined): number | undefined => (value === null || value === undefined ? undefined : Number(value));
  switch (column) {
    case 'name':
      return instrument.name;
    case 'kind':
      return instrument.kind;
    case 'venue':
      return instrument.venue;
    case 'sector':
      return instrument.sector ?? undefined;
    case 'percent':
      return number(text?.changePercent);
    case 'previous':
      return number(text?.previousSettlement);
    case 'balance':
      return text?.bidQuantity && text.askQuantity ? Number(text.bidQuantity) / (Number(text.bidQuantity) + Number(text.askQuantity)) : undefined;
    case 'spread':
      return quote?.bid && quote.ask ? (quote.ask - quote.bid) / 10 ** instrument.priceDecimals : undefined;
    case 'position':
    case 'result': {
      const held = Object.values($positions.get()).filter((position) => position.instrument === instrument.id);
      return held.reduce((sum, position) => sum + Number(column === 'position' ? position.quantity : position.unrealised), 0);
    }
    default: {
      const value = text?.[column as keyof typeof text];
      return typeof value === 'string' ? (Number.isNaN(Number(value)) ? value : Number(value)) : undefined;
    }
  }
}

interface RowProps {
  readonly pane: string;
  readonly instrument: Instrument;
  readonly account: string;
  readonly columns: readonly string[];
  readonly decimals: string;
  readonly selected: boolean;
  readonly onOut: () => void;
}

function QuoteRow({ pane, instrument, account, columns, decimals, selected, onOut }: RowProps) {
  const row = useRef<HTMLTableRowElement>(null);
  const position = useStore($positions)[positionKey(account, instrument.id)];
  const orders = useStore($orders);
  const working = Object.values(orders).filter((order) => order.account === account && order.instrument === instrument.id && isWorking(order)).length;
  const closes = useRef<readonly number[]>([]);
  useEffect(() => {
    const element = row.current;
    if (!element) return undefined;
    const painted = paintInView<LiveQuote>(element, (quote) => writeRow(element, instrument, quote, decimals));
    const stop = followQuote(instrument.id, painted.next);
    return () => {
      stop();
      painted.stop();
    };
  }, [instrument, columns, decimals]);
  useEffect(() => {
    if (!columns.includes('day')) return undefined;
    const ask = (): void =>
      dayLine(instrument.id, (found) => {
        closes.current = found;
        row.current?.querySelector('polyline')?.setAttribute('points', linePoints(found, LINE.width, LINE.height));
      });
    ask();
    const timer = setInterval(ask, 60_000);
    return () => clearInterval(timer);
  }, [instrument.id, columns]);
  /** The slip, seeded with exactly what was pressed. */
  const seed = (side: 'buy' | 'sell', given: { quantity?: string; limitPrice?: string; reduceOnly?: boolean }): void =>
    openSlip(pane, {
      account,
      instrument: instrument.id,
      side,
      type: given.limitPrice === undefined ? 'market' : 'limit',
      quantity: given.quantity ?? sizeOf(account, instrument.id),
      ...(given.limitPrice === undefined ? {} : { limitPrice: given.limitPrice }),
      ...(given.reduceOnly ? { reduceOnly: true } : {}),
    });
  const held = position && position.quantity !== '0' ? position : null;
  return (
    <tr
      ref={row}
      aria-selected={selected}
      data-instrument={instrument.id}
      onPointerDown={(event) => event.button === 0 && !(event.target as HTMLElement).closest('button') && setInstrument(pane, instrument.id)}
    >
      <td {...dragsInstrument(instrument.id)}>
        <InstrumentName id={instrument.id} />
        {working > 0 && <span className="plate brass ml-1 !px-1 text-[11px]">{working}</span>}
      </td>
      {columns.map((column) => {
        switch (column) {
          case 'bid':
          case 'ask':
            return <td key={column} className="figure" data-column={column} {...orderCell(column === 'bid' ? 'buy' : 'sell')} />;
          case 'bidQuantity':
          case 'askQuantity':
            return (
              <td key={column} className="right">
                <button
                  type="button"
                  className="figure"
                  onClick={() => {
                    const text = quoteOf(instrument.id)?.text;
                    const [price, quantity] = column === 'bidQuantity' ? [text?.bid, text?.bidQuantity] : [text?.ask, text?.askQuantity];
                    if (price && quantity) seed(column === 'bidQuantity' ? 'buy' : 'sell', { quantity, limitPrice: price });
                  }}
                >
                  <span className="sr-only">{`${column === 'bidQuantity' ? 'Bid' : 'Ask'} quantity of ${instrument.id} `}</span>
                  <span data-column={column} />
                </button>
              </td>
            );
          case 'position':
            return (
              <td key={column} className="right">
                {held && (
                  <button
                    type="button"
                    className="figure underline underline-offset-2"
                    onClick={() => seed(Number(held.quantity) > 0 ? 'sell' : 'buy', { quantity: held.quantity.replace('-', ''), reduceOnly: true })}
                  >
                    {grouped(held.quantity.replace('-', '−'))}
                  </button>
                )}
              </td>
            );
          case 'result':
            return (
              <td key={column} className={`figure ${held ? resultClass(held.unrealised) : ''}`}>
                {held ? signed(held.unrealised) : ''}
              </td>
            );
          case 'day':
            return (
              <td key={column}>
                <svg width={LINE.width} height={LINE.height} className="block" role="img" aria-label={`Day line of ${instrument.id}`}>
                  <polyline points={linePoints(closes.current, LINE.width, LINE.height)} fill="none" stroke="var(--quiet)" strokeWidth="1" />
                </svg>
              </td>
            );
          case 'balance':
            return (
              <td key={column} data-column="balance">
                <span className="block h-[8px] w-[52px]" />
              </td>
            );
          case 'name':
            return <td key={column}>{instrument.name}</td>;
          case 'kind':
            return <td key={column}>{instrument.kind}</td>;
          case 'venue':
            return <td key={column}>{instrument.venue}</td>;
          case 'sector':
            return <td key={column}>{instrument.sector}</td>;
          default:
            return <td key={column} className="figure" data-column={column} />;
        }
      })}
      <td className="!p-0">
        <button type="button" className="grid h-[20px] w-[20px] place-items-center quiet" aria-label={`Take out ${instrument.id}`} onClick={onOut}>
          <X size={11} />
        </button>
      </td>
    </tr>
  );
}

/** Writes a quote into the cells of its row. */
function writeRow(row: HTMLElement, instrument: Instrument, quote: LiveQuote, decimals: string): void {
  const { text } = quote;
  const short = (value: string): string => (decimals === 'own' ? value : shortened(value, Number(decimals)));
  for (const cell of row.querySelectorAll<HTMLElement>('[data-column]')) {
    const column = cell.dataset['column'] ?? '';
    switch (column) {
      case 'last': {
        const now = text.last ?? (text.previousSettlement === null ? '–' : `[${text.previousSettlement}]`);
        const before = Number(cell.dataset['exact']);
        cell.dataset['exact'] = text.last ?? '';
        writeFigure(cell, now, Number(now) > before ? 'up' : Number(now) < before ? 'down' : null);
        break;
      }
      case 'bid':
      case 'ask':
        cell.dataset['price'] = text[column] ?? '';
        writeFigure(cell, text[column] ?? '–');
        break;
      case 'change':
      case 'percent': {
        const value = column === 'change' ? text.change : text.changePercent;
        writeText(cell, value === null ? '–' : signed(value));
        writeClass(cell, `figure ${resultClass(value ?? '0')}`);
        break;
      }
      case 'bidQuantity':
      case 'askQuantity':
      case 'lastQuantity':
      case 'volume': {
        const value = text[column];
        writeText(cell, value === null ? '–' : grouped(short(value)));
        writeTitle(cell, value ?? '');
        break;
      }
      case 'vwap':
        writeText(cell, text.vwap === null ? '–' : shortened(text.vwap, instrument.priceDecimals + 1));
        writeTitle(cell, text.vwap ?? '');
        break;
      case 'previous':
        writeText(cell, text.previousSettlement ?? '–');
        break;
      case 'spread':
        writeText(cell, quote.bid === null || quote.ask === null ? '–' : formatPrice(instrument, Math.max(0, quote.ask - quote.bid)));
        break;
      case 'lastTime':
        writeText(cell, text.lastTime?.slice(11, 19) ?? '–');
        break;
      case 'limits':
        writeText(
          cell,
          text.priceLimits.lower === null && text.priceLimits.upper === null ? '–' : `${text.priceLimits.lower ?? ''}–${text.priceLimits.upper ?? ''}`,
        );
        break;
      case 'balance':
        writeBalance(cell, text.bidQuantity, text.askQuantity);
        break;
      default: {
        const value = text[column as 'open'];
        writeText(cell, value ?? '–');
      }
    }
  }
}

/** Displayed quantity at the best prices: the bid's share from the left, the ask's from the right. */
function writeBalance(cell: HTMLElement, bid: string | null, ask: string | null): void {
  const bar = cell.firstElementChild as HTMLElement | null;
  if (!bar) return;
  const share = bid === null && ask === null ? null : Math.round((Number(bid ?? 0) / (Number(bid ?? 0) + Number(ask ?? 0) || 1)) * 100);
  bar.style.background = share === null ? '' : `linear-gradient(to right, var(--teal) ${share}%, var(--copper) ${share}%)`;
  cell.title = share === null ? '' : `bid ${bid ?? '–'} · ask ${ask ?? '–'}`;
}
