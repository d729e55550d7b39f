import { canonical } from '../canonical.ts';
import { formatQuantity } from '../instrument/index.ts';
import { invalid, isFinished, isHere, remainingQuantity, type Holder, type Order, type OrderGroup, type OrderIntent, type Refusal } from '../orders/index.ts';
import { linkDown, stillReconciling, type Decision } from './decision.ts';
import { Drafts } from './drafts.ts';
import type { Facts } from './facts.ts';
import { judgeOrder, usesOf } from './gate.ts';
import { adjust } from './here.ts';
import type { Intent } from './intents.ts';
import { askedBefore, heldEntry, planEntry, refusedEntry } from './place.ts';
import { asIfWorking, orderOf, type AccountState } from './state.ts';

const contentOf = (intent: Intent & { kind: 'place-group' }, order: OrderIntent): string => canonical(['group', intent.onPartialFill, order]);

/** Orders at once as a group: all of them or none, judged one after the other as if those before worked already. */
export function decidePlaceGroup(state: AccountState, intent: Intent & { kind: 'place-group' }, facts: Facts): Decision {
  const again = placedBefore(state, intent, facts);
  if (again) return again;
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return stillReconciling();
  const refuse = (refusal: Refusal): Decision => refusedEntry(state, facts, 'group', intent, intent.orders[0]?.instrument ?? null, null, refusal);
  const misfit = groupProblem(intent.orders);
  if (misfit) return refuse(misfit);
  const group: OrderGroup = { id: `${state.terms.id}-g${state.count + 1}`, onPartialFill: actOf(intent.onPartialFill, intent.orders) };
  const drafts = new Drafts(state, facts, 'user');
  const orders: Order[] = [];
  for (const [i, one] of intent.orders.entries()) {
    const judged = judgeOrder({ ...asIfWorking(state, orders, facts), count: drafts.next - 1 }, one, facts);
    const order = judged.case?.order;
    if (judged.refusal || !order) return refuse(under(`/orders/${i}`, judged.refusal as Refusal));
    const first = orders[0];
    if (first && order.terms.quantity !== first.terms.quantity) return refuse(unequal(i));
    const grouped = { ...order, group };
    orders.push(grouped);
    const here = isHere(grouped);
    drafts.order(grouped, contentOf(intent, one), { grouped: !here, uses: usesOf(judged) });
    if (here) drafts.entries.push(heldEntry(state, facts, grouped, drafts.entries.length - 1));
    if (grouped.exitPlan) drafts.entries.push(planEntry(state, facts, grouped));
  }
  if (!orders.some(isHere)) drafts.group(group, orders);
  return { entries: drafts.entries, answer: { kind: 'group', group, orderIds: orders.map(({ id }) => id), requestId: null, made: true } };
}

/** The same group again: all of its names were used, for the same. */
function placedBefore(state: AccountState, intent: Intent & { kind: 'place-group' }, facts: Facts): Decision | null {
  const found = intent.orders.map((one) => askedBefore(one.clientOrderId, contentOf(intent, one), facts));
  const refused = found.find((one) => one?.answer.kind === 'refused');
  if (refused) return refused;
  const known = found.flatMap((one) => (one?.answer.kind === 'order' ? [one.answer.orderId] : []));
  if (known.length === 0) return null;
  const first = known[0] ?? '';
  const group = (orderOf(state, first) ?? facts.past(first)?.order)?.group;
  if (known.length < intent.orders.length || !group)
    return { entries: [], answer: { kind: 'refused', refusal: { kind: 'conflict', detail: 'Some of these client order ids were used before.' } } };
  return { entries: [], answer: { kind: 'group', group, orderIds: known, requestId: null, made: false } };
}

const unequal = (i: number): Refusal => invalid(`/orders/${i}/quantity`, 'the orders of a group have one remaining quantity');

const placeOf = ({ heldBy }: { readonly heldBy: Holder }): string => (heldBy === 'here' ? 'here' : 'at the venue');

