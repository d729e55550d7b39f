import type { Price, Quantity } from '../instrument/index.ts';
import type { Money } from '../number/index.ts';
import { TERMINAL_STATES, type Order, type OrderIdentity, type OrderState, type OrderTerms, type ReasonCode } from './order.ts';

/** What the broker says of an order. Applied once each, in the order of their sequence. */
export type OrderReport =
  | { readonly kind: 'new' }
  | { readonly kind: 'rejected'; readonly reason: string }
  | { readonly kind: 'triggered' }
  | {
      readonly kind: 'trade';
      readonly fillId: string;
      readonly price: Price;
      readonly quantity: Quantity;
      readonly value: Money;
      readonly fee: Money;
      readonly liquidity: 'added' | 'removed';
    }
  | { readonly kind: 'replaced'; readonly requestId: string; readonly terms: OrderTerms }
  | { readonly kind: 'canceled'; readonly requestId: string | null; readonly reasonCode: ReasonCode; readonly reason: string | null }
  | { readonly kind: 'cancel-rejected'; readonly requestId: string; readonly reason: string }
  | { readonly kind: 'restated'; readonly quantity: Quantity; readonly reasonCode: ReasonCode }
  /** The limit of a pegged order followed the best opposite price. */
  | { readonly kind: 'repriced'; readonly limitPrice: Price }
  | { readonly kind: 'expired'; readonly reasonCode: ReasonCode };

/** An order as it is when its intent is committed, before the venue knows of it. */
export const requestedOrder = (identity: OrderIdentity, terms: OrderTerms): Order => ({
  ...identity,
  ...terms,
  acknowledged: 'pending',
  ended: null,
  pendingCancel: null,
  pendingReplace: null,
  filledQuantity: 0,
  filledValue: 0n,
  fees: 0n,
  triggeredAt: null,
  reason: null,
  reasonCode: null,
  version: 1,
  updatedAt: identity.createdAt,
});

/**
 * The state by the precedence of FIX OrdStatus (FIX 4.4 volume 4, order state change matrices), highest first:
 * pending-cancel, pending-replace, filled, canceled and expired, partially-filled, new, rejected and pending-new.
 */
export function orderState(order: Order): OrderState {
  if (order.pendingCancel !== null) return 'pending-cancel';
  if (order.pendingReplace !== null) return 'pending-replace';
  if (order.filledQuantity > 0 && order.filledQuantity >= order.quantity) return 'filled';
  if (order.ended !== null) return order.ended;
  if (order.filledQuantity > 0) return 'partially-filled';
  if (order.acknowledged === 'rejected') return 'rejected';
  return order.acknowledged === 'accepted' ? 'new' : 'pending-new';
}

export const isTerminal = (order: Order): boolean => TERMINAL_STATES.has(orderState(order));

/** Nothing more can be filled: whatever is still pending, the venue is done with it. */
export const isFinished = (order: Order): boolean =>
  order.ended !== null || order.acknowledged === 'rejected' || (order.filledQuantity > 0 && order.filledQuantity >= order.quantity);

/** What can still be filled; 0 when finished. */
export const remainingQuantity = (order: Order): Quantity => (isFinished(order) ? 0 : order.quantity - order.filledQuantity);

export const requestReplace = (order: Order, requestId: string, terms: OrderTerms, time: number): Order => ({
  ...order,
  pendingReplace: { requestId, terms },
  updatedAt: time,
});

export const requestCancel = (order: Order, requestId: string, time: number): Order => ({
  ...order,
  pendingCancel: requestId,
  updatedAt: time,
});

/**
 * The order after a report. Total over every sequence of reports: what can't follow in a working venue
 * (a fill of a canceled order, a second acceptance) is booked as said and leaves a legal state.
 */
export function applyReport(before: Order, report: OrderReport, time: number): Order {
  const order = { ...before, updatedAt: time };
  switch (report.kind) {
    case 'new':
      return order.acknowledged === 'pending' ? { ...order, acknowledged: 'accepted' } : order;
    case 'rejected':
      if (order.acknowledged !== 'pending') return order;
      return { ...order, acknowledged: 'rejected', pendingCancel: null, pendingReplace: null, reason: report.reason, reasonCode: 'venue' };
    case 'triggered':
      return { ...order, triggeredAt: time };
    case 'trade':
      return {
        ...order,
        acknowledged: 'accepted',
        filledQuantity: order.filledQuantity + report.quantity,
        filledValue: order.filledValue + report.value,
        fees: order.fees + report.fee,
        quantity: Math.max(order.quantity, order.filledQuantity + report.quantity),
      };
    case 'replaced':
      return {
        ...order,
        ...termsOf(report.terms),
        ...answered(order, report.requestId),
        pegged: order.pegged && report.terms.limitPrice === order.limitPrice,
        version: order.version + 1,
      };
    case 'canceled':
      return { ...order, ended: order.ended ?? 'canceled', pendingCancel: null, pendingReplace: null, reasonCode: report.reasonCode, reason: report.reason };
    case 'cancel-rejected':
      return { ...order, ...answered(order, report.requestId), reason: report.reason };
    case 'restated':
      return { ...order, quantity: report.quantity, version: order.version + 1, reasonCode: report.reasonCode };
    case 'repriced':
      return { ...order, limitPrice: report.limitPrice, version: order.version + 1 };
    case 'expired':
      return { ...order, ended: order.ended ?? 'expired', pendingCancel: null, pendingReplace: null, reasonCode: report.reasonCode };
    default:
      return report satisfies never;
  }
}

/** The terms alone of whatever carries them. */
const termsOf = ({ type, quantity, limitPrice, limitOffsetTicks, stopPrice, triggerOn, timeInForce, expiresAt, restOnly }: OrderTerms): OrderTerms => ({
  type,
  quantity,
  limitPrice,
  limitOffsetTicks,
  stopPrice,
  triggerOn,
  timeInForce,
  expiresAt,
  restOnly,
});

/** Takes back the pending mark that a request set, and no other. */
function answered(order: Order, requestId: string): Pick<Order, 'pendingCancel' | 'pendingReplace'> {
  return {
    pendingCancel: order.pendingCancel === requestId ? null : order.pendingCancel,
    pendingReplace: order.pendingReplace?.requestId === requestId ? null : order.pendingReplace,
  };
}
