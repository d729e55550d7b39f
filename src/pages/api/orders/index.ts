import type { OrderState } from '../../../core/orders/index.ts';
import { endpoint, json, knownInstrument, ownAccounts, pageOf, pageQuery, withMore } from '../_endpoint.ts';
import { placedAnswer, presentOrders, readIntent, unreadable, type OrderBody } from '../_order.ts';

export const ALL = endpoint('/api/orders', {
  POST: async (call) => {
    const request: OrderBody = call.body;
    const read = await readIntent(call, request);
    if (read instanceof Response) return read;
    if (read.ok) return placedAnswer(call, await call.desk.ask(request.account, { kind: 'place', order: read.value }));
    const what = `${request.side} ${request.quantity} ${request.instrument}`;
    return unreadable(call, request.account, { what, asked: request, instrument: request.instrument, orderId: null, refusal: read.refusal });
  },
  GET: async (call) => {
    const { account, instrument, state, clientOrderId } = call.query;
    const accounts = ownAccounts(call, account, '?account');
    if (accounts instanceof Response) return accounts;
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
    if (clientOrderId !== undefined) {
      const orders = await call.desk.ordersAsked(accounts, String(clientOrderId));
      return json(200, { items: await presentOrders(call, orders), before: null, after: '0' });
    }
    const asked = pageQuery(call);
    const wanted = {
      accounts,
      ...(instrument === undefined ? {} : { instrument: String(instrument) }),
      ...(state === 'working' || state === 'done' ? { done: state === 'done' } : state === undefined ? {} : { state: state as OrderState }),
    };
    const found = await withMore(asked, async (page) =>
      (await call.desk.listOrders({ ...wanted, ...page })).map(({ order, madeBy }) => ({ seq: madeBy, order })),
    );
    const answers = await presentOrders(
      call,
      found.items.map(({ order }) => order),
    );
    const byId = new Map(answers.map((answer) => [answer.id, answer]));
    return json(
      200,
      pageOf(found, asked, ({ order }) => byId.get(order.id)),
    );
  },
});
