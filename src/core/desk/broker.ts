import type { Halves, Price, Quantity, VenueId } from '../instrument/index.ts';
import type { Day, MarketState, Quote } from '../market/index.ts';
import type { Money } from '../number/index.ts';
import type { Order, OrderChange, OrderGroup, OrderReport, ReasonCode } from '../orders/index.ts';
import type { AccountBook, Application, CashRequest, Commission } from '../portfolio/index.ts';
import type { Locks, RiskRules } from '../risk/index.ts';

/**
 * What a desk asks of a broker. `sentAt` is market time; the request arrives one latency later. `number` is the
 * account's running number of requests, so that a desk which lost its own count can take it up again.
 */
export type BrokerCommand = { readonly account: string; readonly number: number; readonly sentAt: number } & (
  | { readonly kind: 'new'; readonly order: Order }
  /** Orders of one group, all of them or none. */
  | { readonly kind: 'group'; readonly orders: readonly Order[] }
  /** Working orders become a group. */
  | { readonly kind: 'link'; readonly requestId: string; readonly group: OrderGroup; readonly orderIds: readonly string[] }
  | { readonly kind: 'replace'; readonly orderId: string; readonly requestId: string; readonly change: OrderChange }
  | { readonly kind: 'cancel'; readonly orderId: string; readonly requestId: string; readonly reasonCode: ReasonCode }
  | { readonly kind: 'cash'; readonly request: CashRequest }
  | { readonly kind: 'cash-back'; readonly cashRequestId: string }
  /** As it is to stand: the broker goes by the highest revision. */
  | { readonly kind: 'application'; readonly application: Application }
  | { readonly kind: 'application-back'; readonly applicationId: string }
);

/** What a broker tells of an account, numbered from 1 without a gap. */
export type BrokerReport = { readonly account: string; readonly seq: number; readonly time: number } & (
  | { readonly kind: 'order'; readonly orderId: string; readonly report: OrderReport }
  | { readonly kind: 'link-refused'; readonly requestId: string; readonly groupId: string; readonly reason: string }
  /** An order that the broker makes itself. */
  | { readonly kind: 'opened'; readonly orderId: string; readonly order: Order }
  /** A position settled in cash because its instrument ended; `basis` says at what, in words. */
  | { readonly kind: 'settled'; readonly instrument: string; readonly worth: Money; readonly basis: string }
  /** How a request for money stands by now. */
  | { readonly kind: 'cash'; readonly request: CashRequest }
  /** How an application for a new issue stands by now. */
  | { readonly kind: 'application'; readonly application: Application }
  /** A line of commission that was agreed. */
  | { readonly kind: 'commission'; readonly line: Commission }
  | { readonly kind: 'day-turn'; readonly venue: VenueId; readonly day: Day; readonly settlements: readonly Settlement[] }
);

/** The settlement price of what the account holds at a venue whose day turns; null before any price. */
export interface Settlement {
  readonly instrument: string;
  readonly price: Price | null;
}

/** A row of the market of an instrument that something waits on, in the venue's order among the reports. */
export interface PriceRow {
  readonly time: number;
  readonly instrument: string;
  readonly state: MarketState;
  /** The price of the trade that the row was, or null. */
  readonly traded: Price | null;
  readonly last: Price | null;
  /** What a position is valued at after it. */
  readonly mark: Halves | null;
  readonly bid: Price | null;
  readonly ask: Price | null;
}

/** A row as the prices are followed by: the whole quote after it, and how much was traded. */
export interface MarketRow extends PriceRow {
  readonly quote: Quote;
  readonly quantity: Quantity | null;
  /** How many events the market had had with it: the same row has the same number after a restart. */
  readonly number: number;
}

/** Locked rules as a broker keeps them: each until its own time. */
export interface Lodged {
  readonly rules: RiskRules;
  readonly locks: Locks;
}

/** What a broker knows of an order, and which requests for it it has had. */
export interface KnownOrder {
  readonly order: Order;
  readonly handled: readonly string[];
}

/** Everything a broker holds of an account, at one moment. */
export interface BrokerStatus {
  readonly account: string;
  readonly time: number;
  /** Its newest report. */
  readonly lastSeq: number;
  /** Reports up to here, and the orders that were done by then, it has no more. */
  readonly forgotten: number;
  /** The highest number of a request it has had. */
  readonly highest: number;
  readonly orders: readonly KnownOrder[];
  /** Locked rules that were lodged with it and are still in force. */
  readonly lodged: Lodged | null;
  readonly book: AccountBook;
  /** Every request for money that it has had. */
  readonly cash: readonly CashRequest[];
  /** Every application for a new issue that it has had. */
  readonly applications: readonly Application[];
}
