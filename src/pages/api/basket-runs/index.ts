import { presentRun } from '../../../desk/baskets/present.ts';
import { endpoint, json } from '../_endpoint.ts';

export const ALL = endpoint('/api/basket-runs', {
  GET: async (call) => {
    const { basket } = call.query;
    const runs = call.baskets.of(call.user, basket === undefined ? null : String(basket));
    return json(200, { items: await Promise.all(runs.map((run) => presentRun(call.desk, run))) });
  },
});
