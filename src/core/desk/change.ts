import { canonical } from '../canonical.ts';
import { formatQuantity, asQuantity, sizeOf } from '../instrument/index.ts';
import {
  applyReport,
  invalid,
  isFinished,
  isHere,
  isTerminal,
  layOver,
  limitPriceOf,
  orderSentence,
  orderState,
  requestCancel,
  requestReplace,
  stopPriceOf,
  type Order,
  type OrderChange,
  type OrderTerms,
  type ReasonCode,
  type Refusal,
} from '../orders/index.ts';
import { positionOf } from '../portfolio/index.ts';
import { draft, linkDown, type Decision } from './decision.ts';
import type { Asked, Draft, EntryBy, WithUses } from './entries.ts';
import type { Facts } from './facts.ts';
import { judgeTerms, usesOf } from './gate.ts';
import { resizedInGroup, seenAgain } from './here.ts';
import type { Intent } from './intents.ts';
import { askedBefore, refusedEntry } from './place.ts';
import { orderOf, type AccountState } from './state.ts';
import { historyLine, reportHistory, reportText } from './words.ts';

/** An order as it works, or as it ended. */
const find = (state: AccountState, orderId: string, facts: Facts): Order => {
  const order = orderOf(state, orderId) ?? facts.past(orderId)?.order;
  if (!order) throw new Error(`unknown order ${orderId}`);
  return order;
};

/** Why an order can no longer be changed or cancelled, or null. */
function over(order: Order, what: 'replaced' | 'cancelled'): Refusal | null {
  if (!isTerminal(order) && !isFinished(order)) return null;
  const state = orderState(order);
  return { kind: 'conflict', detail: `The order is ${state} and can't be ${what}.`, state };
}

/** A change of an order's terms. */
export function decideReplace(state: AccountState, intent: Intent & { kind: 'replace' }, facts: Facts): Decision {
  const { orderId, change, clientOrderId } = intent;
  const order = find(state, orderId, facts);
  const content = canonical([orderId, change, intent.version]);
  const before = clientOrderId === null ? null : askedBefore(clientOrderId, content, facts);
  if (before) return before;
  const cut = cutOff(order, facts);
  if (cut) return cut;
  const refusal = changeProblem(state, order, change, intent.version, facts);
  const instrument = facts.instrument(order.instrument);
  if ('kind' in refusal) return refusedEntry(state, facts, `change of ${order.id}`, intent, order.instrument, order, refusal);
  if (isHere(order))
    return changedHere(state, order, seenAgain(refusal.terms, order, facts), clientOrderId === null ? null : { clientOrderId, content }, refusal.uses, facts);
  const number = state.count + 1;
  const requestId = `${orderId}/r${number}`;
  const pending = requestReplace(order, { requestId, change: refusal.change }, facts.now);
  const data = {
    kind: 'replace-requested',
    number,
    orderId,
    requestId,
    change: refusal.change,
    asked: clientOrderId === null ? null : { clientOrderId, content },
    ...refusal.uses,
  } as const;
  const text = `Change ${orderSentence({ ...order, terms: refusal.terms }, instrument)}`;
  const history = historyLine(pending, instrument, 'pending-replace', null, null);
  return { entries: [draft(state, facts.now, text, data, { order, history })], answer: { kind: 'order', orderId, made: true, requestId } };
}

/** Without a link nothing is asked of the broker; what is held here needs none. */
function cutOff(order: Order, facts: Facts): Decision | null {
  if (isHere(order) || facts.link === 'up') return null;
  return facts.link === 'down' ? linkDown() : { entries: [], answer: { kind: 'waits' } };
}

/** A change of an order that is held here: asked and done in one. */
function changedHere(state: AccountState, order: Order, terms: OrderTerms, asked: Asked | null, uses: WithUses, facts: Facts): Decision {
  const instrument = facts.instrument(order.instrument);
  const number = state.count + 1;
  const requestId = `${order.id}/r${number}`;
  const report = { kind: 'replaced', requestId, terms } as const;
  const after = applyReport(order, report, facts.now);
  const request = { kind: 'replace-requested', number, orderId: order.id, requestId, change: {}, asked, ...uses } as const;
  const text = `Change ${orderSentence({ ...order, terms }, instrument)}`;
  const entries = [
    draft(state, facts.now, text, request, {
      order,
      history: historyLine(requestReplace(order, { requestId, change: {} }, facts.now), instrument, 'pending-replace', null, null),
    }),
    draft(
      state,
      facts.now,
      reportText(after, report, instrument),
      { kind: 'order-adjusted', orderId: order.id, report },
      {
        order,
        by: 'desk',
        causedBy: { inDecision: 0 },
        history: reportHistory(after, instrument, report),
      },
    ),
  ];
  if (order.group) entries.push(...resizedInGroup(state, after, facts));
  return { entries, answer: { kind: 'order', orderId: order.id, made: true, requestId: null } };
}

/** The entry that ends an order which is held here. */
export function endHere(state: AccountState, facts: Facts, order: Order, reasonCode: ReasonCode, causedBy: Draft['causedBy'], by: EntryBy): Draft {
  const instrument = facts.instrument(order.instrument);
  const report = { kind: 'canceled', requestId: null, reasonCode, reason: null } as const;
  const after = applyReport(order, report, facts.now);
  const data = { kind: 'order-adjusted', orderId: order.id, report } as const;
  return draft(state, facts.now, reportText(after, report, instrument), data, { order, by, causedBy, history: reportHistory(after, instrument, report) });
}

