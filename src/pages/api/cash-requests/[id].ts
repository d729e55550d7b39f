import { presentCashRequest } from '../../../desk/backoffice/present.ts';
import { endpoint, json } from '../_endpoint.ts';
import { notFound, problem, refusalProblem } from '../_problem.ts';

export const ALL = endpoint('/api/cash-requests/{id}', {
  DELETE: async (call) => {
    const requestId = call.parameter('id');
    const account = call.accounts.find((id) => call.desk.account(id).cash.has(requestId));
    if (account === undefined) return notFound();
    const done = await call.desk.ask(account, { kind: 'cash-back', requestId });
    if (!done.ok) return refusalProblem(done.refusal);
    if (done.value.kind !== 'cash') throw new Error('a request for money has another answer');
    const { request } = done.value;
    // It was paid before the broker had that it was taken back.
    if (request.state === 'paid') return problem(409, 'conflict', 'It has been paid and can’t be taken back.', { state: request.state });
    return json(200, presentCashRequest(request));
  },
});
