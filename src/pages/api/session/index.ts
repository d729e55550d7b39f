import type { Call } from '../_endpoint.ts';
import { endpoint, json } from '../_endpoint.ts';
import { problem } from '../_problem.ts';

export const COOKIE = 'kavix';

const sessionOf = (call: Call, user: { name: string; secondStep: string | null }, csrf: string): object => ({
  user: { name: user.name, secondStep: user.secondStep !== null },
  accounts: call.desk.accountsOf(user.name),
  csrf,
});

export const ALL = endpoint('/api/session', {
  POST: async (call) => {
    const { user, password, code } = call.body as { user: string; password: string; code?: string };
    const answer = await call.access.signIn(user, password, code, call.context.clientAddress, call.context.request.headers.get('user-agent') ?? '');
    switch (answer.kind) {
      case 'limited':
        return problem(429, 'rate-limited', 'Too many failed tries. Wait a little.', {}, { 'retry-after': String(answer.retryAfterSeconds) });
      case 'refused':
        return problem(401, 'unauthenticated', 'Name, password or code is wrong.', answer.needsCode ? { needs: 'code' } : {});
      case 'signed-in': {
        call.context.cookies.set(COOKIE, answer.cookie, { path: '/', httpOnly: true, sameSite: 'strict' });
        return json(200, sessionOf(call, answer.user, answer.session.csrf));
      }
      default:
        return answer satisfies never;
    }
  },
  GET: async (call) => {
    const user = await call.access.user(call.user);
    return json(200, sessionOf(call, user ?? { name: call.user, secondStep: null }, call.context.locals.session?.csrf ?? ''));
  },
  DELETE: async (call) => {
    const { session } = call.context.locals;
    if (session) {
      await call.access.signOut(session);
      call.desk.feed.hub.endOf(session.id);
    }
    call.context.cookies.delete(COOKIE, { path: '/' });
    return new Response(null, { status: 204 });
  },
});
