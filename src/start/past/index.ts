import { habits, housekeeping, type Idea, type PastHistory } from '../../../demo/habits.ts';
import type { Draft } from '../../core/desk/index.ts';
import type { TapeRow } from '../../core/market/index.ts';
import { dayStart, previousTradingDay, sessionTimes, type Day } from '../../core/market/index.ts';
import { minus, plus, type Money } from '../../core/number/index.ts';
import { openAccount, type AccountBook, type AccountTerms } from '../../core/portfolio/index.ts';
import type { HeldAccount } from '../../venue/held.ts';
import { FIRST_DAY, History } from '../../venue/demo-market/history.ts';
import { Headlines } from '../../venue/demo-market/headlines.ts';
import { MinuteHistory } from '../../venue/demo-market/minutes.ts';
import type { DemoWorld } from '../../venue/demo-market/profile.ts';
import { dayRows } from './tape.ts';
import { Rehearsal } from './rehearsal.ts';

const DAYS = 60;

/** What a world has behind it when it is new. */
export interface DemoPast {
  /** The activity up to now, oldest first. */
  readonly entries: readonly Draft[];
  /** What the broker has of each account. */
  readonly held: readonly HeldAccount[];
}

/**
 * Makes the past of the demo's user: what the habits did, on the market's own history, booked as everything is. It
 * follows from the seed alone.
 *
 * @param fixed instruments that are to have no past
 * @param user whose accounts have one
 */
export function demoPast(world: DemoWorld, seed: number, accounts: readonly AccountTerms[], fixed: ReadonlySet<string>, user: string): DemoPast {
  const daily = new History(world, seed);
  const minutes = new MinuteHistory(daily, new Headlines(world, seed));
  const history: PastHistory = {
    sessionOf: (instrument, day) => minutes.session(instrument, day),
    closeOf: (instrument, day) => daily.day(instrument, day)?.close,
  };
  const days: Day[] = [];
  for (let day = previousTradingDay('HALM', FIRST_DAY); days.length < DAYS; day = previousTradingDay('HALM', day)) days.unshift(day);
  const ideas = [...habits(world, seed, days, history, fixed)];
  const instruments = new Map(ideas.map(({ instrument }) => [instrument.id, instrument]));
  const own = accounts.filter((terms) => terms.user === user);
  const rehearsal = new Rehearsal(instruments, own, rowsOf(days, ideas, history));
  const acts = [...ideas.flatMap((idea) => idea.acts), ...housekeeping(days, (day) => sessionTimes('HALM', day).open)];
  rehearsal.play(acts, dayStart('HALM', FIRST_DAY));
  return endingAs(own, rehearsal);
}

function rowsOf(days: readonly Day[], ideas: readonly Idea[], history: PastHistory): TapeRow[] {
  const held = ideas.flatMap(({ instrument, kept }) => (kept ? [instrument] : []));
  return days.flatMap((day) => {
    const of = ideas.filter(({ instrument, from }) => from >= dayStart(instrument.venue, day) && from < sessionTimes(instrument.venue, day).close);
    return dayRows(day, of, held, history);
  });
}

/**
 * The same past with accounts that began with so much that they now have what they are to have: nothing that was
 * decided looked at more than whether there was enough.
 */
function endingAs(accounts: readonly AccountTerms[], rehearsal: Rehearsal): DemoPast {
  const held: HeldAccount[] = [];
  const lacking = new Map<string, (book: AccountBook) => AccountBook>();
  for (const terms of accounts) {
    const now = rehearsal.held(terms.id);
    const more = (book: AccountBook): AccountBook => ({
      ...book,
      cash: plus(book.cash, minus(terms.cash, now.book.cash)),
      wallets: book.wallets.map((wallet) => ({ ...wallet, total: plus(wallet.total, lack(terms, now.book, wallet)) })),
    });
    lacking.set(terms.id, more);
    held.push({ ...now, book: more(now.book) });
  }
  const entries = rehearsal.entries.map((entry) => {
    const { data, account } = entry;
    const more = account === null ? undefined : lacking.get(account);
    return data.kind === 'account-opened' && more ? { ...entry, data: { ...data, book: more(data.book) } } : entry;
  });
  return { entries, held };
}

const lack = (terms: AccountTerms, book: AccountBook, { asset, purpose }: AccountBook['wallets'][number]): Money => {
  const total = (of: AccountBook): Money => of.wallets.find((one) => one.asset === asset && one.purpose === purpose)?.total ?? (0n as Money);
  return minus(total(openAccount(terms)), total(book));
};
