import { isOver, withLeg, withStep, type LegName, type RunningLeg, type RunningPlan } from '../exits/index.ts';
import type { Instrument } from '../instrument/index.ts';
import { isOnItsWay, limitPriceOf, stopPriceOf, type Order, type OrderReport } from '../orders/index.ts';
import { keepPlan, type AccountState } from './state.ts';

/** The plan that runs and has this order as a leg. */
export function planOfLeg(state: AccountState, order: Order): RunningPlan | null {
  const plan = order.plan === null || order.step === null ? undefined : state.plans.get(order.plan);
  return plan && !isOver(plan) ? plan : null;
}

export const legName = (order: Order): LegName => (order.role === 'target' ? 'target' : 'stop');

/** What a report of a leg's order means to its plan. */
export function foldLeg(state: AccountState, order: Order, report: OrderReport, instrument: Instrument): readonly RunningPlan[] {
  const plan = planOfLeg(state, order);
  const name = legName(order);
  const leg = plan?.steps[order.step ?? 0]?.[name];
  if (!plan || !leg || leg.orderId !== order.id) return [];
  const change = legAfter(leg, order, report, instrument);
  if (!change) return [];
  const moved = withLeg(plan, order.step ?? 0, name, change);
  const ended = change.orderId === null && plan.steps[order.step ?? 0]?.fired === true;
  const next = ended ? withStep(moved, order.step ?? 0, { fired: false }) : moved;
  keepPlan(state, next);
  return [next];
}

function legAfter(leg: RunningLeg, order: Order, report: OrderReport, instrument: Instrument): Partial<RunningLeg> | null {
  const price = stopPriceOf(order.terms) ?? limitPriceOf(order.terms, order.side, instrument);
  switch (report.kind) {
    case 'replaced':
      return leg.asked === report.requestId ? { asked: null, moved: true, wanted: null, price, sent: price, missed: false } : { missed: false };
    case 'cancel-rejected':
      if (isOnItsWay(order)) return null;
      if (leg.asked === report.requestId) return { asked: null };
      return report.requestId.includes('/r') ? { sent: price, missed: true } : null;
    case 'rejected':
      return { orderId: null, sent: null, missed: true };
    case 'canceled':
      return { orderId: null, sent: null, over: report.reasonCode === 'user' || report.reasonCode === 'venue' };
    case 'expired':
      return { orderId: null, sent: null };
    default:
      return null;
  }
}
