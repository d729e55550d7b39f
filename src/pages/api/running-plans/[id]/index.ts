import type { LegName } from '../../../../core/exits/index.ts';
import { readPriceAt } from '../../../../core/orders/index.ts';
import { endpoint } from '../../_endpoint.ts';
import { unreadable } from '../../_order.ts';
import { askPlan, planIn } from '../../_plan.ts';

export const ALL = endpoint('/api/running-plans/{id}', {
  PATCH: async (call) => {
    const plan = planIn(call);
    if (plan instanceof Response) return plan;
    const { account, instrument, id } = plan;
    const asked = call.body as { step: number; leg: LegName; price: string };
    const price = readPriceAt('/price', asked.price, call.desk.instrument(instrument));
    if (!price.ok) return unreadable(call, account, { what: `move of a leg of ${id}`, asked, instrument, orderId: null, refusal: price.refusal });
    return askPlan(call, account, { kind: 'move-leg', planId: id, step: asked.step, leg: asked.leg, price: price.value }, 200);
  },
  DELETE: async (call) => {
    const plan = planIn(call);
    return plan instanceof Response ? plan : askPlan(call, plan.account, { kind: 'stop-plan', planId: plan.id }, 200);
  },
});
