import { legStands, type AccountState } from '../../core/desk/index.ts';
import { stepState, type RunningLeg, type RunningPlan } from '../../core/exits/index.ts';
import { asQuantity, formatQuantity, type Instrument, type Price } from '../../core/instrument/index.ts';
import type { exits, ShapeOf } from '../../schemas/shapes.ts';
import { isoTime, priceOr } from './text.ts';

export type RunningPlanAnswer = ShapeOf<typeof exits.runningPlan>;

/** @param standing where a trailing stop stands at the venue, where that is known better than from its order */
export function presentPlan(state: AccountState, plan: RunningPlan, instrument: Instrument, standing: (orderId: string) => Price | null): RunningPlanAnswer {
  const legOf = (leg: RunningLeg | null) => {
    if (!leg) return null;
    const order = leg.orderId === null ? null : (state.working.get(leg.orderId)?.order ?? null);
    const price = (order?.terms.type === 'trailing-stop' ? standing(order.id) : null) ?? legStands(leg, order);
    return { price: priceOr(instrument, price), orderId: leg.orderId };
  };
  return {
    id: plan.id,
    name: plan.plan.name,
    account: plan.account,
    instrument: plan.instrument,
    heldBy: plan.plan.heldBy,
    entryOrderId: plan.entryOrderId,
    state: plan.state,
    since: isoTime(plan.since),
    steps: plan.steps.map((step) => ({
      quantity: formatQuantity(instrument, asQuantity(step.open + step.closed)),
      closedQuantity: formatQuantity(instrument, step.closed),
      state: stepState(plan, step),
      stop: legOf(step.stop),
      target: legOf(step.target),
    })),
    log: plan.log.map(({ time, text, orderId }) => ({ time: isoTime(time), text, orderId })),
  };
}
