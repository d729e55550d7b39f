import type { PhraseError } from '../core/language/index.ts';
import type { Direction, PriceLine, Join, ScanOutcome, WatchMemory } from '../core/scan/index.ts';
import type { StreamItem } from '../venue/messages.ts';

/** A trader's own things, as they travel. */
export interface OwnLists {
  readonly held: readonly string[];
  readonly withOrders: readonly string[];
  readonly lists: Readonly<Record<string, readonly string[]>>;
}

/** A condition as it reads, and of an instrument what it is. */
export interface ConditionReading {
  readonly canonical: string;
  readonly reading: string;
  /** The names of the watchlists in it. */
  readonly lists: readonly string[];
  readonly passing: { readonly from: number; readonly to: number } | null;
  readonly value: boolean | null;
  readonly parts: readonly { readonly from: number; readonly to: number; readonly value: string | null }[];
}

export type ConditionAnswer = { readonly ok: true; readonly value: ConditionReading } | { readonly ok: false; readonly error: PhraseError };

export interface ScanAsk {
  readonly universe: readonly string[];
  readonly lines: readonly { readonly phrase: string; readonly on: boolean }[];
  readonly join: Join;
  readonly own: OwnLists;
  /** By what events without bars are remembered from run to run; null for a run by itself. */
  readonly kept: string | null;
  /** `same` is answered where nothing came since its last run. */
  readonly unlessSame: boolean;
  /** By what name it can be stopped, and its progress is told; null where nobody asks. */
  readonly run: string | null;
}

/** Something that is watched row by row. */
export interface Watch {
  readonly id: string;
  readonly user: string;
  readonly instrument: string;
  readonly of:
    | { readonly kind: 'price'; readonly level: number; readonly direction: Direction }
    | { readonly kind: 'line'; readonly line: PriceLine; readonly direction: Direction }
    | { readonly kind: 'condition'; readonly phrase: string };
  readonly memory: WatchMemory;
}

/** Something that is watched was looked at: whether it was reached by that, and what is to be remembered. */
export interface Seen {
  readonly id: string;
  readonly time: number;
  readonly reached: boolean;
  readonly value: string | null;
  /** Whether what is remembered has changed. */
  readonly news: boolean;
  readonly memory: WatchMemory;
}

/** What follows from rows or a new set of watches, and when to look again by itself. */
export interface Watched {
  readonly seen: readonly Seen[];
  readonly wakeAt: number | null;
}

/** Questions to the prices, each with its answer. */
export interface PricesCalls {
  condition: { ask: { phrase: string; instrument: string | null; own: OwnLists }; answer: ConditionAnswer };
  /** Null where it was stopped. */
  scan: { ask: ScanAsk; answer: { at: number; outcome: ScanOutcome } | 'same' | null };
  /** Stops the history that a scan makes. */
  stop: { ask: { run: string }; answer: null };
  forget: { ask: { kept: string }; answer: null };
  /** All that is watched from now on; those that are new, or were set aside, are looked at at once. */
  watch: { ask: { watches: readonly Watch[]; own: Readonly<Record<string, OwnLists>> }; answer: Watched };
  /** What the market brought, in order. */
  rows: { ask: { items: readonly StreamItem[]; time: number; own: Readonly<Record<string, OwnLists>> }; answer: Watched };
}

export type PricesCall = keyof PricesCalls;
export type ToPrices = { [K in PricesCall]: { call: K; id: number; ask: PricesCalls[K]['ask'] } }[PricesCall];
/** How many instruments of a scan that needs history have theirs. */
export interface ScanProgress {
  readonly done: number;
  readonly of: number;
}

export type FromPrices =
  | { readonly kind: 'progress'; readonly run: string; readonly progress: ScanProgress }
  | { readonly kind: 'answer'; readonly id: number; readonly answer: unknown }
  | { readonly kind: 'failed'; readonly id: number; readonly message: string };
