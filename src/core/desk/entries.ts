import type { Price, Quantity, VenueId } from '../instrument/index.ts';
import type { Day, Side } from '../market/index.ts';
import type { Money } from '../number/index.ts';
import type { RunningPlan } from '../exits/index.ts';
import type { Order, OrderChange, OrderGroup, OrderReport, OrderState, ReasonCode, Refusal } from '../orders/index.ts';
import type { AccountBook, Application, CashRequest, Commission } from '../portfolio/index.ts';
import type { OrderUse, RiskState } from '../risk/index.ts';
import type { Settlement } from './broker.ts';

/** How an order stood after an entry, for its history. */
export interface HistoryLine {
  readonly version: number;
  readonly execType: string;
  readonly state: OrderState;
  readonly quantity: Quantity;
  readonly limitPrice: Price | null;
  readonly stopPrice: Price | null;
  readonly filledQuantity: Quantity;
  readonly remainingQuantity: Quantity;
  readonly fillId: string | null;
  readonly reason: string | null;
}

/** What a trader named a request with, and what it said: the same name again with the same content is the same request. */
export interface Asked {
  readonly clientOrderId: string;
  readonly content: string;
}

/** What an order that is taken, or changed, used of the rules that each is measured by; none where it used none. */
export interface WithUses {
  readonly uses?: readonly OrderUse[];
}

/** What an entry changes. State is the fold of these, and of nothing else. */
export type EntryData =
  /** What the account had when its activity begins, where that is not what its terms say. */
  | { readonly kind: 'account-opened'; readonly book: AccountBook }
  /** `grouped` where it goes with the others of its group, by the entry that names them all. */
  | {
      readonly kind: 'order-requested';
      readonly number: number;
      readonly order: Order;
      readonly asked: Asked;
      readonly grouped?: true;
      readonly uses?: readonly OrderUse[];
    }
  /** Orders that go together, all or none. */
  | { readonly kind: 'orders-grouped'; readonly number: number; readonly group: OrderGroup; readonly orderIds: readonly string[] }
  | { readonly kind: 'link-requested'; readonly number: number; readonly requestId: string; readonly group: OrderGroup; readonly orderIds: readonly string[] }
  | { readonly kind: 'link-refused'; readonly reportSeq: number; readonly requestId: string; readonly groupId: string; readonly reason: string }
  /** An order that was held here goes to the venue. */
  | { readonly kind: 'order-released'; readonly number: number; readonly orderId: string; readonly report: OrderReport }
  /** An exit plan as it is from now on. */
  | { readonly kind: 'plan'; readonly plan: RunningPlan; readonly number?: number }
  /** What of an account's rules and their state is new. */
  | { readonly kind: 'risk'; readonly to: Partial<RiskState> }
  /** What is held here is cut off from the broker or from its prices, or no longer. */
  | { readonly kind: 'cut-off'; readonly since: number }
  | { readonly kind: 'back' }
  | {
      readonly kind: 'replace-requested';
      readonly number: number;
      readonly orderId: string;
      readonly requestId: string;
      readonly change: OrderChange;
      readonly asked: Asked | null;
      readonly uses?: readonly OrderUse[];
    }
  | { readonly kind: 'cancel-requested'; readonly number: number; readonly orderId: string; readonly requestId: string; readonly reasonCode: ReasonCode }
  /** What several requests were asked together for; they name it as their cause. */
  | {
      readonly kind: 'group-requested';
      readonly what: 'flatten' | 'cancel' | 'reverse' | 'stop-plan';
      readonly instrument: string | null;
      readonly side: Side | null;
    }
  | { readonly kind: 'order-opened'; readonly reportSeq: number; readonly order: Order }
  | { readonly kind: 'order-report'; readonly reportSeq: number; readonly orderId: string; readonly report: OrderReport }
  | { readonly kind: 'position-settled'; readonly reportSeq: number; readonly instrument: string; readonly worth: Money }
  | { readonly kind: 'day-turn'; readonly reportSeq: number; readonly venue: VenueId; readonly day: Day; readonly settlements: readonly Settlement[] }
  /** A report that fits nothing known here; what it was about is looked at when reconciling. */
  | { readonly kind: 'report-unplaced'; readonly reportSeq: number; readonly orderId: string }
  /** What the desk itself says of an order that the broker never had. */
  | { readonly kind: 'order-adjusted'; readonly orderId: string; readonly report: OrderReport }
  | {
      readonly kind: 'resent';
      readonly orderId: string;
      readonly what: 'new' | 'replace' | 'cancel' | 'link' | 'cash' | 'cash-back' | 'application' | 'application-back';
    }
  /** Where desk and broker differed. The broker's truth, if it is given, stands from now on. */
  | {
      readonly kind: 'difference';
      readonly what: string;
      readonly here: string;
      readonly broker: string;
      readonly order: Order | null;
      readonly book: AccountBook | null;
    }
  | { readonly kind: 'count-taken-up'; readonly number: number; readonly reportSeq: number }
  | { readonly kind: 'refused'; readonly what: string; readonly asked: unknown; readonly refusal: Refusal }
  | { readonly kind: 'link'; readonly broker: 'up' | 'down'; readonly data: 'up' | 'down' }
  | { readonly kind: 'note'; readonly what: string }
  | { readonly kind: 'cash-requested'; readonly number: number; readonly request: CashRequest }
  | { readonly kind: 'cash-back-requested'; readonly number: number; readonly requestId: string }
  /** An application for a new issue, or a change of one: as it is to stand. */
  | { readonly kind: 'application-requested'; readonly number: number; readonly application: Application }
  | { readonly kind: 'application-back-requested'; readonly number: number; readonly applicationId: string }
  /** How an application stands at the broker; what it moves in cash follows from how it stood before. */
  | { readonly kind: 'application-report'; readonly reportSeq: number; readonly application: Application }
  /** What became of a request for money at the broker; what it moves in cash follows from it. */
  | { readonly kind: 'cash-report'; readonly reportSeq: number; readonly request: CashRequest }
  /** A line of commission that the broker agreed to. */
  | { readonly kind: 'commission-agreed'; readonly reportSeq: number; readonly line: Commission }
  /** What the trader says of a round trip afterwards; what is left out stands. */
  | { readonly kind: 'round-trip-marked'; readonly trip: string; readonly setup?: string | null; readonly note?: string | null };

export const ENTRY_BY = ['user', 'desk', 'venue', 'rule', 'plan'] as const;
export type EntryBy = (typeof ENTRY_BY)[number];

/** An entry as it is decided, before it is numbered. */
export interface Draft {
  readonly time: number;
  /** Null for what belongs to no account; everybody may read it. */
  readonly account: string | null;
  readonly by: EntryBy;
  readonly instrument: string | null;
  readonly orderId: string | null;
  /** The entry that led to this one: its number, or its place in the same decision. */
  readonly causedBy: number | { readonly inDecision: number } | null;
  readonly text: string;
  readonly data: EntryData;
  readonly history: HistoryLine | null;
}

/** The entry that led to a draft, once the first of its decision has a number. */
export const causeOf = ({ causedBy }: Draft, first: number): number | null =>
  causedBy !== null && typeof causedBy === 'object' ? first + causedBy.inDecision : causedBy;

/** A line of the append-only activity log; each hash covers the line and the hash before it. */
export interface Entry extends Omit<Draft, 'causedBy'> {
  readonly seq: number;
  readonly causedBy: number | null;
  readonly hash: string;
}
