import { riskDay } from '../../../../desk/review/risk-days.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { accountIn } from '../../_risk.ts';

export const ALL = endpoint('/api/risk/{account}/day', {
  GET: async (call) => {
    const state = accountIn(call);
    return state instanceof Response ? state : json(200, await riskDay(call.desk, call.past, state));
  },
});
