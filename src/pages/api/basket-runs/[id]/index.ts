import { runAnswer } from '../../_baskets.ts';
import { endpoint } from '../../_endpoint.ts';
import { notFound } from '../../_problem.ts';

export const ALL = endpoint('/api/basket-runs/{id}', {
  GET: (call) => {
    const found = call.baskets.find(call.user, call.parameter('id'));
    return found ? runAnswer(call, 200, found) : notFound();
  },
});
