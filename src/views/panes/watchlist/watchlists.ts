import { computed, map } from 'nanostores';
import { namedThings } from '../../../client/saved-remote.ts';
import { thingsOf } from '../../../client/things.ts';
import { noteUndoable, say } from '../../../client/undo.ts';
import { problemWords, request, instrumentOf } from '../../../live/index.ts';

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
const lists = thingsOf<Watchlist>('watchlists', 'the list', {
  remote: namedThings('watchlists'),
  first: (name) => ({ rows: name === COAST ? COAST_ROWS.filter((row) => 'section' in row || instrumentOf(row.instrument)) : [] }),
});

/** The lists by name, as far as they are known. */
export const $watchlists = computed(lists.$all, (all): Readonly<Record<string, Watchlist | undefined>> =>
  Object.fromEntries(Object.entries(all).map(([name, thing]) => [name, thing?.kind === 'known' ? thing.value : undefined])),
);
export const $watchlistNames = map<Record<string, true>>({});

export const loadWatchlist = (name: string): Promise<unknown> => lists.load(name);

export async function loadWatchlistNames(): Promise<void> {
  const found = await request('GET /api/watchlists');
  if (found.ok) $watchlistNames.set(Object.fromEntries([COAST, ...found.value.items.map(({ name }) => name)].map((name) => [name, true as const])));
}

/** Changes a list; Ctrl Z takes it back. */
export function changeWatchlist(name: string, rows: readonly WatchRow[], words: string): void {
  const before = lists.valueOf(name);
  if (!lists.change(name, () => ({ rows })) || !before) return;
  noteUndoable(words, () => void lists.change(name, () => before));
}

/** Makes an empty list and gives its name, which nothing else has. */
export async function newWatchlist(wished = 'List'): Promise<string> {
  await loadWatchlistNames();
  const taken = $watchlistNames.get();
  let name = wished;
  for (let n = 2; taken[name]; n++) name = `${wished} ${n}`;
  const made = await lists.add(name, { rows: [] });
  if (made.ok) $watchlistNames.setKey(name, true);
  else say(`the list ${name} was not made: ${problemWords(made.problem)}`);
  return name;
}

/** Words where it can't have that name; null when it is done. */
export async function renameWatchlist(from: string, to: string): Promise<string | null> {
  const done = await lists.rename(from, to);
  await loadWatchlistNames();
  return done.ok ? null : done.problem.status === 409 ? `there is a list named ${to}` : problemWords(done.problem);
}

export async function deleteWatchlist(name: string): Promise<void> {
  const gone = await lists.remove(name);
  await loadWatchlistNames();
  if (gone === null) return;
  say(`deleted ${name}; Ctrl Z brings it back`);
  noteUndoable(`the list ${name}`, async () => {
    await lists.add(name, gone);
    await loadWatchlistNames();
  });
}
