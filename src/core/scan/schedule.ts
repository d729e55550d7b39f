import { VENUES, type VenueId } from '../instrument/index.ts';
import { isTradingDay, localDay, localTime, minutesOf, weekday } from '../market/index.ts';

export const WEEKDAYS = ['sun', 'mon', 'tue', 'wed', 'thu', 'fri', 'sat'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

/** When a scan runs by itself: exchange time of a venue, on its trading days. */
export interface Schedule {
  readonly times: readonly string[];
  readonly days?: readonly Weekday[] | undefined;
  readonly monthDay?: number | undefined;
  readonly venue?: VenueId | undefined;
}

/** No schedule leaves out more days than this in a row: a 31st that is a trading day comes within a few months. */
const FURTHEST_DAYS = 400;

/** The first moment of a schedule after a time; null where none comes within a year. */
export function nextScheduled({ times, days, monthDay, venue = 'HALM' }: Schedule, after: number): number | null {
  const { zone } = VENUES[venue];
  const first = localDay(zone, after);
  for (let day = first; day <= first + FURTHEST_DAYS; day++) {
    if (!isTradingDay(VENUES[venue], day)) continue;
    if (days && !days.includes(WEEKDAYS[weekday(day)] as Weekday)) continue;
    if (monthDay !== undefined && new Date(day * 86_400_000).getUTCDate() !== monthDay) continue;
    const next = times
      .map((time) => localTime(zone, day, minutesOf(time)))
      .filter((time) => time > after)
      .sort((a, b) => a - b)[0];
    if (next !== undefined) return next;
  }
  return null;
}
