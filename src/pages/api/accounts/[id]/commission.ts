import { formatDay, tradingDay } from '../../../../core/market/index.ts';
import { readCommission, type CommissionText, homeVenue } from '../../../../core/portfolio/index.ts';
import { presentCommission } from '../../../../desk/present/index.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { invalid, notFound, refusalProblem } from '../../_problem.ts';

type Asked = Pick<CommissionText, 'kind' | 'basis' | 'rate' | 'from'> & Partial<CommissionText>;

export const ALL = endpoint('/api/accounts/{id}/commission', {
  POST: async (call) => {
    const id = call.parameter('id');
    if (!call.accounts.includes(id)) return notFound();
    const { terms } = call.desk.account(id);
    const today = formatDay(tradingDay(homeVenue(terms), call.desk.now()));
    const asked: Asked = call.body;
    const text: CommissionText = { minimum: null, maximum: null, exchangeFee: '0', ...asked };
    const read = readCommission(text, terms.kinds, (kind) => (kind === 'inverse' ? 'CARB' : 'EUR'), today);
    if (!read.ok) return invalid([read.refusal]);
    const agreed = await call.desk.agree(id, read.value);
    if (!agreed.ok) return refusalProblem(agreed.refusal);
    return json(201, presentCommission(read.value), { location: `/api/accounts/${id}` });
  },
});
