import { endpoint } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

export const ALL = endpoint('/api/tokens/{id}', {
  DELETE: async (call) => {
    const id = call.parameter('id');
    if (!(await call.access.dropToken(call.user, id))) return notFound();
    call.desk.feed.hub.endOf(id);
    return new Response(null, { status: 204 });
  },
});
