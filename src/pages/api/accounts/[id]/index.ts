import { presentAccount } from '../../../../desk/present/index.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { notFound } from '../../_problem.ts';

export const ALL = endpoint('/api/accounts/{id}', {
  GET: async (call) => {
    const id = call.parameter('id');
    if (!call.accounts.includes(id)) return notFound();
    await call.desk.ensureMarks([id]);
    return json(200, presentAccount(call.desk.account(id), call.desk.market));
  },
});
