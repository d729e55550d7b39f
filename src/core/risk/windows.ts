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

/** The window a time is inside of at a venue, from when to when; the one that ends last, or null. */
export function windowAt(windows: readonly TradeWindow[], venue: VenueId, time: number): { readonly since: number; readonly until: number } | null {
  const { zone } = VENUES[venue];
  const today = localDay(zone, time);
  let found: { since: number; until: number } | null = null;
  for (const window of windows)
    for (const day of [today - 1, today]) {
      if (!begins(window, weekday(day))) continue;
      const since = localTime(zone, day, window.from);
      const until = localTime(zone, window.to > window.from ? day : day + 1, window.to);
      if (since <= time && time < until && (found === null || until > found.until)) found = { since, until };
    }
  return found;
}

/** When a window next begins or ends after a time; null without windows. */
export function nextBound(windows: readonly TradeWindow[], venue: VenueId, time: number): number | null {
  const { zone } = VENUES[venue];
  const today = localDay(zone, time);
  let next: number | null = null;
  for (const window of windows)
    for (let day = today - 1; day <= today + 7; day++) {
      if (!begins(window, weekday(day))) continue;
      for (const at of [localTime(zone, day, window.from), localTime(zone, window.to > window.from ? day : day + 1, window.to)])
        if (at > time && (next === null || at < next)) next = at;
    }
  return next;
}
