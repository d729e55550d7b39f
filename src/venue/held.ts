import type { BrokerReport, Lodged } from '../core/desk/index.ts';
import type { Price } from '../core/instrument/index.ts';
import type { Order } from '../core/orders/index.ts';
import type { AccountBook, Application, CashRequest } from '../core/portfolio/index.ts';

/** What the broker keeps of an order besides the order itself. */
export interface HeldOrder {
  order: Order;
  /** Requests already answered; the same one again changes nothing. */
  handled: string[];
  /** When it ends by itself, in market time; null for ioc and fok. */
  endsAt: number | null;
  /** Its newest report: once the desk has that, a finished order can be forgotten. */
  lastSeq: number;
  /** Where the desk knows a following or trailing order to stand. */
  told: Price | null;
}

/** A customer's account at the broker. */
export interface HeldAccount {
  book: AccountBook;
  /** Its newest report. */
  seq: number;
  /** Reports up to here the desk has for good. */
  forgotten: number;
  /** The highest number of a request. */
  highest: number;
  /** Locked rules that the customer lodged. */
  lodged?: Lodged | null;
  /** Requests for money. */
  cash?: readonly CashRequest[];
  /** Applications for new issues. */
  applications?: readonly Application[];
}

/** A report without its number, which the account's own count gives it. */
export type Said = BrokerReport extends infer R ? (R extends BrokerReport ? Omit<R, 'account' | 'seq' | 'time'> : never) : never;
