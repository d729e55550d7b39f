import { endpoint } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

export const ALL = endpoint('/api/tokens/{id}', {
  DELETE: async (call) => ((await call.access.dropToken(call.user, call.parameter('id'))) ? new Response(null, { status: 204 }) : notFound()),
});
