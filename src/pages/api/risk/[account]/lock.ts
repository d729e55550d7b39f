import type { RuleName } from '../../../../core/risk/index.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { refusalProblem } from '../../_problem.ts';
import { accountIn, riskAnswer } from '../../_risk.ts';

export const ALL = endpoint('/api/risk/{account}/lock', {
  POST: async (call) => {
    const state = accountIn(call);
    if (state instanceof Response) return state;
    const { until, rules = null } = call.body as { until: string; rules?: readonly RuleName[] };
    const done = await call.desk.ask(state.terms.id, { kind: 'lock', until: Date.parse(until), rules });
    if (!done.ok) return refusalProblem(done.refusal);
    if (done.value.kind !== 'risk') throw new Error('a lock was asked for');
    const { made } = done.value;
    return json(made ? 201 : 200, await riskAnswer(call, call.desk.account(state.terms.id)), made ? { location: `/api/risk/${state.terms.id}/state` } : {});
  },
});
