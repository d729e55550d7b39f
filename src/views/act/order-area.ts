import { useRef } from 'react';
import { answer } from '../../client/answers.ts';
import { OrderArea, submit, type AreaHost } from '../../client/gestures/index.ts';
import { quotesFresh } from '../../client/lamps.ts';
import { canTrade } from '../../client/session.ts';
import { changedAt } from '../workspace/panes.ts';

/** What differs from one order area of this window to another. */
type Own<A> = Pick<AreaHost<A>, 'pane' | 'surface' | 'key' | 'account' | 'ask' | 'farTicks'> & { instrument(aim: A): string; movedAt?(): number };

/** This window's order area for a pane; it reads what is given by the newest drawing. */
export function useOrderArea<A>(given: Own<A>): OrderArea<A> {
  const newest = useRef(given);
  newest.current = given;
  const area = useRef<OrderArea<A> | null>(null);
  if (area.current) return area.current;
  area.current = new OrderArea<A>({
    pane: given.pane,
    surface: given.surface,
    key: (aim) => newest.current.key(aim),
    account: (aim) => newest.current.account(aim),
    ask: (aim) => newest.current.ask(aim),
    farTicks: () => newest.current.farTicks(),
    forbidden: (aim) => {
      const account = newest.current.account(aim);
      const instrument = newest.current.instrument(aim);
      return canTrade(account, instrument) ? null : `${account} can’t trade ${instrument}`;
    },
    quotesFresh,
    now: () => performance.now(),
    changedAt: () => Math.max(changedAt.get(given.pane) ?? -Infinity, newest.current.movedAt?.() ?? -Infinity),
    submit,
    refuse: (words) => answer(given.pane, 'refused', words),
  });
  // A new area is something new under the pointer.
  area.current.moved();
  return area.current;
}
