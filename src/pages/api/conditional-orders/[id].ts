import { presentWaiting } from '../../../desk/present/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

export const ALL = endpoint('/api/conditional-orders/{id}', {
  GET: (call) => {
    const found = call.finding.waiting.find(call.user, call.parameter('id'));
    return found ? json(200, presentWaiting(found)) : notFound();
  },
  DELETE: async (call) => {
    const found = call.finding.waiting.find(call.user, call.parameter('id'));
    return found ? json(200, presentWaiting(await call.finding.waiting.cancel(found))) : notFound();
  },
});
