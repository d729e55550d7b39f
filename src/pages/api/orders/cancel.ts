import { endpoint, json, knownInstrument, ownAccounts } from '../_endpoint.ts';
import { presentOrders } from '../_order.ts';
import { refusalProblem } from '../_problem.ts';

export const ALL = endpoint('/api/orders/cancel', {
  POST: async (call) => {
    const { account, instrument, side } = call.body as { account: string; instrument?: string; side?: 'buy' | 'sell' };
    const own = ownAccounts(call, account, '/account');
    if (own instanceof Response) return own;
    const unknown = knownInstrument(call, instrument, '/instrument');
    if (unknown) return unknown;
    const done = await call.desk.ask(account, { kind: 'cancel-many', instrument: instrument ?? null, side: side ?? null });
    if (!done.ok) return refusalProblem(done.refusal);
    if (done.value.kind !== 'orders') throw new Error('several orders were asked for');
    return json(200, { canceled: await presentOrders(call, done.value.canceled), refused: done.value.refused });
  },
});
