import { riskDays } from '../../../../desk/review/risk-days.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { accountIn } from '../../_risk.ts';

export const ALL = endpoint('/api/risk/{account}/days', {
  GET: async (call) => {
    const state = accountIn(call);
    return state instanceof Response ? state : json(200, { items: await riskDays(call.desk, call.review, state, Number(call.query['limit'] ?? 20)) });
  },
});
