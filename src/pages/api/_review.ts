import { INSTRUMENT_KINDS, VENUES, type Instrument, type VenueId } from '../../core/instrument/index.ts';
import { formatDay, isDay, isTradingDay, parseDay, previousTradingDay, tradingDay, type Day } from '../../core/market/index.ts';
import { formatMoney, plus } from '../../core/number/index.ts';
import { NONE, dayOf, figuresOf, grouped, hourOf, mondayOf, questionOf, type Grouping } from '../../core/review/index.ts';
import { mayTrade } from '../../core/portfolio/index.ts';
import { presentFigures } from '../../desk/review/present.ts';
import { isoTime } from '../../desk/present/index.ts';
import type { nearDays } from '../../desk/review/risk-days.ts';
import type { ReviewedMiss, ReviewedTrip } from '../../desk/review/review.ts';
import type { ShapeError } from '../../schemas/shape-errors.ts';
import { knownInstrument, ownAccounts, type Call } from './_endpoint.ts';
import { invalid } from './_problem.ts';

export interface Period {
  readonly from: Day;
  readonly to: Day;
}

/** What is chosen: nothing else is in. An empty list is all. */
export interface Choice {
  readonly from: Day | null;
  readonly to: Day;
  readonly accounts: readonly string[];
  readonly setups: readonly string[];
  readonly instruments: readonly string[];
  readonly kinds: readonly string[];
  readonly sides: readonly string[];
  /** Exchange time, `09`. */
  readonly hours: readonly string[];
}

const today = (call: Call): Day => tradingDay('HALM', call.desk.now());

/** Whether a text names a day that the calendar has. */
const HOURS = Array.from({ length: 24 }, (_, hour) => String(hour).padStart(2, '0'));
const NO_DAY = 'must be a day such as 2026-03-02';

/** The days from and to which something is asked for, today where they are not said. */
export function daysAsked(call: Call, venue: VenueId): Period | Response {
  const now = tradingDay(venue, call.desk.now());
  const named = (name: 'from' | 'to'): Day | Response => (call.query[name] === undefined ? now : namedDay(String(call.query[name]), `?${name}`));
  const [from, to] = [named('from'), named('to')];
  if (from instanceof Response) return from;
  if (to instanceof Response) return to;
  return from > to ? invalid([{ path: '?from', message: 'must not be later than to' }]) : { from, to };
}

/** The accounts that a query names, all of the user's where it names none. */
export function accountsOf(call: Call): readonly string[] | Response {
  const named = [...new Set(call.context.url.searchParams.getAll('account'))];
  for (const account of named) {
    const own = ownAccounts(call, account, '?account');
    if (own instanceof Response) return own;
  }
  return named.length > 0 ? named : call.accounts;
}

/** What a query chooses; a Response where it can't be meant. */
export function choiceOf(call: Call): Choice | Response {
  const all = (name: string): string[] => call.context.url.searchParams.getAll(name);
  const errors: ShapeError[] = [];
  const oneOf = (name: string, allowed: readonly string[]): void => {
    if (all(name).some((value) => !allowed.includes(value))) errors.push({ path: `?${name}`, message: `must be one of ${allowed.join(', ')}` });
  };
  const day = (name: string): Day | null => {
    const [text] = all(name);
    if (text !== undefined && !isDay(text)) errors.push({ path: `?${name}`, message: NO_DAY });
    return text === undefined ? null : parseDay(text);
  };
  oneOf('kind', INSTRUMENT_KINDS);
  oneOf('side', ['long', 'short']);
  oneOf('hour', HOURS);
  const from = day('from');
  const to = day('to') ?? today(call);
  if (from !== null && from > to) errors.push({ path: '?from', message: 'must not be later than to' });
  if (errors.length > 0) return invalid(errors);
  const accounts = accountsOf(call);
  if (accounts instanceof Response) return accounts;
  for (const instrument of all('instrument')) {
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
  }
  return { from, to, accounts, setups: all('setup'), instruments: all('instrument'), kinds: all('kind'), sides: all('side'), hours: all('hour') };
}

const has = (wanted: readonly string[], value: string): boolean => wanted.length === 0 || wanted.includes(value);

interface Chosen {
  readonly setup: string | null;
  readonly instrument: Instrument;
  readonly long: boolean;
  readonly endedAt: number;
}

/** Whether what is chosen has it, but for the day. */
export const isChosen = (choice: Choice, { setup, instrument, long, endedAt }: Chosen): boolean =>
  has(choice.setups, setup ?? NONE) &&
  has(choice.instruments, instrument.id) &&
  has(choice.kinds, instrument.kind) &&
  has(choice.sides, long ? 'long' : 'short') &&
  (choice.hours.length === 0 || choice.hours.includes(hourOf(instrument.venue, endedAt)));

export const inPeriod = ({ from, to }: Pick<Choice, 'from' | 'to'>, day: Day): boolean => (from === null || day >= from) && day <= to;

