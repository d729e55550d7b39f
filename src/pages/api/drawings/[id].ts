import { endpoint, json } from '../_endpoint.ts';
import { problem } from '../_problem.ts';
import { NOTHING, putDocument } from '../_saved.ts';

const KIND = 'drawings';

/** What a user has drawn on the charts of an instrument; nothing yet is an empty list. */
export const ALL = endpoint('/api/drawings/{id}', {
  GET: async (call) => {
    const id = call.parameter('id');
    if (!call.desk.market.find(id)) return problem(404, 'not-found', `${id} is not known.`);
    const found = await call.saved.get(call.user, KIND, id);
    return found ? json(200, found.document, { etag: `"${found.revision}"` }) : json(200, { items: [] }, { etag: NOTHING });
  },
  PUT: async (call) => {
    const id = call.parameter('id');
    if (!call.desk.market.find(id)) return problem(404, 'not-found', `${id} is not known.`);
    return putDocument(call, KIND, id, null);
  },
});
