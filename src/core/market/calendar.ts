import { IANAZone } from 'luxon';
import { VENUES, type Instrument, type Venue, type VenueId } from '../instrument/index.ts';

/** Days since 1970-01-01; a trading day is named by the exchange's own date. */
export type Day = number;

const DAY_MS = 86_400_000;
const MINUTE_MS = 60_000;
const MONDAY = 1;
const FRIDAY = 5;
const SATURDAY = 6;

export const formatDay = (day: Day): string => new Date(day * DAY_MS).toISOString().slice(0, 10);
export const parseDay = (text: string): Day => Math.floor(Date.parse(`${text}T00:00:00Z`) / DAY_MS);

/** Whether a text names a day that there is, as `2026-03-02`. */
export const isDay = (text: string): boolean => /^\d{4}-\d\d-\d\d$/.test(text) && !Number.isNaN(parseDay(text)) && formatDay(parseDay(text)) === text;

/** 0 is Sunday, 6 is Saturday. */
export const weekday = (day: Day): number => (((day + 4) % 7) + 7) % 7;

const HOUR_MS = 3_600_000;
const offsets = new Map<string, Map<number, number>>();
/** What was asked for last, and is most often asked for next. */
let last = { zone: '', hour: NaN, offset: 0 };

/** Zone offsets change on full hours only, and asking for one is slow: each hour's is kept. */
function offsetMs(zone: string, time: number): number {
  if (zone === 'UTC') return 0;
  const hour = Math.floor(time / HOUR_MS);
  if (last.hour === hour && last.zone === zone) return last.offset;
  let known = offsets.get(zone);
  if (!known) offsets.set(zone, (known = new Map<number, number>()));
  let offset = known.get(hour);
  if (offset === undefined) known.set(hour, (offset = IANAZone.create(zone).offset(hour * HOUR_MS) * MINUTE_MS));
  last = { zone, hour, offset };
  return offset;
}

/** The calendar date, in the zone, of a time in milliseconds since 1970. */
export const localDay = (zone: string, time: number): Day => Math.floor((time + offsetMs(zone, time)) / DAY_MS);

/** The hour of the day, 0 to 23, in the zone. */
export const localHour = (zone: string, time: number): number => Math.floor((time + offsetMs(zone, time)) / HOUR_MS) % 24;

/** What a clock in the zone shows, as `09:05:07.120`. */
export const localClock = (zone: string, time: number): string => new Date(time + offsetMs(zone, time)).toISOString().slice(11, 23);

/** A moment as a venue's clock shows it, with its day: `2026-03-02 09:05`. */
export const venueMoment = (venue: VenueId, time: number): string => {
  const { zone } = VENUES[venue];
  return `${formatDay(localDay(zone, time))} ${localClock(zone, time).slice(0, 5)}`;
};

/** The time at which `minutes` past midnight of a date falls in the zone. */
export function localTime(zone: string, day: Day, minutes: number): number {
  const guess = day * DAY_MS + minutes * MINUTE_MS;
  const first = guess - offsetMs(zone, guess);
  return guess - offsetMs(zone, first);
}

export const minutesOf = (clock: string): number => Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3, 5));

export const isTradingDay = (venue: Venue, day: Day): boolean => {
  const of = weekday(day);
  return venue.weekends || (of >= MONDAY && of <= FRIDAY);
};

/** The trading day a time belongs to: Saturday and Sunday belong to Friday where weekends are not traded. */
export function tradingDay(venueId: VenueId, time: number): Day {
  const venue = VENUES[venueId];
  const day = localDay(venue.zone, time);
  if (venue.weekends) return day;
  const of = weekday(day);
  return of === SATURDAY ? day - 1 : of === 0 ? day - 2 : day;
}

/** The trading day after one. */
export function nextTradingDay(venueId: VenueId, day: Day): Day {
  let next = day + 1;
  while (!isTradingDay(VENUES[venueId], next)) next++;
  return next;
}

