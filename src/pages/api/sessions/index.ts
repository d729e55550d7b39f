import { isoTime } from '../../../desk/present/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { publicId } from './_id.ts';

/** Where a user is signed in. */
export const ALL = endpoint('/api/sessions', {
  GET: async ({ access, context, user }) => {
    const own = context.locals.session?.id;
    const found = await access.sessionsOf(user);
    return json(200, { items: found.map(({ id, agent, createdAt }) => ({ id: publicId(id), agent, createdAt: isoTime(createdAt), current: id === own })) });
  },
  DELETE: async ({ access, desk, user }) => {
    for (const session of await access.sessionsOf(user)) {
      await access.signOut(session);
      desk.feed.hub.endOf(session.id);
    }
    return new Response(null, { status: 204 });
  },
});
