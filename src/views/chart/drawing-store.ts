import { map } from 'nanostores';
import { noteUndoable, say } from '../../client/undo.ts';
import { request } from '../../live/index.ts';
import type { Drawing } from './drawings.ts';

/** What is drawn, by instrument; kept on the server. */
export const $drawings = map<Record<string, readonly Drawing[] | undefined>>({});

const asked = new Set<string>();

export async function loadDrawings(instrument: string): Promise<void> {
  if (asked.has(instrument)) return;
  asked.add(instrument);
  const found = await request('GET /api/drawings/{id}', { path: { id: instrument } });
  if (found.ok) $drawings.setKey(instrument, found.value.items);
  else asked.delete(instrument);
}

/** Puts an instrument's drawings; Ctrl Z takes it back. */
export function changeDrawings(instrument: string, items: readonly Drawing[], words: string): void {
  const before = $drawings.get()[instrument] ?? [];
  put(instrument, items);
  noteUndoable(words, () => put(instrument, before));
}

function put(instrument: string, items: readonly Drawing[]): void {
  $drawings.setKey(instrument, items);
  void request('PUT /api/drawings/{id}', { path: { id: instrument }, body: { items } }).then((done) => {
    if (!done.ok) say(`the drawings were not saved: ${done.problem.errors?.[0]?.message ?? done.problem.detail}`);
  });
}
