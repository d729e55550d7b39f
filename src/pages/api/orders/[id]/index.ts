import { isTerminal, readChange, type Order, type TermsText } from '../../../../core/orders/index.ts';
import type { Intent } from '../../../../core/desk/index.ts';
import { endpoint, json, type Call } from '../../_endpoint.ts';
import { presentOrders, unreadable } from '../../_order.ts';
import { notFound, refusalProblem } from '../../_problem.ts';

const find = (call: Call): Promise<Order | null> => call.desk.findOrder(call.parameter('id'), call.accounts);

/** 202 while the venue has not answered yet. */
const statusOf = (order: Order): number => (!isTerminal(order) && (order.pendingCancel !== null || order.pendingReplace !== null) ? 202 : 200);

async function ask(call: Call, order: Order, intent: Intent): Promise<Response> {
  const done = await call.desk.ask(order.account, intent);
  if (!done.ok) return refusalProblem(done.refusal);
  if (done.value.kind !== 'order') throw new Error('one order was asked for');
  return json(statusOf(done.value.order), (await presentOrders(call, [done.value.order]))[0]);
}

export const ALL = endpoint('/api/orders/{id}', {
  GET: async (call) => {
    const order = await find(call);
    return order ? json(200, (await presentOrders(call, [order]))[0]) : notFound();
  },
  PATCH: async (call) => {
    const order = await find(call);
    if (!order) return notFound();
    const { version = null, clientOrderId = null, ...terms } = call.body as TermsText & { version?: number; clientOrderId?: string };
    const change = readChange(terms, call.desk.instrument(order.instrument), order.heldBy);
    if (!change.ok) {
      const said = { what: `change of ${order.id}`, asked: call.body, instrument: order.instrument, orderId: order.id, refusal: change.refusal };
      return unreadable(call, order.account, said);
    }
    return ask(call, order, { kind: 'replace', orderId: order.id, change: change.value, version, clientOrderId });
  },
  DELETE: async (call) => {
    const order = await find(call);
    return order ? ask(call, order, { kind: 'cancel', orderId: order.id }) : notFound();
  },
});
