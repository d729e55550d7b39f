import { endpoint } from '../../_endpoint.ts';
import { askPlan, planIn } from '../../_plan.ts';

export const ALL = endpoint('/api/running-plans/{id}', {
  DELETE: async (call) => {
    const plan = planIn(call);
    return plan instanceof Response ? plan : askPlan(call, plan.account, { kind: 'stop-plan', planId: plan.id }, 200);
  },
});
