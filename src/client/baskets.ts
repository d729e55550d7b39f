import Papa from 'papaparse';
import { ORDER_TYPES, asPrice, tickAt, type Instrument, type OrderType } from '../core/instrument/index.ts';
import { divideHalfEven, formatScaled, isDecimal, parseScaled } from '../core/number/index.ts';

/** A row of a basket as it is being written: everything as text, nothing of it checked. */
export interface DraftRow {
  readonly id: string;
  readonly instrument: string;
  readonly side: 'buy' | 'sell';
  readonly quantity: string;
  readonly type: OrderType;
  /** A limit as a figure, or as a phrase such as `bid - 2 spreads`. */
  readonly price: string;
  readonly stop: string;
  readonly until: string;
  readonly account: string;
  readonly plan: string;
  readonly setup: string;
}

/** What a row sends. */
export type BasketRowRequest = Readonly<Record<string, unknown>> & { readonly id: string };

let made = 0;
export const newRow = (account: string, more: Partial<DraftRow> = {}): DraftRow => ({
  instrument: '',
  side: 'buy',
  quantity: '',
  type: 'limit',
  price: '',
  stop: '',
  until: 'day',
  account,
  plan: '',
  setup: '',
  ...more,
  id: `r${Date.now().toString(36)}${++made}`,
});

export const isBlank = ({ instrument, quantity, price }: DraftRow): boolean => instrument === '' && quantity === '' && price === '';

const TYPES_WITH_LIMIT: readonly OrderType[] = ['limit', 'stop-limit'];
const TYPES_WITH_STOP: readonly OrderType[] = ['stop', 'stop-limit', 'trailing-stop'];
export const takesLimit = (type: OrderType): boolean => TYPES_WITH_LIMIT.includes(type);
export const takesStop = (type: OrderType): boolean => TYPES_WITH_STOP.includes(type);

/** A row as the API takes it: what its type has no use for is left out. */
export function requestOf({ id, account, instrument, side, quantity, type, price, stop, until, plan, setup }: DraftRow): BasketRowRequest {
  const limit = !takesLimit(type) || price === '' ? {} : isDecimal(price) ? { limitPrice: price } : { limitPhrase: price };
  return {
    id,
    account,
    instrument,
    side,
    quantity,
    type,
    ...limit,
    ...(takesStop(type) && stop !== '' ? { stopPrice: stop } : {}),
    ...(until === 'day' ? {} : { timeInForce: until }),
    ...(plan === '' ? {} : { exitPlan: plan }),
    ...(setup === '' ? {} : { setup }),
  };
}

/** A saved row as it is written again. */
export function draftOf(row: BasketRowRequest): DraftRow {
  const text = (name: string, otherwise = ''): string => (typeof row[name] === 'string' ? row[name] : otherwise);
  return {
    id: row.id,
    instrument: text('instrument'),
    side: row['side'] === 'sell' ? 'sell' : 'buy',
    quantity: text('quantity'),
    type: text('type', 'limit') as OrderType,
    price: text('limitPhrase', text('limitPrice')),
    stop: text('stopPrice'),
    until: text('timeInForce', 'day'),
    account: text('account'),
    plan: text('exitPlan'),
    setup: text('setup'),
  };
}

export const reversed = (rows: readonly DraftRow[]): DraftRow[] => rows.map((row) => ({ ...row, side: row.side === 'buy' ? 'sell' : 'buy' }));
export const atMarket = (rows: readonly DraftRow[]): DraftRow[] => rows.map((row) => (row.type === 'limit' ? { ...row, type: 'market', price: '' } : row));

const SCALE = 8;

/** Each quantity × percent ÷ 100, down to the step of its instrument. Quantities that can't be read stay. */
export function scaled(rows: readonly DraftRow[], percent: string, decimalsOf: (instrument: string) => number): DraftRow[] {
  const share = parseScaled(percent, SCALE);
  if (share === null || share <= 0n) return [...rows];
  return rows.map((row) => {
    const quantity = parseScaled(row.quantity, SCALE);
    if (quantity === null) return row;
    const step = 10n ** BigInt(SCALE - decimalsOf(row.instrument));
    const whole = (quantity * share) / (100n * 10n ** BigInt(SCALE));
    return { ...row, quantity: formatScaled((whole / step) * step, SCALE, 0) };
  });
}

