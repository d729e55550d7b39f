import { parse } from 'csv-parse/sync';
import { formatPrice, formatQuantity, type Instrument } from '../instrument/index.ts';
import { TAPE_COLUMNS, TapeCellProblem, readTapeRow, type TapeCells, type TapeRow } from '../market/index.ts';
import { refused, accepted, type Result } from '../result.ts';

export interface TapeProblem {
  /** Line and column in the file, both from 1; the column counts cells. */
  readonly line: number;
  readonly column: number;
  readonly message: string;
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
  const wrong = TAPE_COLUMNS.findIndex((name, i) => header[i] !== name);
  if (wrong >= 0 || header.length !== TAPE_COLUMNS.length)
    return refused({ line: 1, column: wrong < 0 ? TAPE_COLUMNS.length + 1 : wrong + 1, message: `the header must be ${TAPE_COLUMNS.join(',')}` });

  const rows: TapeRow[] = [];
  let before = -Infinity;
  for (const { record, info } of records.slice(1)) {
    if (record.length !== TAPE_COLUMNS.length)
      return refused({ line: info.lines, column: record.length + 1, message: `${TAPE_COLUMNS.length} cells are needed, ${record.length} are there` });
    const cells = Object.fromEntries(TAPE_COLUMNS.map((name, i) => [name, record[i]])) as TapeCells;
    try {
      const row = readTapeRow(cells, instruments);
      if (row.time < before) throw new TapeCellProblem('time', 'is before the row above');
      before = row.time;
      rows.push(row);
    } catch (problem) {
      if (!(problem instanceof TapeCellProblem)) throw problem;
      return refused({
        line: info.lines,
        column: TAPE_COLUMNS.indexOf(problem.column) + 1,
        message: `${problem.column} ${problem.message}`,
      });
    }
  }
  return accepted(rows);
}

/** A cell as RFC 4180 has it: in quotes where it holds what would end it. */
const cell = (text: string): string => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);

/** A row as a line of a tape, without its end: {@link parseTape} reads it back as it was. */
export function tapeLine(row: TapeRow, instruments: ReadonlyMap<string, Instrument>): string {
  const line = (event: string, side: string, price: string, quantity: string, text: string): string =>
    [new Date(row.time).toISOString(), row.instrument ?? '', event, side, price, quantity, cell(text)].join(',');
  if ('news' in row) return line('news', '', '', '', row.news);
  const { market } = row;
  const instrument = instruments.get(row.instrument);
  if (!instrument) throw new Error(`unknown instrument ${row.instrument}`);
  switch (market.event) {
    case 'level':
    case 'trade':
      return line(market.event, market.side, formatPrice(instrument, market.price), formatQuantity(instrument, market.quantity), '');
    case 'state':
      return line('state', '', '', '', market.state);
    case 'settlement':
      return line('settlement', '', formatPrice(instrument, market.price), '', '');
    case 'price-limit':
      return line('price-limit', '', market.price === null ? '' : formatPrice(instrument, market.price), '', market.bound);
  }
}

export const TAPE_HEAD = TAPE_COLUMNS.join(',');
