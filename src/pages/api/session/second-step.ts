import { endpoint, json } from '../_endpoint.ts';
import { problem } from '../_problem.ts';

const wrong = (): Response => problem(401, 'unauthenticated', 'Name, password or code is wrong.');

export const ALL = endpoint('/api/session/second-step', {
  POST: async (call) => {
    const { code } = call.body as { code?: string };
    if (code === undefined) return json(200, { secret: await call.access.beginSecondStep(call.user) });
    return (await call.access.confirmSecondStep(call.user, code)) ? json(200, { secondStep: true }) : wrong();
  },
  DELETE: async (call) => {
    const { code } = call.body as { code: string };
    return (await call.access.endSecondStep(call.user, code)) ? new Response(null, { status: 204 }) : wrong();
  },
});
