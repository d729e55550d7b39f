import { presentShares } from '../../../../desk/backoffice/present.ts';
import { csv, endpoint, json } from '../../_endpoint.ts';
import { notFound } from '../../_problem.ts';

export const ALL = endpoint('/api/holdings/{account}/shares', {
  GET: async (call) => {
    const account = call.parameter('account');
    if (!call.accounts.includes(account)) return notFound();
    await call.desk.ensureMarks([account]);
    const shares = presentShares(call.desk.account(account), call.desk.market);
    if (call.query['format'] !== 'csv') return json(200, shares);
    const of = (by: 'sector' | 'instrument', rows: readonly object[]): object[] => rows.map((row) => ({ by, ...row }));
    return csv('shares', ['by', 'key', 'value', 'percent'], [...of('sector', shares.bySector), ...of('instrument', shares.byInstrument)]);
  },
});
