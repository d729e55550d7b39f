import { DateTime, FixedOffsetZone, IANAZone } from 'luxon';

type Part = 'HH:mm:ss' | 'HH:mm' | 'MM-dd HH:mm' | 'MM-dd HH:mm:ss' | 'yyyy-MM-dd' | 'yyyy-MM-dd HH:mm';

const HOUR_MS = 3_600_000;
/** Each zone's offset in the hour that was asked for last: a zone changes its offset on full hours only, and to ask for it is slow. */
const offsets = new Map<string, { readonly hour: number; readonly zone: FixedOffsetZone }>();

function zoneAt(name: string, at: number): FixedOffsetZone {
  const hour = Math.floor(at / HOUR_MS);
  const known = offsets.get(name);
  if (known?.hour === hour) return known.zone;
  const zone = FixedOffsetZone.instance(IANAZone.create(name).offset(at));
  offsets.set(name, { hour, zone });
  return zone;
}

/** A moment as a clock in a time zone shows it. */
export function clockText(zone: string, time: number | string, part: Part = 'HH:mm:ss'): string {
  const at = typeof time === 'number' ? time : Date.parse(time);
  return DateTime.fromMillis(at, { zone: zoneAt(zone, at) }).toFormat(part);
}

/** The time zone of this machine: what happens outside the market is told in it. */
export const ownZone = (): string => DateTime.local().zoneName;

const DAY_MS = 86_400_000;

/** The weekday of a day like 2026-03-02. */
export const weekdayOf = (day: string): string => DateTime.fromISO(day, { zone: 'utc', locale: 'en-GB' }).toFormat('cccc');

/** A day, counted from 1970, in words: "Monday 2 March". */
export const dayInWords = (day: number): string => DateTime.fromMillis(day * DAY_MS, { zone: 'utc', locale: 'en-GB' }).toFormat('cccc d MMMM');
