import { endpoint, json } from '../_endpoint.ts';
import { problem } from '../_problem.ts';

const KIND = 'drawings';

/** What a user has drawn on the charts of an instrument; nothing yet is an empty list. */
export const ALL = endpoint('/api/drawings/{id}', {
  GET: async (call) => {
    const id = call.parameter('id');
    if (!call.desk.market.find(id)) return problem(404, 'not-found', `${id} is not known.`);
    return json(200, (await call.saved.get(call.user, KIND, id))?.document ?? { items: [] });
  },
  PUT: async (call) => {
    const id = call.parameter('id');
    if (!call.desk.market.find(id)) return problem(404, 'not-found', `${id} is not known.`);
    await call.saved.put(call.user, KIND, id, call.body, Date.now());
    return json(200, call.body);
  },
});
