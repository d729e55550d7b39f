import type { Order } from '../../core/orders/index.ts';
import { presentOrder } from '../../desk/present/index.ts';
import { endpoint, json, knownInstrument, ownAccounts } from './_endpoint.ts';
import { refusalProblem } from './_problem.ts';

export const ALL = endpoint('/api/flatten', {
  POST: async (call) => {
    const { account, instrument } = call.body as { account: string; instrument?: string };
    const own = ownAccounts(call, account, '/account');
    if (own instanceof Response) return own;
    const unknown = knownInstrument(call, instrument, '/instrument');
    if (unknown) return unknown;
    const done = await call.desk.flatten(account, instrument ?? null);
    if (!done.ok) return refusalProblem(done.refusal);
    const present = (orders: readonly Order[]): object[] => orders.map((order) => presentOrder(call.desk.instrument(order.instrument), order));
    return json(200, { canceled: present(done.value.canceled), closing: present(done.value.closing), refused: done.value.refused });
  },
});