/** What keeps orders from being one group, or null. */
function groupProblem(orders: readonly OrderIntent[]): Refusal | null {
  const [first] = orders;
  for (const [i, order] of orders.entries()) {
    if (order.instrument !== first?.instrument)
      return invalid(`/orders/${i}/instrument`, `the orders of a group are of one instrument, ${first?.instrument ?? ''}`);
    if (order.account !== first.account) return invalid(`/orders/${i}/account`, `the orders of a group are of one account, ${first.account}`);
    if (order.terms.quantity !== first.terms.quantity) return unequal(i);
    if (order.heldBy !== first.heldBy)
      return invalid(`/orders/${i}/heldBy`, `the orders of a group are held in one place; the first is held ${placeOf(first)}`);
    if (orders.findIndex(({ clientOrderId }) => clientOrderId === order.clientOrderId) !== i)
      return invalid(`/orders/${i}/clientOrderId`, 'is used twice in the group');
  }
  return null;
}

/** A group with both sides always cancels. */
const actOf = (asked: OrderGroup['onPartialFill'] | null, orders: readonly { side: string }[]): OrderGroup['onPartialFill'] =>
  orders.some(({ side }) => side !== orders[0]?.side) ? 'cancel' : (asked ?? 'reduce');

/** A refusal with its paths put under another. */
function under(path: string, refusal: Refusal): Refusal {
  if (refusal.kind !== 'validation') return refusal;
  return { ...refusal, errors: refusal.errors.map((error) => ({ ...error, path: `${path}${error.path}` })) };
}

/** Working orders that become a group. */
export function decideLinkOrders(state: AccountState, intent: Intent & { kind: 'link-orders' }, facts: Facts): Decision {
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const orders = intent.orderIds.flatMap((id) => orderOf(state, id) ?? facts.past(id)?.order ?? []);
  const first = orders[0] as Order;
  const refuse = (refusal: Refusal): Decision => refusedEntry(state, facts, 'group', intent, first.instrument, first, refusal);
  for (const [i, order] of orders.entries()) {
    const at = `/orderIds/${i}`;
    if (isFinished(order)) return refuse({ kind: 'conflict', detail: `${order.id} is done and can't be linked.` });
    if (order.group || [...state.links.values()].some(({ orderIds }) => orderIds.includes(order.id)))
      return refuse({ kind: 'conflict', detail: `${order.id} is in a group already.` });
    if (isHere(order) !== isHere(first))
      return refuse(invalid(at, `the orders of a group are held in one place; ${first.id} is held ${isHere(first) ? 'here' : 'at the venue'}`));
    if (order.instrument !== first.instrument) return refuse(invalid(at, `the orders of a group are of one instrument, ${first.instrument}`));
    if (intent.orderIds.indexOf(order.id) !== i) return refuse(invalid(at, 'is named twice'));
    if (remainingQuantity(order) !== remainingQuantity(first)) {
      const say = (one: Order): string => formatQuantity(facts.instrument(one.instrument), remainingQuantity(one));
      return refuse(invalid(at, `the orders of a group have one remaining quantity; it has ${say(order)}, not ${say(first)}`));
    }
  }
  const drafts = new Drafts(state, facts, 'user');
  const number = drafts.take();
  const group: OrderGroup = { id: `${state.terms.id}-g${number}`, onPartialFill: actOf(intent.onPartialFill, orders) };
  if (isHere(first)) {
    for (const order of orders) adjust(drafts, order, { kind: 'linked', group });
    return { entries: drafts.entries, answer: { kind: 'group', group, orderIds: intent.orderIds, requestId: null, made: true } };
  }
  const requestId = `${group.id}/l`;
  drafts.say(
    `Link ${orders.length} orders of ${first.instrument}.`,
    { kind: 'link-requested', number, requestId, group, orderIds: intent.orderIds },
    { instrument: first.instrument },
  );
  return { entries: drafts.entries, answer: { kind: 'group', group, orderIds: intent.orderIds, requestId, made: true } };
}
