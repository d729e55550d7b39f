import type { BrokerCommand, BrokerReport, BrokerStatus, Lodged, MarketRow } from '../core/desk/index.ts';
import type { Instrument, Price, Quantity } from '../core/instrument/index.ts';
import type { Bar, DayFigures, Interval, MarketTrade, Quote, Side } from '../core/market/index.ts';
import type { AccountTerms, Commission, NewIssue } from '../core/portfolio/index.ts';
import type { Packed } from '../core/scan/index.ts';

export interface Print {
  readonly seq: number;
  readonly time: number;
  readonly instrument: string;
  readonly side: Side;
  readonly price: Price;
  readonly quantity: Quantity;
}

export interface Headline {
  readonly seq: number;
  readonly time: number;
  readonly instrument: string | null;
  readonly text: string;
}

export interface DepthLevel {
  readonly price: Price;
  readonly quantity: Quantity;
  readonly orders: number | null;
}

export interface DepthView {
  readonly instrument: string;
  readonly time: number;
  readonly bids: readonly DepthLevel[];
  readonly asks: readonly DepthLevel[];
}

/** Newest market data since the message before: conflated, but for the prints. */
export interface MarketUpdate {
  readonly time: number;
  readonly quotes: readonly Quote[];
  readonly depths: readonly DepthView[];
  readonly prints: readonly Print[];
  readonly news: readonly Headline[];
  /** Instruments of which prints were not told, because nobody could hear them: those who follow them look anew. */
  readonly missed: readonly string[];
}

/** What an account hears in the order it happened: reports, price rows of what something waits on, times it asked to be told of. */
export type StreamItem =
  | { readonly kind: 'report'; readonly report: BrokerReport }
  | { readonly kind: 'price'; readonly row: MarketRow }
  | { readonly kind: 'timer'; readonly time: number };

export interface VenueClock {
  readonly mode: 'live' | 'manual';
  readonly market: 'demo' | 'tape';
  readonly time: number;
  readonly speed: number;
  readonly tapeEndsAt: number | null;
  readonly ended: boolean;
}

export interface BarsRequest {
  readonly instrument: string;
  readonly interval: Interval;
  readonly from: number | null;
  readonly to: number | null;
  readonly limit: number;
}

/** What is looked at of a universe: all of one moment. Quotes, days and figures are written into a table that both share. */
export interface LookRequest {
  readonly instruments: readonly string[];
  /** Their places in the table. */
  readonly places: Uint32Array;
  /** The memory of the table. */
  readonly table: SharedArrayBuffer;
  /** Intervals, and how many bars of each. */
  readonly bars: readonly { readonly interval: Interval; readonly count: number }[];
  /** Bars from the one on that was live then; null for all that are wanted. */
  readonly since: number | null;
}

/** What was seen besides, and how many events the market had had by then. Bars and settlements lie in shared memory. */
export interface MarketLook {
  readonly time: number;
  readonly number: number;
  /** Of what was looked at, those that something is known of. */
  readonly places: Uint32Array;
  /** Those of them whose figures are other than the table had. */
  readonly changed: Uint32Array;
  readonly bars: readonly (Packed & { readonly interval: Interval })[];
  /** Null where they are what they were. */
  readonly settlements: Packed | null;
}

/** A page of a list by its numbers. */
export interface PageRequest {
  readonly before: number | null;
  readonly after: number | null;
  readonly limit: number;
}

/** Where a working order stands: what is displayed in front of it, and the price that a following or trailing one has now. */
export interface OrderStanding {
  readonly id: string;
  readonly ahead: Quantity | null;
  readonly price: Price | null;
}

export interface LinkState {
  readonly broker: 'up' | 'down';
  readonly data: 'up' | 'down';
  readonly since: number;
  readonly brokerSince: number;
  readonly dataSince: number;
}

/** What a desk waits on: every row of these markets, and a moment. */
export interface Armed {
  readonly instruments: readonly string[];
  readonly wakeAt: number | null;
}

/** Questions a desk asks, each with its answer. */
export interface VenueCalls {
  // The broker's.
  commands: { ask: readonly BrokerCommand[]; answer: null };
  status: { ask: { account: string }; answer: BrokerStatus };
  newIssues: { ask: null; answer: NewIssue[] };
  reportsAfter: { ask: { account: string; seq: number; limit: number }; answer: BrokerReport[] };
  acknowledge: { ask: readonly { account: string; seq: number }[]; answer: null };
  standing: { ask: { orderIds: readonly string[] }; answer: OrderStanding[] };
  arm: { ask: Armed; answer: null };
  lodge: { ask: { account: string; lodged: Lodged }; answer: null };
  agree: { ask: { account: string; line: Commission }; answer: number };
  /** Answered when all that was sent before has been worked off and told. */
  settled: { ask: null; answer: VenueClock };
  // The prices'.
  snapshot: { ask: { instruments: readonly string[] }; answer: MarketUpdate };
  depth: { ask: { instrument: string; levels: number }; answer: DepthView };
  bars: { ask: BarsRequest; answer: { items: Bar[]; live: boolean } };
  prints: { ask: PageRequest & { instrument: string }; answer: { items: Print[]; more: boolean } };
  /** The prices of all trades at or after a time, oldest first. */
  tradesSince: { ask: { instrument: string; since: number }; answer: MarketTrade[] };
  /** Trades between two times, both inclusive; where they are not kept, highs and lows of its minutes. */
  tradesBetween: { ask: { instrument: string; from: number; to: number }; answer: MarketTrade[] };
  news: { ask: PageRequest & { instrument: string | null }; answer: { items: Headline[]; more: boolean } };
  watch: { ask: { instruments: readonly string[]; depths: readonly string[] }; answer: null };
  /** Instruments as they are now, woken by nobody. */
  look: { ask: LookRequest; answer: MarketLook };
  // The demo's.
  survey: { ask: null; answer: DayFigures[] };
  advance: { ask: { to: number }; answer: VenueClock };
  speed: { ask: { speed: number }; answer: VenueClock };
  clock: { ask: null; answer: VenueClock };
  link: { ask: { broker?: 'up' | 'down' | undefined; data?: 'up' | 'down' | undefined }; answer: LinkState };
  stop: { ask: null; answer: null };
}

export type CallName = keyof VenueCalls;

export type ToVenue =
  | { [K in CallName]: { call: K; id: number; ask: VenueCalls[K]['ask'] } }[CallName]
  /** The desk has answered what it was told with this number: time may go on. */
  | { readonly call: 'resume'; readonly token: number };

export type FromVenue =
  | { kind: 'answer'; id: number; answer: unknown }
  | { kind: 'failed'; id: number; message: string }
  | { kind: 'ready'; instruments: Instrument[]; accounts: AccountTerms[]; clock: VenueClock; link: LinkState }
  | { kind: 'unable'; message: string }
  /** With a token the venue stands still until it is resumed. */
  | { kind: 'stream'; time: number; items: StreamItem[]; token: number | null }
  | { kind: 'market'; update: MarketUpdate }
  /** The newest report of each account, so that a lost one is missed. */
  | { kind: 'beat'; time: number; newest: Record<string, number> };

export interface VenueSettings {
  readonly dataFolder: string;
  readonly market: { readonly kind: 'demo' } | { readonly kind: 'tape'; readonly file: string };
  readonly seed: number;
  readonly clock: 'live' | 'manual';
  readonly latencyMs: number;
  /** No desk event is later than this: the market never goes back behind it. */
  readonly notBefore: number;
}
