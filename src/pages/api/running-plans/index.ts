import { endpoint, json, ownAccounts } from '../_endpoint.ts';
import { plansAnswered } from '../_plan.ts';

export const ALL = endpoint('/api/running-plans', {
  GET: async (call) => {
    const accounts = ownAccounts(call, call.query['account'], '?account');
    if (accounts instanceof Response) return accounts;
    const plans = accounts.flatMap((account) => [...call.desk.account(account).plans.values()]);
    return json(200, { items: await plansAnswered(call, plans) });
  },
});
