import { formatPrice, isOnGrid, nearestOnGrid, parsePrice, parseQuantity, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { isDecimal } from '../number/index.ts';
import { MARKET_STATES, type MarketEvent, type MarketState } from './tape-row.ts';

/** A row of a tape: an event of one instrument's market, or a headline. */
export type TapeRow =
  | { readonly time: number; readonly instrument: string; readonly market: MarketEvent }
  | { readonly time: number; readonly instrument: string | null; readonly news: string };

export const TAPE_COLUMNS = ['time', 'instrument', 'event', 'side', 'price', 'quantity', 'text'] as const;
type Column = (typeof TAPE_COLUMNS)[number];
export type TapeCells = Record<Column, string>;

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

/** A cell that is not what its column takes. */
export class TapeCellProblem extends Error {
  readonly column: Column;
  constructor(column: Column, message: string) {
    super(message);
    this.column = column;
  }
}

/**
 * Reads the cells of one row.
 *
 * @throws TapeCellProblem naming the column that is wrong
 */
export function readTapeRow(cells: TapeCells, instruments: ReadonlyMap<string, Instrument>): TapeRow {
  const time = TIME.test(cells.time) ? Date.parse(cells.time) : NaN;
  if (!Number.isFinite(time) || new Date(time).toISOString() !== cells.time) throw new TapeCellProblem('time', 'must look like 2026-03-02T09:00:00.000Z');
  const used = USED[cells.event];
  if (!used) throw new TapeCellProblem('event', `must be one of ${Object.keys(USED).join(', ')}`);
  for (const column of ['side', 'price', 'quantity', 'text'] as const) {
    const mayBeEmpty = cells.event === 'price-limit' && column === 'price';
    if (used.includes(column) && cells[column] === '' && !mayBeEmpty) throw new TapeCellProblem(column, `is needed by ${cells.event}`);
    if (!used.includes(column) && cells[column] !== '') throw new TapeCellProblem(column, `is not used by ${cells.event} and must be empty`);
  }
  if (cells.event === 'news' && cells.instrument === '') return { time, instrument: null, news: cells.text };
  const instrument = instruments.get(cells.instrument);
  if (!instrument) throw new TapeCellProblem('instrument', `${cells.instrument || '(empty)'} is not an instrument of the tape world`);
  if (cells.event === 'news') return { time, instrument: instrument.id, news: cells.text };
  return { time, instrument: instrument.id, market: readEvent(cells, instrument) };
}

function readEvent(cells: TapeCells, instrument: Instrument): MarketEvent {
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
  if (found === undefined) throw new TapeCellProblem(column, `must be one of ${allowed.join(', ')}`);
  return found;
}

function price(cells: TapeCells, instrument: Instrument): Price {
  if (!isDecimal(cells.price)) throw new TapeCellProblem('price', 'must be a decimal number');
  const value = parsePrice(instrument, cells.price);
  if (value === null || !isOnGrid(instrument, value)) {
    const near = value === null ? [] : nearestOnGrid(instrument, value).map((p) => formatPrice(instrument, p));
    throw new TapeCellProblem('price', `is off the tick grid of ${instrument.id}${near.length ? `; nearest: ${near.join(', ')}` : ''}`);
  }
  return value;
}

function quantity(cells: TapeCells, instrument: Instrument, mayBeZero: boolean): Quantity {
  const value = isDecimal(cells.quantity) ? parseQuantity(instrument, cells.quantity) : null;
  if (value === null || value < 0 || (value === 0 && !mayBeZero))
    throw new TapeCellProblem('quantity', `must be a positive multiple of ${instrument.id}'s quantity step`);
  return value;
}