/** Each quantity to the nearest hundred; what would be nothing stays a hundred. */
export const inHundreds = (rows: readonly DraftRow[]): DraftRow[] =>
  rows.map((row) => {
    const quantity = parseScaled(row.quantity, 0);
    if (quantity === null) return row;
    const hundreds = divideHalfEven(quantity, 100n);
    return { ...row, quantity: String((hundreds < 1n ? 1n : hundreds) * 100n) };
  });

export const sortedBy = (rows: readonly DraftRow[], by: 'instrument' | 'side' | 'account'): DraftRow[] =>
  [...rows].sort((a, b) => (a[by] < b[by] ? -1 : a[by] > b[by] ? 1 : 0));

/** Something in a sheet that can't be a row; line and column count from 1, the line of the heads too. */
export interface SheetProblem {
  readonly line: number;
  readonly column: number;
  readonly message: string;
}

/** A sheet as it was read: what its columns became, the rows that are right, and what is wrong with the others. */
export interface Sheet {
  readonly columns: readonly (SheetField | null)[];
  readonly rows: readonly DraftRow[];
  readonly problems: readonly SheetProblem[];
}

const SHEET_FIELDS = ['instrument', 'side', 'quantity', 'type', 'price', 'stop', 'until', 'account', 'plan', 'setup'] as const;
export type SheetField = (typeof SHEET_FIELDS)[number];

/** What heads of other sheets mean. */
const MEANT: Readonly<Record<string, SheetField>> = {
  ticker: 'instrument',
  symbol: 'instrument',
  size: 'quantity',
  shares: 'quantity',
  units: 'quantity',
  'order type': 'type',
  limit: 'price',
  limitprice: 'price',
  limitphrase: 'price',
  stopprice: 'stop',
  timeinforce: 'until',
  exitplan: 'plan',
};
const fieldOf = (head: string): SheetField | null => {
  const name = head.trim().toLowerCase();
  return SHEET_FIELDS.find((field) => field === name) ?? MEANT[name] ?? null;
};

const SIDES: Readonly<Record<string, DraftRow['side']>> = { buy: 'buy', b: 'buy', '+': 'buy', sell: 'sell', s: 'sell', '-': 'sell' };
const UNTIL = ['day', 'gtc', 'ioc', 'fok'];

/**
 * Reads rows of a spreadsheet, tabs or commas between its cells. Without heads the columns are taken in the order
 * {@link sheetOf} writes them.
 *
 * @param known the instrument's id for a ticker or an id, or null
 */
export function readSheet(text: string, account: string, known: (name: string) => string | null): Sheet {
  const { data } = Papa.parse<string[]>(text.trim(), { skipEmptyLines: 'greedy', delimitersToGuess: ['\t', ',', ';'] });
  const [first = []] = data;
  const heads = first.map(fieldOf);
  const headed = heads.includes('instrument');
  const columns = headed ? heads : SHEET_FIELDS.slice(0, first.length);
  const rows: DraftRow[] = [];
  const problems: SheetProblem[] = [];
  for (const [at, cells] of data.entries()) {
    if (headed && at === 0) continue;
    const read = readCells(cells, columns, account, known);
    if ('row' in read) rows.push(read.row);
    else problems.push({ line: at + 1, column: read.column, message: read.message });
  }
  return { columns, rows, problems };
}

