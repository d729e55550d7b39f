import type { OrderRequest } from '../../../core/orders/index.ts';
import { previewOrder } from '../../../desk/preview.ts';
import { endpoint, json, ownAccounts } from '../_endpoint.ts';
import { refusalProblem } from '../_problem.ts';

export const ALL = endpoint('/api/orders/preview', {
  POST: async (call) => {
    const request = call.body as OrderRequest;
    const account = ownAccounts(call, request.account, '/account');
    if (account instanceof Response) return account;
    const preview = await previewOrder(call.desk, request);
    return preview.ok ? json(200, preview.value) : refusalProblem(preview.refusal);
  },
});
