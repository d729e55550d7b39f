import { minorUnit, money } from '../../../core/number/index.ts';
import type { CashRequestKind } from '../../../core/portfolio/index.ts';
import { presentCashRequest } from '../../../desk/backoffice/present.ts';
import { endpoint, json, ownAccounts } from '../_endpoint.ts';
import { invalid, refusalProblem } from '../_problem.ts';

interface Asked {
  readonly clientRequestId?: string;
  readonly account: string;
  readonly kind: CashRequestKind;
  readonly amount: string;
}

export const ALL = endpoint('/api/cash-requests', {
  GET: (call) => {
    const accounts = ownAccounts(call, call.query['account'], '?account');
    if (accounts instanceof Response) return accounts;
    const requests = accounts.flatMap((id) => [...call.desk.account(id).cash.values()].map(({ request }) => request));
    return json(200, { items: requests.sort((a, b) => a.requestedAt - b.requestedAt).map(presentCashRequest) });
  },
  POST: async (call) => {
    const { clientRequestId = null, account, kind, amount: text } = call.body as Asked;
    const own = ownAccounts(call, account, '/account');
    if (own instanceof Response) return own;
    if (call.desk.account(account).terms.wallets.length > 0)
      return invalid([{ path: '/account', message: `${account} has no EUR cash account; accepted are those that have` }]);
    const whole = /^\d+(\.\d{1,2})?$/.test(text) && money(text) > 0n;
    if (!whole || money(text) % minorUnit('EUR') !== 0n) return invalid([{ path: '/amount', message: 'must be over 0, with at most 2 decimals' }]);
    const done = await call.desk.ask(account, { kind: 'cash', cashKind: kind, amount: money(text), clientRequestId });
    if (!done.ok) return refusalProblem(done.refusal);
    if (done.value.kind !== 'cash') throw new Error('a request for money has another answer');
    const { request, made } = done.value;
    return json(made ? 201 : 200, presentCashRequest(request), made ? { location: `/api/cash-requests/${request.id}` } : {});
  },
});