function readCells(
  cells: readonly string[],
  columns: readonly (SheetField | null)[],
  account: string,
  known: (name: string) => string | null,
): { row: DraftRow } | { column: number; message: string } {
  const cell = (field: SheetField): string => (cells[columns.indexOf(field)] ?? '').trim();
  const wrong = (field: SheetField, message: string): { column: number; message: string } => ({ column: columns.indexOf(field) + 1, message });
  const instrument = known(cell('instrument'));
  if (instrument === null) return wrong('instrument', cell('instrument') === '' ? 'an instrument is missing' : `${cell('instrument')} is no instrument`);
  const given = cell('quantity').replace(/(?<=\d)[\s’'](?=\d)/g, '');
  const quantity = given.replace(/^-/, '');
  if (!isDecimal(quantity) || Number(quantity) <= 0) return wrong('quantity', `${given === '' ? 'nothing' : given} is no quantity over 0`);
  const sideCell = cell('side').toLowerCase();
  const side = sideCell === '' ? (given.startsWith('-') ? 'sell' : 'buy') : SIDES[sideCell];
  if (!side) return wrong('side', `${cell('side')} is neither buy nor sell`);
  const price = cell('price');
  const type = cell('type') === '' ? (price === '' ? 'market' : 'limit') : ORDER_TYPES.find((one) => one === cell('type').toLowerCase());
  if (!type) return wrong('type', `${cell('type')} is none of ${ORDER_TYPES.join(', ')}`);
  const until = cell('until') === '' ? 'day' : cell('until').toLowerCase();
  if (!UNTIL.includes(until)) return wrong('until', `${cell('until')} is none of ${UNTIL.join(', ')}`);
  if (takesLimit(type) && price === '') return wrong('price', `a ${type} order needs a price`);
  const stop = cell('stop');
  return { row: newRow(cell('account') || account, { instrument, side, quantity, type, price, stop, until, plan: cell('plan'), setup: cell('setup') }) };
}

/** Rows as CSV that {@link readSheet} reads again. */
export const sheetOf = (rows: readonly DraftRow[]): string =>
  Papa.unparse({ fields: [...SHEET_FIELDS], data: rows.map((row) => SHEET_FIELDS.map((field) => row[field])) }, { newline: '\r\n' });

interface Held {
  readonly account: string;
  readonly instrument: string;
  /** Signed. */
  readonly quantity: string;
  readonly marketValue: string;
}

/** What closes positions at market. */
export const closingRows = (positions: readonly Held[]): DraftRow[] =>
  positions.flatMap(({ account, instrument, quantity }) =>
    Number(quantity) === 0
      ? []
      : [newRow(account, { instrument, side: Number(quantity) > 0 ? 'sell' : 'buy', quantity: quantity.replace('-', ''), type: 'market' })],
  );

/** What brings long positions to equal shares of what they are worth together, at market. */
export function evenRows(positions: readonly Held[], decimalsOf: (instrument: string) => number): DraftRow[] {
  const long = positions.filter(({ quantity, marketValue }) => Number(quantity) > 0 && Number(marketValue) > 0);
  const share = long.reduce((sum, { marketValue }) => sum + Number(marketValue), 0) / long.length;
  return long.flatMap(({ account, instrument, quantity, marketValue }) => {
    const unit = Number(marketValue) / Number(quantity);
    const step = 10 ** decimalsOf(instrument);
    const off = Math.trunc(((share - Number(marketValue)) / unit) * step) / step;
    return off === 0 ? [] : [newRow(account, { instrument, side: off > 0 ? 'buy' : 'sell', quantity: String(Math.abs(off)), type: 'market' })];
  });
}

/** How many ticks a unit cost against the middle of the market at arrival, a cost positive, to one place; null before a fill. */
export function slippedTicks(
  { side, averagePrice, arrival }: { readonly side: 'buy' | 'sell'; readonly averagePrice: string | null; readonly arrival: string | null },
  instrument: Instrument,
): string | null {
  if (averagePrice === null || arrival === null) return null;
  const unit = 10 ** instrument.priceDecimals;
  const tick = tickAt(instrument, asPrice(Math.round(Number(arrival) * unit))) / unit;
  const paid = (Number(averagePrice) - Number(arrival)) * (side === 'buy' ? 1 : -1);
  return (Math.round((paid / tick) * 10) / 10 + 0).toFixed(1);
}

/** A basket beside another: what the other's row of the same instrument and account has differently, and what only the other has. */
export interface BesideBasket {
  /** Words by the ids of the rows. */
  readonly words: ReadonlyMap<string, string>;
  readonly rest: readonly DraftRow[];
}

const COMPARED = ['side', 'quantity', 'type', 'price', 'stop', 'until', 'plan', 'setup'] as const;

/** What the other row has where it is another. */
const differences = (row: DraftRow, other: DraftRow): string =>
  COMPARED.flatMap((field) => (row[field] === other[field] ? [] : [`${field} ${other[field] === '' ? 'none' : other[field]}`])).join(', ');

/** Puts rows beside those of another basket: of several of one instrument in one account the first goes with the first. */
export function besideBasket(rows: readonly DraftRow[], others: readonly DraftRow[]): BesideBasket {
  const left = [...others];
  const words = new Map<string, string>();
  for (const row of rows) {
    if (isBlank(row)) continue;
    const at = left.findIndex(({ instrument, account }) => instrument === row.instrument && account === row.account);
    const [other] = at < 0 ? [] : left.splice(at, 1);
    words.set(row.id, other ? differences(row, other) || 'the same' : 'not there');
  }
  return { words, rest: left };
}
