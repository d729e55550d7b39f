import { endpoint } from '../../../_endpoint.ts';
import { placedAnswer } from '../../../_order.ts';
import { notFound } from '../../../_problem.ts';

export const ALL = endpoint('/api/positions/{account}/{instrument}/reverse', {
  POST: async (call) => {
    const account = call.parameter('account');
    const instrument = call.desk.market.find(call.parameter('instrument'));
    if (!call.accounts.includes(account) || !instrument) return notFound();
    const { clientOrderId = null } = call.body as { clientOrderId?: string };
    return placedAnswer(call, await call.desk.ask(account, { kind: 'reverse', instrument: instrument.id, clientOrderId }));
  },
});