export function chosenTrips(call: Call, choice: Choice): Promise<readonly ReviewedTrip[]> {
  const parted = [choice.setups, choice.instruments, choice.kinds, choice.sides, choice.hours].some(({ length }) => length > 0);
  return call.review.chosen(
    choice.accounts,
    choice,
    JSON.stringify(choice),
    (trip) =>
      inPeriod(choice, dayOf(trip)) &&
      (!parted || isChosen(choice, { setup: trip.setup, instrument: trip.instrument, long: trip.long, endedAt: trip.closedAt })),
  );
}

/** The figures of all that is chosen, known as long as the choice is. */
const wholes = new WeakMap<readonly ReviewedTrip[], { readonly days: number; readonly figures: ReturnType<typeof presentFigures> }>();
export function wholeOf(trips: readonly ReviewedTrip[], days: number): ReturnType<typeof presentFigures> {
  let whole = wholes.get(trips);
  if (whole?.days !== days) wholes.set(trips, (whole = { days, figures: presentFigures(figuresOf(trips, days)) }));
  return whole.figures;
}

/** HALM's calendar; where all that is chosen is on VSPR, its own. */
function calendarOf(call: Call, { accounts, instruments, kinds }: Choice): VenueId {
  const terms = accounts.map((id) => call.desk.account(id).terms);
  const mayBe = instruments.length > 0 ? instruments.map((id) => call.desk.instrument(id)) : [...call.desk.market.all()];
  const all = mayBe.filter((instrument) => has(kinds, instrument.kind) && terms.some((one) => mayTrade(one, instrument)));
  return all.length > 0 && all.every(({ venue }) => venue === 'VSPR') ? 'VSPR' : 'HALM';
}

/** The period of a choice: without a beginning from the first that is chosen on. */
export const periodOf = (choice: Choice, trips: readonly ReviewedTrip[]): Period => {
  const first = trips[0];
  return { from: choice.from ?? (first ? dayOf(first) : choice.to), to: choice.to };
};

/** Trading days of a period up to and with today. */
export function daysOf(call: Call, choice: Choice, { from, to }: Period): number {
  const venue = calendarOf(call, choice);
  const last = Math.min(to, tradingDay(venue, call.desk.now()));
  let days = 0;
  for (let day = from; day <= last; day++) if (isTradingDay(VENUES[venue], day)) days++;
  return days;
}

export const groupsOf = (trips: readonly ReviewedTrip[], by: Grouping, days: number) =>
  grouped(trips, by).map(({ key, trips: of }) => ({ key, figures: presentFigures(figuresOf(of, days)) }));

/** What a recap looks at besides round trips. */
export interface Besides {
  readonly missed: readonly ReviewedMiss[];
  readonly stopped: Awaited<ReturnType<Call['review']['stopped']>>;
  /** Days that came near their limit. */
  readonly near: Awaited<ReturnType<typeof nearDays>>;
}

/** A span of a recap beside the four before it. */
export function recapOf(
  call: Call,
  choice: Choice,
  trips: readonly ReviewedTrip[],
  { missed, stopped, near }: Besides,
  span: Period,
  before: readonly Period[],
) {
  const of = (period: Period): readonly ReviewedTrip[] => trips.filter((trip) => inPeriod(period, dayOf(trip)));
  const named = ({ from, to }: Period) => ({ from: formatDay(from), to: formatDay(to) });
  const days = daysOf(call, choice, span);
  const own = of(span);
  const missedThen = missed.filter((one) => inPeriod(span, tradingDay(one.instrument.venue, one.missed.endedAt)));
  const wouldHaveMade = missedThen.flatMap(({ toClose, instrument }) => (toClose === null || instrument.settlesIn !== 'EUR' ? [] : [toClose]));
  return {
    ...named(span),
    all: presentFigures(figuresOf(own, days)),
    byInstrument: groupsOf(own, 'instrument', days),
    bySetup: groupsOf(own, 'setup', days),
    stopped: stopped.filter(({ time }) => inPeriod(span, tradingDay('HALM', time))).map(({ account, time, text }) => ({ account, time: isoTime(time), text })),
    near: near.filter(({ day }) => inPeriod(span, parseDay(day))),
    missed: { count: missedThen.length, toClose: wouldHaveMade.length === 0 ? null : formatMoney(plus(...wouldHaveMade), 'EUR') },
    question: questionOf(own.map((trip) => ({ ...trip, openedAt: trip.trip.openedAt }))),
    before: before.map((period) => ({ ...named(period), figures: presentFigures(figuresOf(of(period), daysOf(call, choice, period))) })),
  };
}

/** The four trading days before a day, oldest first. */
export function daysBefore(day: Day): Period[] {
  const found: Period[] = [];
  for (let before = previousTradingDay('HALM', day); found.length < 4; before = previousTradingDay('HALM', before)) found.unshift({ from: before, to: before });
  return found;
}

export const weekOf = (day: Day): Period => ({ from: mondayOf(day), to: mondayOf(day) + 6 });

/** The four weeks before a day's own, oldest first. */
export const weeksBefore = (day: Day): Period[] => [4, 3, 2, 1].map((back) => weekOf(day - 7 * back));

/** The day a query or path names; a Response where it names none. */
export const namedDay = (text: string, path: string): Day | Response => (isDay(text) ? parseDay(text) : invalid([{ path, message: NO_DAY }]));
