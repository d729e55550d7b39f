import { formatDay, isDay, localClock, localDay, localTime, minutesOf, parseDay } from '../core/market/index.ts';

const WALL_CLOCK = /^(\d{4}-\d\d-\d\d)T((?:[01]\d|2[0-3]):[0-5]\d)(?::([0-5]\d(?:\.\d{1,3})?))?$/;

/** A date and time as a clock in the zone shows it and as it is typed, `2026-03-02T15:00`, to the moment meant; null while it is none. */
export function typedMoment(zone: string, text: string): string | null {
  const [, day = '', clock = '', seconds = '0'] = WALL_CLOCK.exec(text) ?? [];
  if (!isDay(day)) return null;
  return new Date(localTime(zone, parseDay(day), minutesOf(clock)) + Math.round(Number(seconds) * 1000)).toISOString();
}

/** The same the other way round: seconds are left out where there are none. */
export function momentAsTyped(zone: string, moment: string): string {
  const time = Date.parse(moment);
  return `${formatDay(localDay(zone, time))}T${localClock(zone, time)}`.replace(/(:00)?\.000$/, '');
}
