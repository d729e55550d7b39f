import { isTerminal, type Order } from '../../../../core/orders/index.ts';
import { presentOrder } from '../../../../desk/present/index.ts';
import { endpoint, json, type Call } from '../../_endpoint.ts';
import { notFound, refusalProblem } from '../../_problem.ts';

const find = (call: Call): Order | undefined => call.desk.findOrder(call.parameter('id'), call.accounts);
const present = (call: Call, order: Order): object => presentOrder(call.desk.instrument(order.instrument), order);
/** 202 while the venue has not answered yet. */
const statusOf = (order: Order): number => (!isTerminal(order) && (order.pendingCancel !== null || order.pendingReplace !== null) ? 202 : 200);

export const ALL = endpoint('/api/orders/{id}', {
  GET: (call) => {
    const order = find(call);
    return order ? json(200, present(call, order)) : notFound();
  },
  PATCH: async (call) => {
    const order = find(call);
    if (!order) return notFound();
    const done = await call.desk.replace(order.id, order.account, call.body);
    return done.ok ? json(statusOf(done.value), present(call, done.value)) : refusalProblem(done.refusal);
  },
  DELETE: async (call) => {
    const order = find(call);
    if (!order) return notFound();
    const done = await call.desk.cancel(order.id, order.account);
    return done.ok ? json(statusOf(done.value), present(call, done.value)) : refusalProblem(done.refusal);
  },
});
