import { map } from 'nanostores';
import Papa from 'papaparse';
import { noteUndoable, say } from '../../client/undo.ts';
import { readSymbols } from '../../core/instrument/index.ts';
import { request, instrumentOf, instruments } from '../../live/index.ts';

export type WatchRow = { readonly instrument: string; readonly note?: string; readonly mark?: string | null } | { readonly section: string };

export interface Watchlist {
  readonly rows: readonly WatchRow[];
}

/** The list everybody begins with. */
export const COAST = 'Coast';
const COAST_ROWS: readonly WatchRow[] = [
  { section: 'Shares' },
  ...['GANET.HALM', 'KELPA.HALM', 'BRINE.HALM', 'HALMF.HALM', 'GANET.QUAY'].map((instrument) => ({ instrument })),
  { section: 'Futures and options' },
  ...['HALM40.HALM', 'HALM40-JUN26.HALM', 'HALM40M-JUN26.HALM', 'SALMO-JUN26.HALM', 'GANET-APR26-40C.HALM'].map((instrument) => ({ instrument })),
  { section: 'Vesper' },
  ...['CARB-EUR.VSPR', 'CARBI.VSPR'].map((instrument) => ({ instrument })),
];

/** Lists that panes show, by name; undefined while one is loaded. */
export const $watchlists = map<Record<string, Watchlist | undefined>>({});
export const $watchlistNames = map<Record<string, true>>({});

let coastIsSaved = false;

export async function loadWatchlist(name: string): Promise<void> {
  if ($watchlists.get()[name]) return;
  await loadWatchlistNames();
  const kept = $watchlistNames.get()[name] && (name !== COAST || coastIsSaved);
  const found = kept ? await request('GET /api/watchlists/{name}', { path: { name } }) : null;
  const own = name === COAST ? COAST_ROWS.filter((row) => 'section' in row || instrumentOf(row.instrument)) : [];
  $watchlists.setKey(name, found?.ok ? (found.value as Watchlist) : { rows: own });
}

export async function loadWatchlistNames(): Promise<void> {
  const found = await request('GET /api/watchlists');
  if (!found.ok) return;
  coastIsSaved = found.value.items.some(({ name }) => name === COAST);
  $watchlistNames.set(Object.fromEntries([COAST, ...found.value.items.map(({ name }) => name)].map((name) => [name, true as const])));
}

/** Changes a list; Ctrl Z takes it back. */
export async function changeWatchlist(name: string, rows: readonly WatchRow[], words: string): Promise<void> {
  const before = $watchlists.get()[name];
  await put(name, { rows });
  if (before) noteUndoable(words, () => put(name, before));
}

async function put(name: string, list: Watchlist): Promise<void> {
  $watchlists.setKey(name, list);
  $watchlistNames.setKey(name, true);
  const done = await request('PUT /api/watchlists/{name}', { path: { name }, body: list });
  if (!done.ok) say(`${name} was not saved: ${done.problem.errors?.map((error) => `${error.path} ${error.message}`).join('; ') ?? done.problem.detail}`);
}

/** Makes an empty list and gives its name, which nothing else has. */
export async function newWatchlist(wished = 'List'): Promise<string> {
  await loadWatchlistNames();
  const taken = $watchlistNames.get();
  let name = wished;
  for (let n = 2; taken[name]; n++) name = `${wished} ${n}`;
  await put(name, { rows: [] });
  return name;
}

/** Words where the name is taken; null when it is done. */
export async function renameWatchlist(from: string, to: string): Promise<string | null> {
  await loadWatchlistNames();
  if ($watchlistNames.get()[to]) return `there is a list named ${to}`;
  const list = $watchlists.get()[from] ?? { rows: [] };
  const made = await request('PUT /api/watchlists/{name}', { path: { name: to }, body: list });
  if (!made.ok) return made.problem.errors?.[0]?.message ?? made.problem.detail;
  await request('DELETE /api/watchlists/{name}', { path: { name: from } });
  $watchlists.setKey(to, list);
  await loadWatchlistNames();
  return null;
}

export async function deleteWatchlist(name: string): Promise<void> {
  const list = $watchlists.get()[name];
  await request('DELETE /api/watchlists/{name}', { path: { name } });
  $watchlists.setKey(name, undefined);
  await loadWatchlistNames();
  say(`deleted ${name}; Ctrl Z brings it back`);
  if (list) noteUndoable(`the list ${name}`, () => put(name, list));
}

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
