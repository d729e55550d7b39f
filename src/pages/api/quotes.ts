import { presentQuote } from '../../desk/present/index.ts';
import { endpoint, json } from './_endpoint.ts';
import { invalid } from './_problem.ts';

const MOST = 500;

export const ALL = endpoint('/api/quotes', {
  GET: async (call) => {
    const ids = String(call.query['instruments']).split(',').filter(Boolean);
    const unknown = ids.filter((id) => !call.desk.market.find(id));
    if (unknown.length > 0) return invalid([{ path: '?instruments', message: `${unknown.join(', ')} not known` }]);
    if (ids.length === 0 || ids.length > MOST) return invalid([{ path: '?instruments', message: `takes 1 to ${MOST} instruments` }]);
    await call.desk.market.ensure(ids);
    return json(200, {
      items: ids.flatMap((id) => {
        const quote = call.desk.market.quote(id);
        return quote ? [presentQuote(call.desk.instrument(id), quote)] : [];
      }),
    });
  },
});
