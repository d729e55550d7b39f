import type { Intent } from '../../core/desk/index.ts';
import type { ExitPlanText } from '../../core/exits/index.ts';
import type { Order, OrderRequest, Refusal, SavedPlan } from '../../core/orders/index.ts';
import { isFinished, readOrder, type OrderIntent } from '../../core/orders/index.ts';
import type { Outcome } from '../../desk/outcomes.ts';
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

/** An order request as it comes in a body: a plan may be asked for by its name. */
export type OrderBody = Omit<OrderRequest, 'exitPlan'> & { readonly exitPlan?: string | ExitPlanText };

/** The plan that a body names or says, as it is now; null where no plan has that name. */
export async function planAsked(call: Call, asked: string | ExitPlanText): Promise<ExitPlanText | SavedPlan | null> {
  if (typeof asked !== 'string') return asked;
  const found = await call.saved.get(call.user, 'exit-plan', asked);
  return found && { saved: found.document as ExitPlanText };
}

export const noPlan = (name: unknown): string => `there is no exit plan named ${String(name)}`;

/** The request in a body as an intent of an account of the user's; a refusal where it is none. */
export async function readIntent(call: Call, body: OrderBody): Promise<Result<OrderIntent, Refusal> | Response> {
  const { exitPlan, ...plain } = body;
  const plan = exitPlan === undefined ? undefined : await planAsked(call, exitPlan);
  if (plan === null) return invalid([{ path: '/exitPlan', message: noPlan(exitPlan) }]);
  const request: OrderRequest = plan === undefined ? plain : { ...plain, exitPlan: plan };
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
