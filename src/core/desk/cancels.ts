import { isOver, type RunningPlan } from '../exits/index.ts';
import type { Side } from '../market/index.ts';
import { isFinished, isHere, type ReasonCode } from '../orders/index.ts';
import { endHere } from './change.ts';
import type { Requested } from './decision.ts';
import type { Drafts } from './drafts.ts';
import { workingIn, type AccountState, type Working } from './state.ts';

/** Working orders that a cancel of many means. */
export function* meant(state: AccountState, instrument: string | null, side: Side | null): Generator<Working, void> {
  const all = instrument === null ? state.working.values() : workingIn(state, instrument);
  for (const working of all) {
    const { order } = working;
    if (order.pendingCancel === null && !isFinished(order) && (side === null || order.side === side)) yield working;
  }
}

/** Cancels orders, at the venue and here. */
export function cancelAll(drafts: Drafts, of: Iterable<Working>, reasonCode: ReasonCode): Requested[] {
  const { state, facts } = drafts;
  const canceled: Requested[] = [];
  for (const { order } of of) {
    if (isHere(order)) {
      drafts.entries.push(endHere(state, facts, order, reasonCode, { inDecision: 0 }, 'user'));
      canceled.push({ orderId: order.id, requestId: order.id });
    } else canceled.push({ orderId: order.id, requestId: drafts.cancel(order, reasonCode) });
  }
  return canceled;
}

/** The plans that run or wait, of an instrument or all. */
export const alive = (state: AccountState, instrument: string | null): RunningPlan[] =>
  [...state.plans.values()].filter((plan) => !isOver(plan) && (instrument === null || plan.instrument === instrument));
