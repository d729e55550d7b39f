import type { Interval } from '../market/index.ts';
import type { MarketColumns, OwnThings } from './columns.ts';

/** Kleene's three values in an order in which *and* is the least and *or* the greatest of them. */
export const FALSE = 0;
export const UNKNOWN = 1;
export const TRUE = 2;
export type Truth = typeof FALSE | typeof UNKNOWN | typeof TRUE;

export const truth = (of: boolean): Truth => (of ? TRUE : FALSE);

/** What an event without bars remembers from one evaluation to the next, by its place among the instruments and in the phrase. */
export type EventMemory = Map<number, { readonly side: number; readonly value: number; readonly trend: number }>;

/** What is looked at: a universe, a trader's own things, and what was remembered. */
export interface Scope {
  readonly columns: MarketColumns;
  readonly own: OwnThings;
  /** Null where a phrase is read alone: its events without bars are then unknown. */
  readonly memory: EventMemory | null;
  /** Comparisons hold this share of what they are held against too early; left out: exactly where they say. */
  readonly slack?: number;
}

/** As of which closed bar a value is looked at; null for now. */
export interface Cursor {
  readonly interval: Interval;
  readonly index: number;
  /** When that bar began. */
  readonly start: number;
}

/** A value of an instrument: exact ones as whole numbers of 10⁻⁵, all others as they are; NaN is unknown. */
export interface Node {
  readonly exact: boolean;
  get(scope: Scope, i: number, cursor: Cursor | null): number;
}
export type WordNode = (scope: Scope, i: number) => string | null;
export type Test = (scope: Scope, i: number) => Truth;

export const EXACT = 1e5;
export const exactly = (value: number): number => Math.round(value * EXACT);
export const plain = (node: Node, scope: Scope, i: number, cursor: Cursor | null): number => {
  const value = node.get(scope, i, cursor);
  return node.exact ? value / EXACT : value;
};
