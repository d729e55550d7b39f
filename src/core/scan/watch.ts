import type { VenueId } from '../instrument/index.ts';
import { openBetween } from '../market/index.ts';
import type { EventMemory } from './evaluation.ts';

export const DIRECTIONS = ['up', 'down', 'either'] as const;
export type Direction = (typeof DIRECTIONS)[number];

/** A point of a line over time; the price in whole currency. */
export interface LinePoint {
  readonly time: number;
  readonly price: number;
}

/** A line that a price may cross, straight over the hours in which its venue is open, and on beyond both of its points. */
export interface PriceLine {
  readonly from: LinePoint;
  readonly to: LinePoint;
}

/** Where a line stands at a time; at its second point where no open hours lie between the two. */
export function lineLevel(venue: VenueId, { from, to }: PriceLine, time: number): number {
  const length = openBetween(venue, from.time, to.time);
  if (length === 0) return to.price;
  return from.price + ((to.price - from.price) * openBetween(venue, from.time, time)) / length;
}

/** Where a price stood to a level: below it, at it, above it; null before any trade. */
export type LevelSide = -1 | 0 | 1 | null;

/**
 * A trade seen by a price alert (exact rule *Finding* 4): it is reached by the first one at or beyond its level from
 * the side it was on, in either direction at or through it. What was beyond already first has to come back.
 */
export function levelSeen(direction: Direction, side: LevelSide, level: number, traded: number): { readonly side: LevelSide; readonly reached: boolean } {
  const now = Math.sign(traded - level) as -1 | 0 | 1;
  if (side === null) return { side: now, reached: false };
  const fromBelow = side === -1 && now >= 0;
  const fromAbove = side === 1 && now <= 0;
  return { side: now, reached: (direction !== 'down' && fromBelow) || (direction !== 'up' && fromAbove) };
}

/** What a watched condition or price has come to: kept, so that neither a kill nor a row that comes again changes what fires. */
export interface WatchMemory {
  /** Up to where it was judged: market time, and the number of the market's event. */
  readonly time: number;
  readonly number: number;
  /** Whether the condition was true then; null before the first look. */
  readonly truth: boolean | null;
  readonly side: LevelSide;
  readonly events: readonly (readonly [number, { readonly side: number; readonly value: number; readonly trend: number }])[];
}

export const NO_MEMORY: WatchMemory = { time: -1, number: -1, truth: null, side: null, events: [] };

/** Whether a look says something new: a change of truth or side is kept, what stays as it was is not. */
export const isNews = (before: WatchMemory, now: WatchMemory): boolean =>
  before.truth !== now.truth || before.side !== now.side || eventsDiffer(before.events, now.events);

function eventsDiffer(a: WatchMemory['events'], b: WatchMemory['events']): boolean {
  return a.length !== b.length || a.some(([key, one], i) => b[i]?.[0] !== key || b[i]?.[1].side !== one.side || b[i]?.[1].trend !== one.trend);
}

export const eventsOf = (memory: EventMemory): WatchMemory['events'] => [...memory];

export const FIRES = ['once', 'once-a-bar', 'every'] as const;
export type Fires = (typeof FIRES)[number];

/**
 * Whether an alert that was reached fires: once, at most once a bar, or no oftener than its pause.
 *
 * @param barStart the start of the bar that a time falls into
 */
export function mayFire(fires: Fires, pauseSeconds: number, lastFiredAt: number | null, now: number, barStart: (time: number) => number): boolean {
  if (lastFiredAt === null) return true;
  if (fires === 'once') return false;
  if (fires === 'once-a-bar' && barStart(lastFiredAt) === barStart(now)) return false;
  return now - lastFiredAt >= pauseSeconds * 1000;
}

/** Whether one of an alert's words stands in a headline as a whole word, in any case. */
export function headlineHas(text: string, words: readonly string[]): string | null {
  const inText = wordsIn(text);
  return (
    words.find((word) => {
      const wanted = wordsIn(word);
      return wanted.length > 0 && inText.some((_, i) => wanted.every((one, k) => inText[i + k] === one));
    }) ?? null
  );
}

const wordsIn = (text: string): string[] => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];
