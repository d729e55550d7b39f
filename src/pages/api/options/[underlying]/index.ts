import { chainOf, expiriesOf } from '../../../../desk/options.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { invalid, notFound } from '../../_problem.ts';

export const ALL = endpoint('/api/options/{underlying}', {
  GET: async (call) => {
    const underlying = call.desk.market.find(call.parameter('underlying'));
    if (!underlying) return notFound();
    const wanted = call.query['expiry'];
    const known = [...expiriesOf(call.desk, underlying.id).keys()];
    if (wanted !== undefined && !known.includes(String(wanted)))
      return invalid([{ path: '?expiry', message: `${String(wanted)} is no expiry of ${underlying.id}; accepted: ${known.join(', ')}` }]);
    return json(200, await chainOf(call.desk, underlying, wanted === undefined ? null : String(wanted), call.accounts));
  },
});
