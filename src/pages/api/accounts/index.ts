import { presentAccount } from '../../../desk/present/index.ts';
import { endpoint, json } from '../_endpoint.ts';

export const ALL = endpoint('/api/accounts', {
  GET: async (call) => {
    await call.desk.ensureMarks(call.accounts);
    return json(200, { items: call.accounts.map((id) => presentAccount(call.desk.account(id), call.desk.market)) });
  },
});
