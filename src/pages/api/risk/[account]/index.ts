import { readRules, type RulesText } from '../../../../core/risk/index.ts';
import { presentRules } from '../../../../desk/present/index.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { unreadable } from '../../_order.ts';
import { refusalProblem } from '../../_problem.ts';
import { accountIn } from '../../_risk.ts';

export const ALL = endpoint('/api/risk/{account}', {
  GET: (call) => {
    const state = accountIn(call);
    return state instanceof Response ? state : json(200, presentRules(state));
  },
  PUT: async (call) => {
    const state = accountIn(call);
    if (state instanceof Response) return state;
    const account = state.terms.id;
    const { version, ...text } = call.body as RulesText & { version: number };
    const read = readRules(text);
    if (!read.ok)
      return unreadable(call, account, {
        what: `rules of ${account}`,
        asked: call.body,
        instrument: null,
        orderId: null,
        refusal: { kind: 'validation', errors: read.refusal },
      });
    const done = await call.desk.ask(account, { kind: 'set-rules', rules: read.value, version });
    return done.ok ? json(200, presentRules(call.desk.account(account))) : refusalProblem(done.refusal);
  },
});
