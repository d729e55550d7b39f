import type { Intent } from '../../core/desk/index.ts';
import type { Order, OrderRequest, Refusal } from '../../core/orders/index.ts';
import { isFinished, readOrder, type OrderIntent } from '../../core/orders/index.ts';
import type { Outcome } from '../../desk/desk.ts';
import { presentOrder, type OrderAnswer } from '../../desk/present/index.ts';
import type { Result } from '../../core/result.ts';
import { json, ownAccounts, type Call } from './_endpoint.ts';
import { invalid, refusalProblem } from './_problem.ts';

/** Orders as they are answered: each where it stands at the venue just now. */
export async function presentOrders(call: Call, orders: readonly Order[]): Promise<OrderAnswer[]> {
  const standings = await call.desk.standing(orders.filter((order) => order.acknowledged === 'accepted' && !isFinished(order)).map((order) => order.id));
  return orders.map((order) => presentOrder(call.desk.instrument(order.instrument), order, standings.get(order.id) ?? null));
}

/** What could not be read leaves its trace in the activity, and is answered. */
export async function unreadable(call: Call, account: string, said: Omit<Intent & { kind: 'unreadable' }, 'kind'>): Promise<Response> {
  const done = await call.desk.ask(account, { kind: 'unreadable', ...said });
  return refusalProblem(done.ok ? said.refusal : done.refusal);
}

/** The request in a body as an intent of an account of the user's; a refusal where it is none. */
export function readIntent(call: Call, request: OrderRequest): Result<OrderIntent, Refusal> | Response {
  const account = ownAccounts(call, request.account, '/account');
  if (account instanceof Response) return account;
  const instrument = call.desk.market.find(request.instrument);
  if (!instrument) return invalid([{ path: '/instrument', message: `${request.instrument} is not known` }]);
  return readOrder(request, instrument);
}

/** The answer to a request that makes one order: 201 where it did, 200 where it was made before. */
export async function placedAnswer(call: Call, done: Result<Outcome, Refusal>): Promise<Response> {
  if (!done.ok) return refusalProblem(done.refusal);
  if (done.value.kind !== 'order') throw new Error('one order was asked for');
  const { order, made } = done.value;
  const [answer] = await presentOrders(call, [order]);
  return json(made ? 201 : 200, answer, made ? { location: `/api/orders/${order.id}` } : {});
}
