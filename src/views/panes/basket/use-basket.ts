import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import { answer } from '../../../client/answers.ts';
import { draftOf, isBlank, newRow, requestOf, type BasketRowRequest, type DraftRow } from '../../../client/baskets.ts';
import type { Revised, Saved } from '../../../client/saved.ts';
import { mergeByName, thingsOf } from '../../../client/things.ts';
import { noteUndoable } from '../../../client/undo.ts';
import { problemWords, request, type Answer, type AnswerOf, type Problem } from '../../../live/index.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { $panes, setPaneSetting, settingOf } from '../../workspace/panes.ts';

export type ApiBasket = AnswerOf<'GET /api/baskets/{name}'>;
export type ApiCheck = AnswerOf<'POST /api/baskets/{name}/check'>;
type Rows = readonly DraftRow[];

const CHECK_EVERY_MS = 3000;

const written = (rows: Rows): Rows => rows.filter((row) => !isBlank(row));
const rowsOf = ({ rows }: ApiBasket): Rows => (rows as BasketRowRequest[]).map(draftOf);
const revised = (done: Answer<ApiBasket>): Answer<Revised<Rows>> =>
  done.ok ? { ...done, value: { value: rowsOf(done.value), revision: String(done.value.version) } } : done;

/** Baskets as they are written: saved as soon as they can be read, row by row made one with what another window saved. */
const baskets = thingsOf<Rows>('baskets', 'the basket', {
  remote: {
    read: async (name) => {
      const listed = await request('GET /api/baskets');
      if (!listed.ok) return listed;
      const found = listed.value.items.find((one) => one.name === name);
      return found ? revised({ ...listed, value: found }) : { ...listed, value: null };
    },
    write: async (name, value, base) => {
      const rows = written(value).map(requestOf);
      if (base === null) return revised(await request('POST /api/baskets', { body: { name, rows } }));
      const done = await request('PUT /api/baskets/{name}', { path: { name }, body: { rows, version: Number(base) } });
      // Deleted elsewhere meanwhile is a change like another: what is written here is saved anew.
      return !done.ok && done.problem.status === 404 ? { ok: false, problem: { ...done.problem, status: 409 } } : revised(done);
    },
    drop: (name) => request('DELETE /api/baskets/{name}', { path: { name } }),
  },
  first: () => [],
  merge: (base, mine, theirs) => mergeByName(({ id }) => id, base ?? [], mine, theirs),
  showsProblems: true,
});

/** What is wrong with rows, by their ids. */
function problemsOf(problem: Problem | null, rows: Rows): Map<string, string> {
  const found = new Map<string, string>();
  for (const { path, message } of problem?.errors ?? []) {
    const [, at = '', field = ''] = /^\/rows\/(\d+)(?:\/(\w+))?/.exec(path) ?? [];
    const id = rows[Number(at)]?.id;
    if (at !== '' && id !== undefined) found.set(id, `${found.has(id) ? `${found.get(id)}; ` : ''}${field === '' ? '' : `${field}: `}${message}`);
  }
  return found;
}

/** The first name of its kind that no basket has. */
const freeName = (taken: readonly string[]): string => {
  for (let n = 1; ; n++) if (!taken.includes(`Basket ${n}`)) return `Basket ${n}`;
};

const stateWords = (thing: Saved<Rows> | undefined): string => {
  if (thing?.kind !== 'known') return '';
  if (thing.state === 'saved') return thing.base === null ? '' : 'saved';
  if (thing.problem === null) return 'saving …';
  if (written(thing.value).length === 0) return 'not saved: it has no rows';
  return thing.problem.errors ? 'not saved: rows are wrong' : `not saved: ${problemWords(thing.problem)}`;
};

/** The basket that a pane writes: saved as it is written, as soon as it can be read, and checked as a whole from then on. */
export function useBasket(pane: string, name: string, account: string) {
  const { data: listed } = useAsked('GET /api/baskets', {}, { everyMs: 10_000 });
  const items = listed?.items ?? [];
  const thing = useStore(baskets.$all, { keys: [name] })[name];
  /** What is written before it has a name. */
  const [draft, setDraft] = useState<Rows>([newRow(account)]);
  const known = thing?.kind === 'known' ? thing : null;
  const rows = name === '' ? draft : known && known.value.length > 0 ? known.value : draft;
  const revision = known?.base?.revision;
  const newest = items.find((one) => one.name === name)?.version;

  useEffect(() => {
    if (name !== '') void baskets.load(name);
  }, [name]);
  // What was changed elsewhere than in a window of this browser shows in the list.
  useEffect(() => {
    if (newest !== undefined && String(newest) !== revision) void baskets.heard(name);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only what is new in the list is asked for
  }, [name, newest]);
  useEffect(() => {
    if (revision !== undefined) void Promise.all([askAgain('GET /api/baskets'), askAgain('POST /api/baskets/{name}/check')]);
  }, [name, revision]);
  // The first row that says something gives it a name.
  useEffect(() => {
    if (name !== '' || !listed || written(draft).length === 0) return;
    const free = freeName([...listed.items.map((one) => one.name), ...Object.keys(baskets.$all.get())]);
    baskets.begin(free, draft);
    setPaneSetting(pane, 'basket', free);
    setDraft([newRow(account)]);
  }, [pane, name, account, listed, draft]);

  const change = (next: Rows): void => {
    const kept = next.length === 0 ? [newRow(account)] : next;
    if (name === '') setDraft(kept);
    else baskets.change(name, () => kept);
  };
  const open = (basket: string, next: Rows = []): void => {
    setPaneSetting(pane, 'basket', basket);
    if (basket === '') setDraft(next.length > 0 ? next : [newRow(account)]);
  };
  const drop = async (): Promise<void> => {
    const kept = await baskets.remove(name);
    if (kept === null) return answer(pane, 'refused', `${name} was not deleted`);
    noteUndoable(`the basket ${name}`, async () => {
      await baskets.add(name, kept);
      await askAgain('GET /api/baskets');
      setPaneSetting(pane, 'basket', name);
    });
    open('');
    await askAgain('GET /api/baskets');
  };
  const ready = known?.state === 'saved' && known.base !== null;
  const check = useAsked('POST /api/baskets/{name}/check', { path: { name } }, { everyMs: CHECK_EVERY_MS, when: ready && newest !== undefined });
  return {
    rows,
    change,
    open,
    drop,
    /** Why it could not be read; null while it is not asked for, on its way, or known. */
    failed: thing?.kind === 'failed' ? thing.problem : null,
    /** While it is read nothing can be written. */
    loading: name !== '' && thing?.kind !== 'known',
    problems: problemsOf(known?.problem ?? null, written(rows)),
    ready,
    words: stateWords(thing),
    names: items.map((one) => one.name),
    /** The rows of a saved basket as they would be written; null where there is none by that name. */
    rowsOf: (other: string): Rows | null => {
      const found = items.find((one) => one.name === other);
      return found ? rowsOf(found) : null;
    },
    check: ready ? (check.data ?? null) : null,
  };
}

/** The name of the basket that a pane shows; empty for one that is not saved yet. */
export const basketShown = (pane: string): string => settingOf<string>($panes.get()[pane], 'basket', '');
