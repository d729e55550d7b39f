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
  /** The basket that the rows belong to: the pane may be told of another one from elsewhere. */
  const of = useRef(name);
  const written = useRef(rows);
  written.current = rows;
  const saving = useRef(false);
  /** Grows when more was written while a save was under way: it is saved next. */
  const [round, setRound] = useState(0);
  // Another basket, or one that was changed elsewhere, takes the place of what is shown; what is being written stays.
  useEffect(() => {
    if (name !== of.current) {
      if (dirty && rows.some((row) => !isBlank(row))) {
        setPaneSetting(pane, 'basket', of.current);
        return answer(pane, 'refused', `${name} was not opened: rows here are not saved yet`);
      }
      of.current = name;
      shown.current = '';
      setVersion(0);
      setDirty(false);
      return undefined;
    }
    if (!known || dirty || shown.current === `${known.name} ${known.version}`) return;
    shown.current = `${known.name} ${known.version}`;
    setRows((known.rows as BasketRowRequest[]).map(draftOf));
    setVersion(known.version);
    setProblems(new Map());
    return undefined;
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is written does not change which basket is shown
  }, [name, known, dirty]);

  const change = (next: readonly DraftRow[]): void => {
    setRows(next.length === 0 ? [newRow(account)] : next);
    setDirty(true);
  };
  const open = (basket: string, next: readonly DraftRow[] = []): void => {
    const lost = dirty ? rows.filter((row) => !isBlank(row)) : [];
    if (lost.length > 0) noteUndoable('the rows that were not saved', () => open('', lost));
    of.current = basket;
    shown.current = '';
    setPaneSetting(pane, 'basket', basket);
    setRows(next.length > 0 ? next : [newRow(account)]);
    setVersion(0);
    setProblems(new Map());
    setDirty(next.length > 0);
  };
  const save = async (): Promise<void> => {
    const from = rows;
    const sent = from.filter((row) => !isBlank(row)).map(requestOf);
    if (sent.length === 0 || saving.current) return;
    saving.current = true;
    const as = name === '' ? freeName((saved.data?.items ?? []).map((one) => one.name)) : name;
    const done =
      version === 0
        ? await request('POST /api/baskets', { body: { name: as, rows: sent } })
        : await request('PUT /api/baskets/{name}', { path: { name: as }, body: { rows: sent, version } });
    saving.current = false;
    // What was written meanwhile is not saved yet, and can't be sent before it is.
    const isNewest = written.current === from;
    if (!isNewest) setRound((n) => n + 1);
    if (!done.ok) {
      setProblems(problemsOf(done.problem, sent));
      if (!done.problem.errors) answer(pane, 'refused', problemWords(done.problem));
      return;
    }
    shown.current = `${as} ${done.value.version}`;
    setProblems(new Map());
    setVersion(done.value.version);
    if (isNewest) setDirty(false);
    of.current = as;
    if (name === '') setPaneSetting(pane, 'basket', as);
    await Promise.all([askAgain('GET /api/baskets'), askAgain('POST /api/baskets/{name}/check')]);
  };
  const newest = useRef(save);
  newest.current = save;
  useEffect(() => {
    if (!dirty) return undefined;
    const timer = setTimeout(() => void newest.current(), SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [rows, dirty, round]);

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
