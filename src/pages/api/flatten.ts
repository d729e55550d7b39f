import { endpoint, json, knownInstrument, ownAccounts } from './_endpoint.ts';
import { presentOrders } from './_order.ts';
import { refusalProblem } from './_problem.ts';

export const ALL = endpoint('/api/flatten', {
  POST: async (call) => {
    const { account, instrument } = call.body as { account: string; instrument?: string };
    const own = ownAccounts(call, account, '/account');
    if (own instanceof Response) return own;
    const unknown = knownInstrument(call, instrument, '/instrument');
    if (unknown) return unknown;
    const done = await call.desk.ask(account, { kind: 'flatten', instrument: instrument ?? null });
    if (!done.ok) return refusalProblem(done.refusal);
    if (done.value.kind !== 'orders') throw new Error('several orders were asked for');
    const { canceled, closing, refused } = done.value;
    return json(200, { canceled: await presentOrders(call, canceled), closing: await presentOrders(call, closing), refused });
  },
});
