import type { OrderGroup, OrderIntent, Refusal } from '../../../core/orders/index.ts';
import type { Intent } from '../../../core/desk/index.ts';
import { endpoint, type Call } from '../_endpoint.ts';
import { groupAnswer } from '../_group.ts';
import { readIntent, unreadable, type OrderBody } from '../_order.ts';
import { invalid, refusalProblem } from '../_problem.ts';

interface Body {
  readonly orders?: readonly OrderBody[];
  readonly orderIds?: readonly string[];
  readonly onPartialFill?: OrderGroup['onPartialFill'];
}

async function ask(call: Call, account: string, intent: Intent): Promise<Response> {
  const done = await call.desk.ask(account, intent);
  if (!done.ok) return refusalProblem(done.refusal);
  if (done.value.kind !== 'group') throw new Error('a group was asked for');
  const { group, orders, made } = done.value;
  return groupAnswer(call, made ? 201 : 200, group, orders);
}

/** Every order read before any is judged: the problems of the first that can't be, under its place in the list. */
async function place(call: Call, bodies: readonly OrderBody[], onPartialFill: OrderGroup['onPartialFill'] | null): Promise<Response> {
  const orders: OrderIntent[] = [];
  const [first] = bodies;
  for (const [i, body] of bodies.entries()) {
    const read = await readIntent(call, body);
    if (read instanceof Response) {
      const { errors } = (await read.json()) as { errors: { path: string; message: string }[] };
      return invalid(errors.map((error) => ({ ...error, path: `/orders/${i}${error.path}` })));
    }
    if (!read.ok)
      return unreadable(call, body.account, { what: 'group', asked: call.body, instrument: body.instrument, orderId: null, refusal: under(i, read.refusal) });
    orders.push(read.value);
  }
  return ask(call, first?.account ?? '', { kind: 'place-group', orders, onPartialFill });
}

const under = (i: number, refusal: Refusal): Refusal =>
  refusal.kind === 'validation' ? { ...refusal, errors: refusal.errors.map((error) => ({ ...error, path: `/orders/${i}${error.path}` })) } : refusal;

async function link(call: Call, orderIds: readonly string[], onPartialFill: OrderGroup['onPartialFill'] | null): Promise<Response> {
  const found = await Promise.all(orderIds.map((id) => call.desk.findOrder(id, call.accounts)));
  const unknown = found.indexOf(null);
  if (unknown >= 0) return invalid([{ path: `/orderIds/${unknown}`, message: `${String(orderIds[unknown])} is not one of your orders` }]);
  const accounts = new Set(found.flatMap((order) => order?.account ?? []));
  const [account = ''] = accounts;
  if (accounts.size > 1) return invalid([{ path: '/orderIds', message: `the orders of a group are of one account, not of ${[...accounts].join(' and ')}` }]);
  return ask(call, account, { kind: 'link-orders', orderIds, onPartialFill });
}

export const ALL = endpoint('/api/order-groups', {
  POST: (call) => {
    const { orders, orderIds, onPartialFill = null } = call.body as Body;
    return orders ? place(call, orders, onPartialFill) : link(call, orderIds ?? [], onPartialFill);
  },
});
