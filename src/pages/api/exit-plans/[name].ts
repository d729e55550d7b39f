import type { ExitPlanText } from '../../../core/exits/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { dropPlan, keepPlan, notCurrent, savedPlan } from '../_exit-plans.ts';
import { invalid } from '../_problem.ts';

export const ALL = endpoint('/api/exit-plans/{name}', {
  GET: async (call) => {
    const found = await savedPlan(call);
    return found instanceof Response ? found : json(200, found.plan);
  },
  PUT: async (call) => {
    const found = await savedPlan(call);
    if (found instanceof Response) return found;
    const { version, ...text } = call.body as ExitPlanText & { version?: number };
    const { plan, revision } = found;
    if (typeof text.name === 'string' && text.name !== plan.name) return invalid([{ path: '/name', message: `must be ${plan.name}, as in the path` }]);
    if (version !== undefined && version !== plan.version) return notCurrent(plan.version);
    return keepPlan(call, plan.name, text, plan.version + 1, { revision });
  },
  DELETE: dropPlan,
});
