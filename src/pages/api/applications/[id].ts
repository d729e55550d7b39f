import type { NewIssue } from '../../../core/portfolio/index.ts';
import { askApplication, priceAsked } from '../_applications.ts';
import { endpoint, type Call } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

/** An application of one of the user's accounts, and the issue that it is for. */
async function named(call: Call): Promise<{ account: string; applicationId: string; issue: NewIssue } | null> {
  const applicationId = call.parameter('id');
  const account = call.accounts.find((id) => call.desk.account(id).applications.has(applicationId));
  const known = account === undefined ? undefined : call.desk.account(account).applications.get(applicationId);
  const issue = known && (await call.desk.newIssues()).find(({ id }) => id === known.application.issue);
  return account !== undefined && issue ? { account, applicationId, issue } : null;
}

export const ALL = endpoint('/api/applications/{id}', {
  PATCH: async (call) => {
    const { lots = null, price: text = null } = call.body as { lots?: number; price?: string };
    const found = await named(call);
    if (!found) return notFound();
    const { account, ...of } = found;
    const price = text === null ? null : priceAsked(call, of.issue.id, text);
    return price instanceof Response ? price : askApplication(call, account, { kind: 'change-application', ...of, lots, price });
  },
  DELETE: async (call) => {
    const found = await named(call);
    if (!found) return notFound();
    const { account, ...of } = found;
    return askApplication(call, account, { kind: 'take-back-application', ...of });
  },
});
