import { VENUES } from '../instrument/index.ts';
import { sessionTimes } from '../market/index.ts';
import { NO_MONEY, absolute, formatMoney, plus, type Money } from '../number/index.ts';
import { dayOf, type CountedTrip } from './figures.ts';

/** A round trip as a question looks at it. */
export type AskedTrip = Pick<CountedTrip, 'instrument' | 'setup' | 'closedAt' | 'gross' | 'fees' | 'net'> & { readonly openedAt: number };

const MINUTE = 60_000;
/** What counts as the session's first minutes, and as right after a loss. */
const FIRST_MS = 10 * MINUTE;
const HURRIED_MS = 5 * MINUTE;

const NUMBERS = ['none', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten'];
const inWords = (count: number): string => NUMBERS[count] ?? String(count);
const capital = (text: string): string => text.slice(0, 1).toUpperCase() + text.slice(1);
const euro = (value: Money): string => formatMoney(value, 'EUR');
const sum = (trips: readonly AskedTrip[], of: (trip: AskedTrip) => Money): Money => trips.reduce((total, trip) => plus(total, of(trip)), NO_MONEY);
const most = (part: number, whole: number): boolean => part >= 2 && part * 5 >= whole * 3;

function wasFirst(trip: AskedTrip): boolean {
  const { venue } = trip.instrument;
  if (VENUES[venue].session === null) return false;
  const since = trip.openedAt - sessionTimes(venue, dayOf(trip)).open;
  return since >= 0 && since < FIRST_MS;
}

/** Begun within minutes of a loss, of whatever it was. */
const wasHurried = (trip: AskedTrip, losers: readonly AskedTrip[]): boolean =>
  losers.some((loser) => loser !== trip && trip.openedAt > loser.closedAt && trip.openedAt - loser.closedAt < HURRIED_MS);

/**
 * The one question that a day or a week asks: of what stands out, the first that holds. Null without round trips.
 *
 * @param trips by the time they closed, money in EUR
 */
export function questionOf(trips: readonly AskedTrip[]): string | null {
  if (trips.length === 0) return null;
  const losers = trips.filter(({ net }) => net < 0n);
  const wins = trips.filter(({ net }) => net > 0n).length;
  const first = losers.filter(wasFirst).length;
  if (most(first, losers.length)) return `${capital(inWords(first))} of ${inWords(losers.length)} losers were in the first 10 minutes. What will you change?`;
  const hurried = trips.filter((trip) => wasHurried(trip, losers));
  const lostAgain = hurried.filter(({ net }) => net < 0n).length;
  if (most(lostAgain, hurried.length))
    return `${capital(inWords(lostAgain))} of ${inWords(hurried.length)} trades begun within 5 minutes of a loss lost as well. What will you do after the next loss?`;
  const lost = sum(losers, ({ net }) => net);
  const worst = losers.reduce<AskedTrip | null>((found, trip) => (found === null || trip.net < found.net ? trip : found), null);
  if (worst && losers.length > 2 && worst.net * 2n < lost)
    return `One loss, ${euro(absolute(worst.net))} in ${worst.instrument.ticker}, is more than half of all that was lost. What let it grow?`;
  for (const [setup, count] of lostWhole(trips)) return `All ${inWords(count)} trades of ${setup} lost. What did they have in common?`;
  const gross = sum(trips, (trip) => trip.gross);
  const fees = sum(trips, (trip) => trip.fees);
  if (gross > 0n && gross < fees) return `Before costs it made ${euro(gross)}; costs took ${euro(fees)}. Which trades were not worth their costs?`;
  if (wins > losers.length) return `${capital(inWords(wins))} of ${inWords(trips.length)} won. What will you do again?`;
  return losers.length === 1 ? 'Would you take the loser again?' : `Which of the ${inWords(losers.length)} losers would you take again?`;
}

/** Setups of three round trips or more of which every one lost. */
function lostWhole(trips: readonly AskedTrip[]): [string, number][] {
  const counts = new Map<string, { all: number; lost: number }>();
  for (const { setup, net } of trips) {
    if (setup === null) continue;
    const { all, lost } = counts.get(setup) ?? { all: 0, lost: 0 };
    counts.set(setup, { all: all + 1, lost: lost + (net < 0n ? 1 : 0) });
  }
  return [...counts].flatMap(([setup, { all, lost }]): [string, number][] => (all >= 3 && lost === all ? [[setup, all]] : []));
}
