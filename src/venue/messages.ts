import type { Instrument, Price, Quantity, VenueId } from '../core/instrument/index.ts';
import type { Money } from '../core/number/index.ts';
import type { Bar, Day, DayFigures, Interval, Quote, Side } from '../core/market/index.ts';
import type { Order, OrderReport, OrderTerms, ReasonCode } from '../core/orders/index.ts';
import type { AccountBook, AccountTerms } from '../core/portfolio/index.ts';

/** What a desk asks of a broker. `sentAt` is market time; the request arrives one latency later. */
export type BrokerCommand =
  | { readonly kind: 'new'; readonly sentAt: number; readonly order: Order }
  | { readonly kind: 'replace'; readonly sentAt: number; readonly orderId: string; readonly requestId: string; readonly terms: OrderTerms }
  | { readonly kind: 'cancel'; readonly sentAt: number; readonly orderId: string; readonly requestId: string; readonly reasonCode: ReasonCode };

/** What a broker tells, numbered from 1 without a gap, so that nothing is applied twice or left out. */
export type BrokerReport =
  | { readonly seq: number; readonly time: number; readonly kind: 'order'; readonly account: string; readonly orderId: string; readonly report: OrderReport }
  /** An order that the broker makes itself. */
  | { readonly seq: number; readonly time: number; readonly kind: 'opened'; readonly account: string; readonly orderId: string; readonly order: Order }
  /** A position settled in cash because its instrument ended. */
  | {
      readonly seq: number;
      readonly time: number;
      readonly kind: 'settled';
      readonly account: string;
      readonly instrument: string;
      readonly worth: Money;
      /** What it was settled at, in words. */
      readonly basis: string;
    }
  | {
      readonly seq: number;
      readonly time: number;
      readonly kind: 'day-turn';
      readonly venue: VenueId;
      readonly day: Day;
      /** Settlement prices of what is held anywhere at the venue; null before any price. */
      readonly settlements: readonly { readonly instrument: string; readonly price: Price | null }[];
    };

/** What a broker knows of an order, for reconciling after a restart. */
export interface KnownOrder {
  readonly id: string;
  readonly handled: readonly string[];
  readonly finished: boolean;
}

export interface Reconciliation {
  readonly time: number;
  readonly orders: readonly KnownOrder[];
  readonly books: readonly AccountBook[];
  readonly lastSeq: number;
}

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
}

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

/** Questions a desk asks, each with its answer. */
export interface VenueCalls {
  snapshot: { ask: { instruments: readonly string[] }; answer: MarketUpdate };
  depth: { ask: { instrument: string; levels: number }; answer: DepthView };
  bars: { ask: BarsRequest; answer: { items: Bar[]; live: boolean } };
  prints: { ask: { instrument: string; before: number | null; after: number | null; limit: number }; answer: { items: Print[]; more: boolean } };
  news: { ask: { instrument: string | null; before: number | null; after: number | null; limit: number }; answer: { items: Headline[]; more: boolean } };
  survey: { ask: null; answer: DayFigures[] };
  queue: { ask: { orderIds: readonly string[] }; answer: { id: string; ahead: Quantity | null }[] };
  watch: { ask: { instruments: readonly string[]; depths: readonly string[] }; answer: null };
  advance: { ask: { to: number }; answer: VenueClock };
  speed: { ask: { speed: number }; answer: VenueClock };
  clock: { ask: null; answer: VenueClock };
  link: { ask: { broker?: 'up' | 'down' | undefined; data?: 'up' | 'down' | undefined }; answer: LinkState };
  reconcile: { ask: null; answer: Reconciliation };
  resend: { ask: { after: number }; answer: BrokerReport[] };
  command: { ask: BrokerCommand; answer: null };
  stop: { ask: null; answer: null };
}

export interface LinkState {
  readonly broker: 'up' | 'down';
  readonly data: 'up' | 'down';
  readonly since: number;
  readonly brokerSince: number;
  readonly dataSince: number;
}

export type CallName = keyof VenueCalls;

export type ToVenue = { [K in CallName]: { call: K; id: number; ask: VenueCalls[K]['ask'] } }[CallName];

export type FromVenue =
  | { kind: 'answer'; id: number; answer: unknown }
  | { kind: 'failed'; id: number; message: string }
  | { kind: 'ready'; instruments: Instrument[]; accounts: AccountTerms[]; clock: VenueClock; link: LinkState }
  | { kind: 'unable'; message: string }
  | { kind: 'reports'; reports: BrokerReport[] }
  | { kind: 'market'; update: MarketUpdate }
  | { kind: 'clock'; clock: VenueClock }
  | { kind: 'beat'; time: number };

export interface VenueSettings {
  readonly dataFolder: string;
  readonly market: { readonly kind: 'demo' } | { readonly kind: 'tape'; readonly file: string };
  readonly seed: number;
  readonly clock: 'live' | 'manual';
  readonly latencyMs: number;
  /** No desk event is later than this: the market never goes back behind it. */
  readonly notBefore: number;
}
