import { presentOrder } from '../../../../../desk/present/index.ts';
import { endpoint, json } from '../../../_endpoint.ts';
import { invalid, notFound, refusalProblem } from '../../../_problem.ts';

export const ALL = endpoint('/api/positions/{account}/{instrument}/close', {
  POST: async (call) => {
    const account = call.parameter('account');
    const instrument = call.desk.market.find(call.parameter('instrument'));
    if (!call.accounts.includes(account) || !instrument) return notFound();
    const ask = call.body as { quantity?: string; percent?: string; clientOrderId?: string };
    if (ask.percent !== undefined && !(Number(ask.percent) > 0 && Number(ask.percent) <= 100))
      return invalid([{ path: '/percent', message: 'must be above 0 and at most 100' }]);
    const done = await call.desk.closePosition(account, instrument.id, ask);
    if (!done.ok) return refusalProblem(done.refusal);
    const { order, made } = done.value;
    return json(made ? 201 : 200, presentOrder(instrument, order), { location: `/api/orders/${order.id}` });
  },
});
