import { orderState, TERMINAL_STATES, type OrderRequest } from '../../../core/orders/index.ts';
import { page } from '../../../core/page.ts';
import { presentOrder } from '../../../desk/present/index.ts';
import { endpoint, json, knownInstrument, ownAccounts, pageOf, pageQuery } from '../_endpoint.ts';
import { refusalProblem } from '../_problem.ts';

export const ALL = endpoint('/api/orders', {
  POST: async (call) => {
    const request = call.body as OrderRequest;
    const account = ownAccounts(call, request.account, '/account');
    if (account instanceof Response) return account;
    const placed = await call.desk.place(request);
    if (!placed.ok) return refusalProblem(placed.refusal);
    const { order, made } = placed.value;
    return json(made ? 201 : 200, presentOrder(call.desk.instrument(order.instrument), order), made ? { location: `/api/orders/${order.id}` } : {});
  },
  GET: (call) => {
    const { account, instrument, state } = call.query;
    const accounts = ownAccounts(call, account, '?account');
    if (accounts instanceof Response) return accounts;
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
    const found = accounts
      .flatMap((id) => {
        const of = call.desk.account(id);
        return [...of.orders.values()].map((order) => ({ seq: of.orderSeq.get(order.id) ?? 0, order }));
      })
      .filter(({ order }) => {
        const is = orderState(order);
        const wanted =
          state === undefined || state === is || (state === 'working' && !TERMINAL_STATES.has(is)) || (state === 'done' && TERMINAL_STATES.has(is));
        return wanted && (instrument === undefined || order.instrument === instrument);
      })
      .sort((a, b) => a.seq - b.seq);
    const asked = pageQuery(call);
    return json(
      200,
      pageOf(page(found, asked), asked, ({ order }) => presentOrder(call.desk.instrument(order.instrument), order)),
    );
  },
});
