import { atom } from 'nanostores';
import { useRef } from 'react';
import type { Price } from '../../core/instrument/index.ts';
import { answer } from '../../client/answers.ts';
import { OrderArea, planOnWish, sendsAtOnce, submit, type AreaHost } from '../../client/gestures/index.ts';
import { aimsAt } from '../../client/would-risk.ts';
import { quotesFresh } from '../../client/lamps.ts';
import { canTrade } from '../../client/session.ts';
import { changedAt } from '../workspace/panes.ts';
import { moved } from '../workspace/stillness.ts';

/** Where this window is aimed at, and whether a press there would send at once. */
export const $aimed = atom<{ readonly pane: string; readonly sends: boolean; readonly price: Price | null } | null>(null);

/** What differs from one order area of this window to another. */
type Own<A> = Pick<AreaHost<A>, 'pane' | 'surface' | 'key' | 'account' | 'ask' | 'farTicks'> & {
  instrument(aim: A): string;
  /** When what is under the pointer last changed; by default the pane's target. */
  changedAt?(): number;
} & Pick<AreaHost<A>, 'list'>;

/** This window's order area for a pane. */
export function orderArea<A>(given: Own<A>): OrderArea<A> {
  const area = new OrderArea<A>({
    ...given,
    forbidden: (aim) => {
      const account = given.account(aim);
      const instrument = given.instrument(aim);
      return canTrade(account, instrument) ? null : `${account} can’t trade ${instrument}`;
    },
    quotesFresh,
    sendsAtOnce: (wish) => sendsAtOnce(given.surface, wish),
    planOn: planOnWish,
    now: () => performance.now(),
    changedAt: () => given.changedAt?.() ?? changedAt.get(given.pane) ?? -Infinity,
    moved: () => moved(given.pane),
    shown: (shown) => {
      if (shown !== null || $aimed.get()?.pane === given.pane) aimsAt(shown?.wish ?? null);
      const before = $aimed.get();
      const next = shown && { pane: given.pane, sends: shown.sends, price: shown.ghost?.price ?? null };
      if (before?.pane !== next?.pane && next === null && before?.pane !== given.pane) return;
      if (before?.pane !== next?.pane || before?.sends !== next?.sends || before?.price !== next?.price) $aimed.set(next);
    },
    submit,
    refuse: (words) => answer(given.pane, 'refused', words),
  });
  // A new area is something new under the pointer.
  area.moved();
  return area;
}

/** The same for a view; it reads what is given by the newest drawing. */
export function useOrderArea<A>(given: Own<A>): OrderArea<A> {
  const newest = useRef(given);
  newest.current = given;
  const area = useRef<OrderArea<A> | null>(null);
  area.current ??= orderArea<A>({
    pane: given.pane,
    surface: given.surface,
    key: (aim) => newest.current.key(aim),
    account: (aim) => newest.current.account(aim),
    instrument: (aim) => newest.current.instrument(aim),
    ask: (aim) => newest.current.ask(aim),
    farTicks: () => newest.current.farTicks(),
    ...(given.changedAt ? { changedAt: () => newest.current.changedAt?.() ?? -Infinity } : {}),
    ...(given.list ? { list: (aim, at) => newest.current.list?.(aim, at) } : {}),
  });
  return area.current;
}
