import { NONE } from '../../../../../core/review/index.ts';
import { presentTrip } from '../../../../../desk/review/present.ts';
import { endpoint, json } from '../../../_endpoint.ts';
import { invalid, notFound, refusalProblem } from '../../../_problem.ts';

interface Change {
  readonly setup?: string | null;
  readonly note?: string | null;
}

export const ALL = endpoint('/api/review/round-trips/{id}', {
  PATCH: async (call) => {
    const id = call.parameter('id');
    const found = await call.review.trip(id, call.accounts);
    if (!found) return notFound();
    const { setup, note } = call.body as Change;
    if (setup === NONE) return invalid([{ path: '/setup', message: `${NONE} stands for having none; accepted: another name, or null for none` }]);
    const said = { ...(setup === undefined ? {} : { setup }), ...(note === undefined ? {} : { note }) };
    const done = await call.desk.ask(found.account, { kind: 'mark-trip', trip: id, instrument: found.trip.instrument, ...said });
    if (!done.ok) return refusalProblem(done.refusal);
    const now = await call.review.trip(id, call.accounts);
    return now ? json(200, presentTrip(now)) : notFound();
  },
});
