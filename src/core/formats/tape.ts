import { parse } from 'csv-parse/sync';
import { formatPrice, isOnGrid, nearestOnGrid, parsePrice, parseQuantity, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { isDecimal } from '../number/index.ts';
import { refused, accepted, type Result } from '../result.ts';
import { MARKET_STATES, type MarketEvent, type MarketState } from '../market/index.ts';

/** A row of a tape: an event of one instrument's market, or a headline. */
export type TapeRow =
  | { readonly time: number; readonly instrument: string; readonly market: MarketEvent }
  | { readonly time: number; readonly instrument: string | null; readonly news: string };

export interface TapeProblem {
  /** Line and column in the file, both from 1; the column counts cells. */
  readonly line: number;
  readonly column: number;
  readonly message: string;
}

const COLUMNS = ['time', 'instrument', 'event', 'side', 'price', 'quantity', 'text'] as const;
type Column = (typeof COLUMNS)[number];
type Cells = Record<Column, string>;

/** Which cells an event uses besides time, instrument and event. */
const USED: Record<string, readonly Column[]> = {
  level: ['side', 'price', 'quantity'],
  trade: ['side', 'price', 'quantity'],
  state: ['text'],
  news: ['text'],
  settlement: ['price'],
  'price-limit': ['price', 'text'],
};

const TIME = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z$/;

class Problem extends Error {
  readonly column: Column;
  constructor(column: Column, message: string) {
    super(message);
    this.column = column;
  }
}

/**
 * Reads a tape: UTF-8, RFC 4180, the header `time,instrument,event,side,price,quantity,text`.
 *
 * @param instruments the tape world's instruments, by id
 * @returns all rows in file order, or the first problem; never a part of the rows
 */
export function parseTape(text: string, instruments: ReadonlyMap<string, Instrument>): Result<TapeRow[], TapeProblem> {
  let records: { record: string[]; info: { lines: number } }[];
  try {
    records = parse(text, { info: true, relax_column_count: true, skip_empty_lines: true, bom: true }) as never;
  } catch (error) {
    const at = error as { lines?: number; column?: number; message: string };
    return refused({ line: at.lines ?? 1, column: 1, message: at.message });
  }
  const header = records[0]?.record ?? [];
  const wrong = COLUMNS.findIndex((name, i) => header[i] !== name);
  if (wrong >= 0 || header.length !== COLUMNS.length)
    return refused({ line: 1, column: wrong < 0 ? COLUMNS.length + 1 : wrong + 1, message: `the header must be ${COLUMNS.join(',')}` });

  const rows: TapeRow[] = [];
  let before = -Infinity;
  for (const { record, info } of records.slice(1)) {
    if (record.length !== COLUMNS.length)
      return refused({ line: info.lines, column: record.length + 1, message: `${COLUMNS.length} cells are needed, ${record.length} are there` });
    const cells = Object.fromEntries(COLUMNS.map((name, i) => [name, record[i]])) as Cells;
    try {
      const row = readRow(cells, instruments);
      if (row.time < before) throw new Problem('time', 'is before the row above');
      before = row.time;
      rows.push(row);
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      return refused({
        line: info.lines,
        column: COLUMNS.indexOf(problem.column) + 1,
        message: `${problem.column} ${problem.message}`,
      });
    }
  }
  return accepted(rows);
}

function readRow(cells: Cells, instruments: ReadonlyMap<string, Instrument>): TapeRow {
  const time = TIME.test(cells.time) ? Date.parse(cells.time) : NaN;
  if (!Number.isFinite(time) || new Date(time).toISOString() !== cells.time) throw new Problem('time', 'must look like 2026-03-02T09:00:00.000Z');
  const used = USED[cells.event];
  if (!used) throw new Problem('event', `must be one of ${Object.keys(USED).join(', ')}`);
  for (const column of ['side', 'price', 'quantity', 'text'] as const) {
    const mayBeEmpty = cells.event === 'price-limit' && column === 'price';
    if (used.includes(column) && cells[column] === '' && !mayBeEmpty) throw new Problem(column, `is needed by ${cells.event}`);
    if (!used.includes(column) && cells[column] !== '') throw new Problem(column, `is not used by ${cells.event} and must be empty`);
  }
  if (cells.event === 'news' && cells.instrument === '') return { time, instrument: null, news: cells.text };
  const instrument = instruments.get(cells.instrument);
  if (!instrument) throw new Problem('instrument', `${cells.instrument || '(empty)'} is not an instrument of the tape world`);
  if (cells.event === 'news') return { time, instrument: instrument.id, news: cells.text };
  return { time, instrument: instrument.id, market: readEvent(cells, instrument) };
}

function readEvent(cells: Cells, instrument: Instrument): MarketEvent {
  switch (cells.event) {
    case 'level':
      return {
        event: 'level',
        side: oneOf('side', cells.side, ['bid', 'ask'] as const),
        price: price(cells, instrument),
        quantity: quantity(cells, instrument, true),
      };
    case 'trade':
      return {
        event: 'trade',
        side: oneOf('side', cells.side, ['buy', 'sell'] as const),
        price: price(cells, instrument),
        quantity: quantity(cells, instrument, false),
      };
    case 'state':
      return { event: 'state', state: oneOf<MarketState>('text', cells.text, MARKET_STATES) };
    case 'settlement':
      return { event: 'settlement', price: price(cells, instrument) };
    default:
      return {
        event: 'price-limit',
        bound: oneOf('text', cells.text, ['lower', 'upper'] as const),
        price: cells.price === '' ? null : price(cells, instrument),
      };
  }
}

function oneOf<T extends string>(column: Column, value: string, allowed: readonly T[]): T {
  const found = allowed.find((one) => one === value);
  if (found === undefined) throw new Problem(column, `must be one of ${allowed.join(', ')}`);
  return found;
}

function price(cells: Cells, instrument: Instrument): Price {
  if (!isDecimal(cells.price)) throw new Problem('price', 'must be a decimal number');
  const value = parsePrice(instrument, cells.price);
  if (value === null || !isOnGrid(instrument, value)) {
    const near = value === null ? [] : nearestOnGrid(instrument, value).map((p) => formatPrice(instrument, p));
    throw new Problem('price', `is off the tick grid of ${instrument.id}${near.length ? `; nearest: ${near.join(', ')}` : ''}`);
  }
  return value;
}

function quantity(cells: Cells, instrument: Instrument, mayBeZero: boolean): Quantity {
  const value = isDecimal(cells.quantity) ? parseQuantity(instrument, cells.quantity) : null;
  if (value === null || value < 0 || (value === 0 && !mayBeZero))
    throw new Problem('quantity', `must be a positive multiple of ${instrument.id}'s quantity step`);
  return value;
}
