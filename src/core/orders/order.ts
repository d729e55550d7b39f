import type { ExitPlan } from '../exits/index.ts';
import { NO_QUANTITY, type Quantity } from '../instrument/index.ts';
import type { Side } from '../market/index.ts';
import { NO_MONEY, type Money } from '../number/index.ts';
import type { Product } from '../portfolio/index.ts';
import type { OrderChange } from './change.ts';
import type { OrderTerms } from './terms.ts';

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
  'condition',
  'basket',
  'late',
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

export const HOLDERS = ['venue', 'here'] as const;
export type Holder = (typeof HOLDERS)[number];

export const PARTIAL_FILL_ACTS = ['reduce', 'cancel'] as const;

/** Orders of which a fill lowers the others by as much, or cancels them. */
export interface OrderGroup {
  readonly id: string;
  readonly onPartialFill: (typeof PARTIAL_FILL_ACTS)[number];
}

/** What never changes about an order. */
export interface OrderIdentity {
  readonly id: string;
  readonly clientOrderId: string;
  readonly account: string;
  readonly instrument: string;
  readonly side: Side;
  readonly heldBy: Holder;
  readonly product: Product;
  readonly reduceOnly: boolean;
  readonly crossesZero: boolean;
  readonly setup: string | null;
  /** The plan that it enters for or is a leg of. */
  readonly plan: string | null;
  /** Of a leg: which step of the plan, from 0. */
  readonly step: number | null;
  /** What its fills are to be left by; a copy. */
  readonly exitPlan: ExitPlan | null;
  readonly role: OrderRole;
  readonly opening: boolean;
  readonly createdAt: number;
}

/** A change that the venue has not answered yet. */
export interface PendingReplace {
  readonly requestId: string;
  readonly change: OrderChange;
}

/** A cancel that the venue has not answered yet, and why it was asked for. */
export interface PendingCancel {
  readonly requestId: string;
  readonly reasonCode: ReasonCode;
}

/** An order with all that reports said of it so far. Its state follows from these by {@link orderState}. */
export interface Order extends OrderIdentity {
  readonly terms: OrderTerms;
  readonly group: OrderGroup | null;
  /** Held here while the broker or the prices are cut off. */
  readonly suspended: boolean;
  readonly acknowledged: 'pending' | 'accepted' | 'rejected';
  readonly ended: null | 'canceled' | 'expired';
  readonly pendingCancel: PendingCancel | null;
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

/** An order as it is when its intent is committed, before the venue knows of it. */
export const requestedOrder = (identity: OrderIdentity, terms: OrderTerms): Order => ({
  terms,
  group: null,
  suspended: false,
  acknowledged: 'pending',
  ended: null,
  pendingCancel: null,
  pendingReplace: null,
  filledQuantity: NO_QUANTITY,
  filledValue: NO_MONEY,
  fees: NO_MONEY,
  triggeredAt: null,
  reason: null,
  reasonCode: null,
  version: 1,
  updatedAt: identity.createdAt,
  ...identity,
});

/** What a plan, a rule or the broker closes with: a reducing order at the venue that no trader asked for. */
export const closingOrder = (
  identity: Pick<OrderIdentity, 'id' | 'clientOrderId' | 'account' | 'instrument' | 'side' | 'product' | 'role' | 'createdAt'> &
    Partial<Pick<OrderIdentity, 'plan' | 'step'>>,
  terms: OrderTerms,
): Order =>
  requestedOrder(
    { heldBy: 'venue', reduceOnly: true, crossesZero: false, setup: null, plan: null, step: null, exitPlan: null, opening: false, ...identity },
    terms,
  );

/** An order that was written before it could have a group or a plan. */
export const completeOrder = (order: Order): Order => ({ ...NEW_PARTS, ...order });
const NEW_PARTS = { plan: null, step: null, exitPlan: null, group: null, suspended: false } as const;
