import { VENUES, asPrice, asQuantity, type Price, type Quantity, type VenueId } from '../instrument/index.ts';
import { dayStart, nextTradingDay, sessionTimes, tradingDay, weekday } from './calendar.ts';

export const INTERVALS = ['1m', '2m', '3m', '5m', '15m', '30m', '1h', '4h', '1d', '1w'] as const;
/** One of the named intervals, or any whole number of minutes from 1 to 999, such as `7min`. */
export type Interval = (typeof INTERVALS)[number] | `${number}min`;

const OWN_MINUTES = /^[1-9]\d{0,2}min$/;
export const isInterval = (text: string): text is Interval => (INTERVALS as readonly string[]).includes(text) || OWN_MINUTES.test(text);

/** A trade of the market. */
export interface MarketTrade {
  readonly time: number;
  readonly price: Price;
}

/** One bar; `time` is its start in milliseconds, prices and volume in the instrument's units. */
export interface Bar {
  time: number;
  open: Price;
  high: Price;
  low: Price;
  close: Price;
  volume: Quantity;
}

const MINUTE = 60_000;

/** Minutes in an intraday interval. */
export const minutesIn = (interval: Exclude<Interval, '1d' | '1w'>): number => parseInt(interval, 10) * (interval.endsWith('h') ? 60 : 1);

/**
 * The start of the bar that a time falls into. Intraday bars count from the session's open and never span
 * its end; times before the open count from midnight, times after the close from the close.
 */
export function barStart(venue: VenueId, interval: Interval, time: number): number {
  const day = tradingDay(venue, time);
  if (interval === '1d') return dayStart(venue, day);
  if (interval === '1w') return dayStart(venue, VENUES[venue].weekends ? mondayOf(day) : day - weekday(day) + 1);
  const { open, close } = sessionTimes(venue, day);
  const anchor = time >= close ? close : time >= open ? open : dayStart(venue, day);
  const length = minutesIn(interval) * MINUTE;
  return anchor + Math.floor((time - anchor) / length) * length;
}

const mondayOf = (day: number): number => day - ((weekday(day) + 6) % 7);

/** Adds a print to the newest bar, or begins the next one. `bars` are of one interval, oldest first. */
export function addPrint(bars: Bar[], start: number, price: Price, quantity: Quantity): Bar {
  const newest = bars[bars.length - 1];
  if (newest && newest.time === start) {
    newest.high = asPrice(Math.max(newest.high, price));
    newest.low = asPrice(Math.min(newest.low, price));
    newest.close = price;
    newest.volume = asQuantity(newest.volume + quantity);
    return newest;
  }
  const bar = { time: start, open: price, high: price, low: price, close: price, volume: quantity };
  bars.push(bar);
  return bar;
}

/** Joins bars of a smaller interval, oldest first, into those of a larger one; those of the interval itself stay. */
export function aggregate(venue: VenueId, bars: readonly Bar[], interval: Interval): Bar[] {
  const joined: Bar[] = [];
  // Until when the newest one goes: to ask the calendar for every bar is what joining would cost most.
  let until = -Infinity;
  for (const bar of bars) {
    const newest = joined[joined.length - 1];
    if (newest && bar.time < until) {
      newest.high = asPrice(Math.max(newest.high, bar.high));
      newest.low = asPrice(Math.min(newest.low, bar.low));
      newest.close = bar.close;
      newest.volume = asQuantity(newest.volume + bar.volume);
    } else {
      const start = barStart(venue, interval, bar.time);
      until = barEnd(venue, interval, start);
      joined.push({ ...bar, time: start });
    }
  }
  return joined;
}

/** When the bar that starts at a time is over: intraday at the end of its minutes or of the session, a day at its turn. */
export function barEnd(venue: VenueId, interval: Interval, start: number): number {
  const day = tradingDay(venue, start);
  if (interval === '1d') return dayStart(venue, nextTradingDay(venue, day));
  if (interval === '1w') return dayStart(venue, (VENUES[venue].weekends ? mondayOf(day) : day - weekday(day) + 1) + 7);
  const { open, close } = sessionTimes(venue, day);
  const end = start + minutesIn(interval) * MINUTE;
  const bound = start < open ? open : start < close ? close : dayStart(venue, nextTradingDay(venue, day));
  return Math.min(end, bound);
}
