import { VENUES, type VenueId } from '../instrument/index.ts';
import { localDay, localTime, weekday } from '../market/index.ts';

export const WEEKDAYS = ['sun', 'mon', 'tue', 'wed', 'thu', 'fri', 'sat'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

/** From a minute of the day up to another, exchange time; one that ends before it begins spans midnight. */
export interface TradeWindow {
  readonly from: number;
  readonly to: number;
  /** The days on which it begins; null is all. */
  readonly days: readonly Weekday[] | null;
}

const DAY_MINUTES = 24 * 60;

const begins = ({ days }: TradeWindow, of: number): boolean => days === null || days.includes(WEEKDAYS[of] as Weekday);
const lasts = ({ from, to }: TradeWindow): number => (to > from ? to - from : to - from + DAY_MINUTES);

/** Whether each minute of a week, from Sunday 00:00, is inside. */
export function minutesCovered(windows: readonly TradeWindow[]): boolean[] {
  const week = new Array<boolean>(7 * DAY_MINUTES).fill(false);
  for (const window of windows)
    for (let day = 0; day < 7; day++)
      if (begins(window, day)) for (let minute = 0; minute < lasts(window); minute++) week[(day * DAY_MINUTES + window.from + minute) % week.length] = true;
  return week;
}

interface Span {
  readonly since: number;
  readonly until: number;
}

/** Each window that begins on a day from one to another, counted from a time's own day, as moments. */
function* spans(windows: readonly TradeWindow[], venue: VenueId, time: number, from: number, to: number): Generator<Span, void> {
  const { zone } = VENUES[venue];
  const today = localDay(zone, time);
  for (const window of windows)
    for (let day = today + from; day <= today + to; day++)
      if (begins(window, weekday(day)))
        yield { since: localTime(zone, day, window.from), until: localTime(zone, window.to > window.from ? day : day + 1, window.to) };
}

const nearest = (times: Iterable<number>, after: number): number | null => {
  let next: number | null = null;
  for (const at of times) if (at > after && (next === null || at < next)) next = at;
  return next;
};

/** The window a time is inside of at a venue, from when to when; the one that ends last, or null. */
export function windowAt(windows: readonly TradeWindow[], venue: VenueId, time: number): Span | null {
  let found: Span | null = null;
  for (const span of spans(windows, venue, time, -1, 0))
    if (span.since <= time && time < span.until && (found === null || span.until > found.until)) found = span;
  return found;
}

/** When a window next begins or ends after a time; null without windows. */
export const nextBound = (windows: readonly TradeWindow[], venue: VenueId, time: number): number | null =>
  nearest(
    [...spans(windows, venue, time, -1, 7)].flatMap(({ since, until }) => [since, until]),
    time,
  );

/** When a window next begins after a time; null without windows. */
export const nextWindow = (windows: readonly TradeWindow[], venue: VenueId, time: number): number | null =>
  nearest(
    [...spans(windows, venue, time, 0, 7)].map(({ since }) => since),
    time,
  );
