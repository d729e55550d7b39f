import { asQuantity, type Price, type Quantity } from '../instrument/index.ts';
import { plus, type Money } from '../number/index.ts';
import { TERMINAL_STATES, type Order, type OrderGroup, type OrderState, type PendingCancel, type PendingReplace, type ReasonCode } from './order.ts';
import { standingAt, type OrderTerms, type TrailSeen } from './terms.ts';

/** What the broker says of an order. Applied once each, in the order of their sequence. */
export type OrderReport = {
  /** Where a following or trailing order stands by now, if it moved since it was last said. */
  readonly standing?: Price;
  /** What a trailing stop that is held here has seen. */
  readonly seen?: TrailSeen;
} & (
  | { readonly kind: 'new' }
  | { readonly kind: 'rejected'; readonly reason: string; readonly reasonCode: ReasonCode }
  /** With terms where it goes to the venue as something else than it was held here as. */
  | { readonly kind: 'triggered'; readonly terms?: OrderTerms }
  | { readonly kind: 'linked'; readonly group: OrderGroup }
  | { readonly kind: 'suspended' }
  | { readonly kind: 'resumed' }
  /** A stop that is held here trails. */
  | { readonly kind: 'trailed' }
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
  | { readonly kind: 'expired'; readonly reasonCode: ReasonCode }
);

const isFilled = (order: Order): boolean => order.filledQuantity > 0 && order.filledQuantity >= order.terms.quantity;

/**
 * The state by the precedence of FIX OrdStatus (FIX 4.4 volume 4, order state change matrices), highest first:
 * pending-cancel, pending-replace, filled, suspended, canceled and expired, partially-filled, new, rejected and pending-new.
 */
export function orderState(order: Order): OrderState {
  if (order.pendingCancel !== null) return 'pending-cancel';
  if (order.pendingReplace !== null) return 'pending-replace';
  if (isFilled(order)) return 'filled';
  if (order.suspended && order.ended === null) return 'suspended';
  if (order.ended !== null) return order.ended;
  if (order.filledQuantity > 0) return 'partially-filled';
  if (order.acknowledged === 'rejected') return 'rejected';
  return order.acknowledged === 'accepted' ? 'new' : 'pending-new';
}

export const isTerminal = (order: Order): boolean => TERMINAL_STATES.has(orderState(order));

/** Nothing more can be filled: whatever is still pending, the venue is done with it. */
export const isFinished = (order: Order): boolean => order.ended !== null || order.acknowledged === 'rejected' || isFilled(order);

/** It waits here, and the venue knows nothing of it. */
export const isHere = (order: Order): boolean => order.heldBy === 'here' && order.triggeredAt === null;

/** What can still be filled; 0 when finished. */
export const remainingQuantity = (order: Order): Quantity => asQuantity(isFinished(order) ? 0 : order.terms.quantity - order.filledQuantity);

export const requestReplace = (order: Order, pendingReplace: PendingReplace, time: number): Order => ({ ...order, pendingReplace, updatedAt: time });

/** Whether it is on its way: at the venue for all that is known here, though that has not said so yet. */
export const isOnItsWay = (order: Order): boolean => order.acknowledged === 'pending' && order.ended === null && !isHere(order);

export const requestCancel = (order: Order, pendingCancel: PendingCancel, time: number): Order => ({ ...order, pendingCancel, updatedAt: time });

/**
 * The order after a report. Total over every sequence of reports: what can't follow in a working venue
 * (a fill of a canceled order, a second acceptance) is booked as said and leaves a legal state.
 */
export function applyReport(before: Order, report: OrderReport, time: number): Order {
  const stands = report.standing === undefined ? before.terms : standingAt(before.terms, report.standing);
  const terms = report.seen !== undefined && stands.type === 'trailing-stop' ? { ...stands, seen: report.seen } : stands;
  const order = { ...before, terms, updatedAt: time };
  switch (report.kind) {
    case 'new':
      return order.acknowledged === 'pending' ? { ...order, acknowledged: 'accepted' } : order;
    case 'rejected':
      if (order.acknowledged !== 'pending' && !isHere(order)) return order;
      return { ...order, acknowledged: 'rejected', pendingCancel: null, pendingReplace: null, reason: report.reason, reasonCode: report.reasonCode };
    case 'triggered': {
      // What was held here goes to the venue now, which has not answered yet.
      const acknowledged = isHere(order) ? 'pending' : order.acknowledged;
      return { ...order, triggeredAt: time, acknowledged, terms: report.terms ?? terms };
    }
    case 'linked':
      return { ...order, group: report.group };
    case 'suspended':
      return { ...order, suspended: true };
    case 'resumed':
      return { ...order, suspended: false };
    case 'trailed':
      return order;
    case 'trade': {
      const filledQuantity = asQuantity(order.filledQuantity + report.quantity);
      return {
        ...order,
        acknowledged: 'accepted',
        filledQuantity,
        filledValue: plus(order.filledValue, report.value),
        fees: plus(order.fees, report.fee),
        terms: filledQuantity > terms.quantity ? { ...terms, quantity: filledQuantity } : terms,
      };
    }
    case 'replaced':
      return { ...order, terms: report.terms, ...answered(order, report.requestId), version: order.version + 1 };
    case 'canceled':
      return { ...order, ended: order.ended ?? 'canceled', pendingCancel: null, pendingReplace: null, reasonCode: report.reasonCode, reason: report.reason };
    case 'cancel-rejected':
      // The broker does not have the order: what was asked of it stands, and goes again with the order.
      if (isOnItsWay(order)) return order;
      return { ...order, ...answered(order, report.requestId), reason: report.reason };
    case 'restated':
      return { ...order, terms: { ...terms, quantity: report.quantity }, version: order.version + 1, reasonCode: report.reasonCode };
    case 'expired':
      return { ...order, ended: order.ended ?? 'expired', pendingCancel: null, pendingReplace: null, reasonCode: report.reasonCode };
    default:
      return report satisfies never;
  }
}

/** Takes back the pending mark that a request set, and no other. */
function answered(order: Order, requestId: string): Pick<Order, 'pendingCancel' | 'pendingReplace'> {
  return {
    pendingCancel: order.pendingCancel?.requestId === requestId ? null : order.pendingCancel,
    pendingReplace: order.pendingReplace?.requestId === requestId ? null : order.pendingReplace,
  };
}
