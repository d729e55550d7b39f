import Papa from 'papaparse';
import { readSymbols } from '../../../core/instrument/index.ts';
import { instruments } from '../../../live/index.ts';
import type { Watchlist, WatchRow } from './watchlists.ts';

/** A list as CSV: instrument, section, note, mark. */
export function watchlistCsv(list: Watchlist): string {
  const rows = list.rows.map((row) =>
    'section' in row
      ? { instrument: '', section: row.section, note: '', mark: '' }
      : { instrument: row.instrument, section: '', note: row.note ?? '', mark: row.mark ?? '' },
  );
  return Papa.unparse(rows, { columns: ['instrument', 'section', 'note', 'mark'], newline: '\r\n' });
}

export interface ReadList {
  readonly rows: readonly WatchRow[];
  readonly unknown: readonly { readonly line: number; readonly text: string }[];
}

/** Rows from pasted symbols or from CSV, with or without its header; what is not known is named by its line. */
export function readRows(text: string): ReadList {
  const parsed = Papa.parse<string[]>(text.trim(), { skipEmptyLines: false }).data;
  const head = parsed[0]?.map((cell) => cell.trim().toLowerCase()) ?? [];
  const named = head.includes('instrument') || head.includes('symbol');
  const column = (name: string, fallback: number): number => (named ? head.indexOf(name) : fallback);
  const at = named && !head.includes('instrument') ? head.indexOf('symbol') : column('instrument', 0);
  const rows: WatchRow[] = [];
  const unknown: { line: number; text: string }[] = [];
  parsed.forEach((cells, i) => {
    if (named && i === 0) return;
    const cell = (name: string, fallback: number): string => cells[column(name, fallback)]?.trim() ?? '';
    const symbol = cells[at]?.trim() ?? '';
    const section = cell('section', 1);
    if (symbol === '') {
      if (section !== '') rows.push({ section });
      return;
    }
    const read = readSymbols([symbol], instruments);
    const found = read.known[0]?.instrument;
    if (!found) {
      unknown.push({ line: i + 1, text: symbol });
      return;
    }
    const note = cell('note', 2);
    const mark = cell('mark', 3).toUpperCase();
    rows.push({ instrument: found.id, ...(note ? { note: note.slice(0, 500) } : {}), ...(/^[A-Z]$/.test(mark) ? { mark } : {}) });
  });
  return { rows, unknown };
}
