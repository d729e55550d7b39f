import { presentOrder } from '../../../desk/present/index.ts';
import { endpoint, json, knownInstrument, ownAccounts } from '../_endpoint.ts';
import { refusalProblem } from '../_problem.ts';

export const ALL = endpoint('/api/orders/cancel', {
  POST: async (call) => {
    const { account, instrument, side } = call.body as { account: string; instrument?: string; side?: 'buy' | 'sell' };
    const own = ownAccounts(call, account, '/account');
    if (own instanceof Response) return own;
    const unknown = knownInstrument(call, instrument, '/instrument');
    if (unknown) return unknown;
    const done = await call.desk.cancelMany(account, instrument ?? null, side ?? null);
    if (!done.ok) return refusalProblem(done.refusal);
    return json(200, {
      canceled: done.value.canceled.map((order) => presentOrder(call.desk.instrument(order.instrument), order)),
      refused: done.value.refused,
    });
  },
});