/** The trading day before one. */
export function previousTradingDay(venueId: VenueId, day: Day): Day {
  let previous = day - 1;
  while (!isTradingDay(VENUES[venueId], previous)) previous--;
  return previous;
}

/** When a trading day begins: 00:00 exchange time. */
export const dayStart = (venueId: VenueId, day: Day): number => localTime(VENUES[venueId].zone, day, 0);

/** The first day's turn after a time. */
export const nextDayTurn = (venueId: VenueId, time: number): number => dayStart(venueId, nextTradingDay(venueId, tradingDay(venueId, time)));

/** Opening and closing times of a trading day; a round-the-clock venue is open from turn to turn. */
export interface SessionTimes {
  readonly preOpen: number | null;
  readonly open: number;
  readonly close: number;
}

const sessions = new Map<VenueId, Map<Day, SessionTimes>>();

export function sessionTimes(venueId: VenueId, day: Day): SessionTimes {
  let known = sessions.get(venueId);
  if (!known) sessions.set(venueId, (known = new Map<Day, SessionTimes>()));
  let times = known.get(day);
  if (!times) known.set(day, (times = sessionOf(venueId, day)));
  return times;
}

function sessionOf(venueId: VenueId, day: Day): SessionTimes {
  const { session, zone } = VENUES[venueId];
  if (!session) return { preOpen: null, open: dayStart(venueId, day), close: dayStart(venueId, day + 1) };
  return {
    preOpen: session.preOpen === null ? null : localTime(zone, day, minutesOf(session.preOpen)),
    open: localTime(zone, day, minutesOf(session.open)),
    close: localTime(zone, day, minutesOf(session.close)),
  };
}

/** How long a venue is open between two times, in milliseconds; negative where the second comes first. */
export function openBetween(venueId: VenueId, from: number, to: number): number {
  if (to < from) return -openBetween(venueId, to, from);
  const last = tradingDay(venueId, to);
  let open = 0;
  for (let day = tradingDay(venueId, from); day <= last; day = nextTradingDay(venueId, day)) {
    const session = sessionTimes(venueId, day);
    open += Math.max(0, Math.min(to, session.close) - Math.max(from, session.open));
  }
  return open;
}

/** When the n-th trading day after a time's own begins: the settlement of what was bought then, with n = 2. */
export function settlementTime(venueId: VenueId, time: number, days: number): number {
  let day = tradingDay(venueId, time);
  for (let i = 0; i < days; i++) day = nextTradingDay(venueId, day);
  return dayStart(venueId, day);
}

const GTC_DAYS = 90;

/** When an order good till cancelled is ended by the broker: at the day's turn 90 calendar days after it was accepted. */
export const gtcEnd = (venueId: VenueId, accepted: number): number =>
  dayStart(venueId, nextTradingDay(venueId, localDay(VENUES[venueId].zone, accepted) + GTC_DAYS - 1));

/** Minutes past midnight, exchange time, at which the broker closes intraday positions where a session ends at 17:30. */
const INTRADAY_END = 17 * 60 + 20;

/** The next time after `time` at which intraday positions are closed at a venue; null where there are none. */
export function nextIntradayEnd(venueId: VenueId, time: number): number | null {
  const { zone, session } = VENUES[venueId];
  if (!session) return null;
  const today = localDay(zone, time);
  const day = isTradingDay(VENUES[venueId], today) && localTime(zone, today, INTRADAY_END) > time ? today : nextTradingDay(venueId, today);
  return localTime(zone, day, INTRADAY_END);
}

/** When a future or option ends: the close of its last trading day. Null for what does not expire. */
export function expiryTime(instrument: Pick<Instrument, 'venue' | 'expiry'>): number | null {
  return instrument.expiry === null ? null : sessionTimes(instrument.venue, parseDay(instrument.expiry)).close;
}
