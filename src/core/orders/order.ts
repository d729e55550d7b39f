import type { OrderType, Price, Quantity } from '../instrument/index.ts';
import type { Side, TriggerSource } from '../market/index.ts';
import type { Money } from '../number/index.ts';
import type { Product } from '../portfolio/index.ts';

export const TIMES_IN_FORCE = ['day', 'gtc', 'gtd', 'ioc', 'fok'] as const;
export type TimeInForce = (typeof TIMES_IN_FORCE)[number];

/** FIX OrdStatus values, in Kavix's spelling. */
export const ORDER_STATES = [
  'pending-new',
  'new',
  'partially-filled',
  'filled',
  'pending-cancel',
  'pending-replace',
  'canceled',
  'rejected',
  'expired',
  'suspended',
  'done-for-day',
] as const;
export type OrderState = (typeof ORDER_STATES)[number];

export const TERMINAL_STATES: ReadonlySet<OrderState> = new Set(['filled', 'canceled', 'rejected', 'expired']);

export const REASON_CODES = [
  'user',
  'oco',
  'flat',
  'reduced',
  'plan-stopped',
  'flatten',
  'close-out',
  'ioc',
  'fok',
  'day-end',
  'gtd',
  'gtc',
  'intraday-end',
  'venue',
  'risk',
] as const;
export type ReasonCode = (typeof REASON_CODES)[number];

export const ORDER_ROLES = ['entry', 'stop', 'target', 'close'] as const;
export type OrderRole = (typeof ORDER_ROLES)[number];

/** The part of an order that a replace can change. */
export interface OrderTerms {
  readonly type: OrderType;
  /** The order's total, filled part included. */
  readonly quantity: Quantity;
  readonly limitPrice: Price | null;
  /** Ticks from the stop price to the limit price of a stop-limit order; it sticks when the stop price moves. */
  readonly limitOffsetTicks: number | null;
  readonly stopPrice: Price | null;
  readonly triggerOn: TriggerSource;
  readonly timeInForce: TimeInForce;
  readonly expiresAt: number | null;
  readonly restOnly: boolean;
}

/** What never changes about an order. */
export interface OrderIdentity {
  readonly id: string;
  readonly clientOrderId: string;
  readonly account: string;
  readonly instrument: string;
  readonly side: Side;
  readonly heldBy: 'venue' | 'here';
  readonly product: Product;
  readonly reduceOnly: boolean;
  readonly crossesZero: boolean;
  readonly setup: string | null;
  readonly role: OrderRole;
  readonly opening: boolean;
  /** Closes where only limits are taken: its limit is the best opposite price and moves with it; null until there is one. */
  readonly pegged: boolean;
  readonly createdAt: number;
  /** The request in one canonical text: the same client order id with another one is a conflict. */
  readonly fingerprint: string;
}

export interface PendingReplace {
  readonly requestId: string;
  readonly terms: OrderTerms;
}

/** An order with all that reports said of it so far. Its state follows from these by {@link orderState}. */
export interface Order extends OrderIdentity, OrderTerms {
  readonly acknowledged: 'pending' | 'accepted' | 'rejected';
  readonly ended: null | 'canceled' | 'expired';
  readonly pendingCancel: string | null;
  readonly pendingReplace: PendingReplace | null;
  readonly filledQuantity: Quantity;
  /** Σ value of the fills, in what the instrument settles in. */
  readonly filledValue: Money;
  readonly fees: Money;
  readonly triggeredAt: number | null;
  readonly reason: string | null;
  readonly reasonCode: ReasonCode | null;
  readonly version: number;
  readonly updatedAt: number;
}
