import { endpoint, json } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

export const ALL = endpoint('/api/scan-progress/{id}', {
  GET: (call) => {
    const progress = call.finding.scans.progressOf(call.user, call.parameter('id'));
    return progress ? json(200, progress) : notFound();
  },
  DELETE: async (call) => {
    const id = call.parameter('id');
    if (!call.finding.scans.progressOf(call.user, id)) return notFound();
    await call.finding.scans.stop(call.user, id);
    return new Response(null, { status: 204 });
  },
});
