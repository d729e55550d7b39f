import { presentApplication } from '../../../desk/backoffice/present.ts';
import { askApplication, priceAsked } from '../_applications.ts';
import { endpoint, json, ownAccounts } from '../_endpoint.ts';
import { invalid } from '../_problem.ts';

interface Asked {
  readonly clientRequestId?: string;
  readonly account: string;
  readonly issue: string;
  readonly lots: number;
  readonly price: string;
}

export const ALL = endpoint('/api/applications', {
  GET: (call) => {
    const accounts = ownAccounts(call, call.query['account'], '?account');
    if (accounts instanceof Response) return accounts;
    const applications = accounts.flatMap((id) => [...call.desk.account(id).applications.values()].map(({ application }) => application));
    const oldestFirst = applications.sort((a, b) => a.requestedAt - b.requestedAt);
    return json(200, { items: oldestFirst.map((one) => presentApplication(call.desk.instrument(one.issue), one)) });
  },
  POST: async (call) => {
    const { clientRequestId = null, account, issue: id, lots, price: text } = call.body as Asked;
    const own = ownAccounts(call, account, '/account');
    if (own instanceof Response) return own;
    const issues = await call.desk.newIssues();
    const issue = issues.find((one) => one.id === id);
    if (!issue) return invalid([{ path: '/issue', message: `${id} is not offered; offered are ${issues.map((one) => one.id).join(', ') || 'none'}` }]);
    const price = priceAsked(call, id, text);
    return price instanceof Response ? price : askApplication(call, account, { kind: 'apply', issue, lots, price, clientRequestId });
  },
});
