import type { ExitPlanText } from '../../../core/exits/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { keepPlan, savedPlans } from '../_exit-plans.ts';

export const ALL = endpoint('/api/exit-plans', {
  GET: async (call) => json(200, { items: await savedPlans(call) }),
  POST: (call) => {
    const text = call.body as ExitPlanText & { name: string };
    return keepPlan(call, text.name, text, 1, 'nothing');
  },
});
