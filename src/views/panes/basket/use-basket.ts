import { useEffect, useRef, useState } from 'react';
import { answer } from '../../../client/answers.ts';
import { draftOf, isBlank, newRow, requestOf, type BasketRowRequest, type DraftRow } from '../../../client/baskets.ts';
import { noteUndoable } from '../../../client/undo.ts';
import { problemWords, request, type AnswerOf, type Problem } from '../../../live/index.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { $panes, setPaneSetting, settingOf } from '../../workspace/panes.ts';

export type ApiBasket = AnswerOf<'GET /api/baskets/{name}'>;
export type ApiCheck = AnswerOf<'POST /api/baskets/{name}/check'>;

/** What is written is saved this long after the last key. */
const SAVE_AFTER_MS = 500;
const CHECK_EVERY_MS = 3000;

/** What is wrong with rows, by their ids. */
function problemsOf(problem: Problem, rows: readonly BasketRowRequest[]): Map<string, string> {
  const found = new Map<string, string>();
  for (const { path, message } of problem.errors ?? []) {
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

/** The basket that a pane writes: saved as it is written, as soon as it can be read, and checked as a whole from then on. */
export function useBasket(pane: string, name: string, account: string) {
  const saved = useAsked('GET /api/baskets', {}, { everyMs: 10_000 });
  const [rows, setRows] = useState<readonly DraftRow[]>([newRow(account)]);
  const [problems, setProblems] = useState<ReadonlyMap<string, string>>(new Map());
  const [version, setVersion] = useState(0);
  const [dirty, setDirty] = useState(false);
  const known = saved.data?.items.find((basket) => basket.name === name);
  const shown = useRef('');
  // Another basket, or one that was changed elsewhere, takes the place of what is shown; what is being written stays.
  useEffect(() => {
    if (!known || dirty || shown.current === `${known.name} ${known.version}`) return;
    shown.current = `${known.name} ${known.version}`;
    setRows((known.rows as BasketRowRequest[]).map(draftOf));
    setVersion(known.version);
    setProblems(new Map());
  }, [known, dirty]);

  const change = (next: readonly DraftRow[]): void => {
    setRows(next.length === 0 ? [newRow(account)] : next);
    setDirty(true);
  };
  const open = (basket: string, next: readonly DraftRow[] = []): void => {
    shown.current = '';
    setPaneSetting(pane, 'basket', basket);
    setRows(next.length > 0 ? next : [newRow(account)]);
    setVersion(0);
    setProblems(new Map());
    setDirty(next.length > 0);
  };
  const save = async (): Promise<void> => {
    const sent = rows.filter((row) => !isBlank(row)).map(requestOf);
    if (sent.length === 0) return;
    const as = name === '' ? freeName((saved.data?.items ?? []).map((one) => one.name)) : name;
    const done =
      version === 0
        ? await request('POST /api/baskets', { body: { name: as, rows: sent } })
        : await request('PUT /api/baskets/{name}', { path: { name: as }, body: { rows: sent, version } });
    if (!done.ok) {
      setProblems(problemsOf(done.problem, sent));
      if (!done.problem.errors) answer(pane, 'refused', problemWords(done.problem));
      return;
    }
    shown.current = `${as} ${done.value.version}`;
    setProblems(new Map());
    setVersion(done.value.version);
    setDirty(false);
    if (name === '') setPaneSetting(pane, 'basket', as);
    await Promise.all([askAgain('GET /api/baskets'), askAgain('POST /api/baskets/{name}/check')]);
  };
  const newest = useRef(save);
  newest.current = save;
  useEffect(() => {
    if (!dirty) return undefined;
    const timer = setTimeout(() => void newest.current(), SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [rows, dirty]);

  const drop = async (): Promise<void> => {
    const kept = rows;
    const done = await request('DELETE /api/baskets/{name}', { path: { name } });
    if (!done.ok) return answer(pane, 'refused', problemWords(done.problem));
    noteUndoable(`the basket ${name}`, async () => {
      await request('POST /api/baskets', { body: { name, rows: kept.filter((row) => !isBlank(row)).map(requestOf) } });
      await askAgain('GET /api/baskets');
      setPaneSetting(pane, 'basket', name);
    });
    open('');
    await askAgain('GET /api/baskets');
  };
  const ready = version > 0 && !dirty;
  const check = useAsked('POST /api/baskets/{name}/check', { path: { name } }, { everyMs: CHECK_EVERY_MS, when: ready && known !== undefined });
  return {
    rows,
    change,
    open,
    drop,
    problems,
    ready,
    dirty,
    names: (saved.data?.items ?? []).map((one) => one.name),
    check: ready ? (check.data ?? null) : null,
  };
}

/** The name of the basket that a pane shows; empty for one that is not saved yet. */
export const basketShown = (pane: string): string => settingOf<string>($panes.get()[pane], 'basket', '');
