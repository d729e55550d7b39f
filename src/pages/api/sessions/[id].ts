import { endpoint } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';
import { publicId } from './_id.ts';

export const ALL = endpoint('/api/sessions/{id}', {
  DELETE: async (call) => {
    const session = (await call.access.sessionsOf(call.user)).find(({ id }) => publicId(id) === call.parameter('id'));
    if (!session) return notFound();
    await call.access.signOut(session);
    call.desk.feed.hub.endOf(session.id);
    return new Response(null, { status: 204 });
  },
});
