import { endpoint, json } from '../../_endpoint.ts';
import { accountIn, riskAnswer } from '../../_risk.ts';

export const ALL = endpoint('/api/risk/{account}/state', {
  GET: async (call) => {
    const state = accountIn(call);
    return state instanceof Response ? state : json(200, await riskAnswer(call, state));
  },
});
