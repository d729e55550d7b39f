import { heldOf } from '../../../../desk/options.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { notFound } from '../../_problem.ts';

export const ALL = endpoint('/api/options/{underlying}/held', {
  GET: async (call) => {
    const underlying = call.desk.market.find(call.parameter('underlying'));
    return underlying ? json(200, await heldOf(call.desk, underlying, call.accounts)) : notFound();
  },
});
