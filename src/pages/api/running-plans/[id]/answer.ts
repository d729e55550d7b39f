import { endpoint } from '../../_endpoint.ts';
import { askPlan, planIn } from '../../_plan.ts';

export const ALL = endpoint('/api/running-plans/{id}/answer', {
  POST: async (call) => {
    const plan = planIn(call);
    const { act } = call.body as { act: 'fire' | 'resume' };
    return plan instanceof Response ? plan : askPlan(call, plan.account, { kind: 'answer-plan', planId: plan.id, act }, 200);
  },
});