/** Why a change is refused, or what is sent and the terms it gives as far as is known here. */
function changeProblem(
  state: AccountState,
  order: Order,
  change: OrderChange,
  version: number | null,
  facts: Facts,
): Refusal | { change: OrderChange; terms: OrderTerms; uses: WithUses } {
  const done = over(order, 'replaced');
  if (done) return done;
  if (order.step !== null && change.quantity !== undefined)
    return { kind: 'conflict', detail: 'The quantity of a leg is that of its step. Stop the plan, or change the position.', state: orderState(order) };
  const under = order.pendingReplace ? 'A change' : order.pendingCancel ? 'A cancel' : null;
  if (under) return { kind: 'conflict', detail: `${under} of this order is still under way.`, state: orderState(order) };
  if (version !== null && version !== order.version)
    return { kind: 'conflict', detail: `The order is at version ${order.version}, not ${version}.`, version: order.version, state: orderState(order) };
  if (order.triggeredAt !== null && (change.stop !== undefined || change.triggerOn !== undefined || change.trail !== undefined))
    return invalid('/stopPrice', 'the stop has triggered already; its limit price and quantity can still be changed');
  const cut = cutChange(state, order, change);
  const laid = layOver(order.terms, cut);
  if (!laid.ok) return laid.refusal;
  const terms = laid.value;
  const moved = {
    stop: change.stop !== undefined || change.triggerOn !== undefined || change.type !== undefined || change.trail !== undefined,
    margin: order.opening && needsMore(order, terms, facts),
    // A change of what opens is opening itself, unless it only lowers its quantity.
    opens: order.opening && !onlyLowers(order, change),
  };
  const judged = judgeTerms(moved.margin ? withoutOrder(state, order.id) : state, order, terms, facts, moved);
  const { refusal } = judged;
  const uses = usesOf(judged);
  // What was wrong before and is not changed is no reason to refuse the change.
  if (refusal?.kind === 'validation' && !refusal.errors.some(({ path }) => touches(change, path))) return { change: cut, terms, uses };
  return refusal ?? { change: cut, terms, uses };
}

const onlyLowers = (order: Order, change: OrderChange): boolean =>
  Object.keys(change).every((field) => field === 'quantity') && (change.quantity ?? order.terms.quantity) <= order.terms.quantity;

/** A reducing order is never made larger than the position. */
function cutChange(state: AccountState, order: Order, change: OrderChange): OrderChange {
  if (change.quantity === undefined || !order.reduceOnly) return change;
  const most = asQuantity(sizeOf(positionOf(state.book, order.instrument).quantity) + order.filledQuantity);
  return change.quantity > most ? { ...change, quantity: most } : change;
}

const TOUCHED: Readonly<Record<string, readonly (keyof OrderChange)[]>> = {
  '/limitPrice': ['limit', 'offsetTicks', 'stop', 'type', 'restOnly'],
  '/stopPrice': ['stop', 'triggerOn', 'type', 'trail'],
  '/expiresAt': ['lifetime'],
  '/quantity': ['quantity'],
};
const touches = (change: OrderChange, path: string): boolean => (TOUCHED[path] ?? []).some((field) => change[field] !== undefined) || !(path in TOUCHED);

/** Whether new terms may need more margin than the old: more of it, another price, another type. */
function needsMore(order: Order, terms: OrderTerms, facts: Facts): boolean {
  const instrument = facts.instrument(order.instrument);
  const price = (of: OrderTerms): number | null => limitPriceOf(of, order.side, instrument) ?? stopPriceOf(of);
  const [now, then] = [price(order.terms), price(terms)];
  return (
    terms.quantity > order.terms.quantity ||
    terms.type !== order.terms.type ||
    (now !== then && (then === null || now === null || then > now || instrument.kind === 'inverse'))
  );
}

/** The state without what an order claims: it is judged anew with what it would claim. */
function withoutOrder(state: AccountState, orderId: string): AccountState {
  const claimed = new Map(state.claimed);
  for (const { from, amount } of state.working.get(orderId)?.claims ?? []) claimed.set(from, (claimed.get(from) ?? 0n) - amount);
  return { ...state, claimed, floating: new Set([...state.floating].filter((id) => id !== orderId)) };
}

/** The entry that asks for a cancel. */
export function cancelEntry(
  state: AccountState,
  facts: Facts,
  order: Order,
  number: number,
  reasonCode: ReasonCode,
  causedBy: Draft['causedBy'] = null,
): Draft {
  const instrument = facts.instrument(order.instrument);
  const requestId = `${order.id}/c${number}`;
  const pending = requestCancel(order, { requestId, reasonCode }, facts.now);
  const text = `Cancel ${formatQuantity(instrument, order.terms.quantity)} ${order.instrument}.`;
  const data = { kind: 'cancel-requested', number, orderId: order.id, requestId, reasonCode } as const;
  return draft(state, facts.now, text, data, { order, causedBy, history: historyLine(pending, instrument, 'pending-cancel', null, null) });
}

/** The cancel of one order. */
export function decideCancel(state: AccountState, orderId: string, facts: Facts, reasonCode: ReasonCode): Decision {
  const order = find(state, orderId, facts);
  if (order.pendingCancel !== null) return { entries: [], answer: { kind: 'order', orderId, made: false, requestId: null } };
  const cut = cutOff(order, facts);
  if (cut) return cut;
  const done = over(order, 'cancelled');
  if (done) return refusedEntry(state, facts, `cancel of ${order.id}`, { kind: 'cancel', orderId }, order.instrument, order, done);
  if (isHere(order))
    return { entries: [endHere(state, facts, order, reasonCode, null, 'user')], answer: { kind: 'order', orderId, made: true, requestId: null } };
  const number = state.count + 1;
  return {
    entries: [cancelEntry(state, facts, order, number, reasonCode)],
    answer: { kind: 'order', orderId, made: true, requestId: `${orderId}/c${number}` },
  };
}
