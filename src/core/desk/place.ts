import { canonical } from '../canonical.ts';
import { accepted, refused, type Result } from '../result.ts';
import { formatQuantity } from '../instrument/index.ts';
import { waitingPlan, type ExitPlan } from '../exits/index.ts';
import { applyReport, isHere, orderSentence, refusalText, type Order, type OrderIntent, type OrderReport, type Refusal } from '../orders/index.ts';
import { answered, draft, linkDown, stillReconciling, type Decision } from './decision.ts';
import type { Draft, EntryBy, WithUses } from './entries.ts';
import type { Facts } from './facts.ts';
import { judgeOrder, usesOf } from './gate.ts';
import { seenFirst, standingOf } from './here.ts';
import { sketchOf, sketchOrder, type AccountState } from './state.ts';
import { historyLine, reportHistory, reportText } from './words.ts';

const usedOtherwise = (id: string): Refusal => ({
  kind: 'conflict',
  detail: `The client order id ${id} was used before with other content. Use a new one.`,
});

/** The same request again, or its name used for something else; null where the name is free. */
export function askedBefore(clientOrderId: string, content: string, facts: Facts): Decision | null {
  const before = facts.asked(clientOrderId);
  if (!before) return null;
  if (before.asked.content !== content) return answered(usedOtherwise(clientOrderId));
  return { entries: [], answer: { kind: 'order', orderId: before.orderId, made: false, requestId: null } };
}

/** A refusal with the entry that it leaves in the activity. */
export function refusedEntry(
  state: AccountState,
  facts: Facts,
  what: string,
  asked: unknown,
  instrument: string | null,
  order: Order | null,
  refusal: Refusal,
): Decision {
  const text = `Refused: ${what}. ${refusalText(refusal)}`;
  return { entries: [draft(state, facts.now, text, { kind: 'refused', what, asked, refusal }, { order, instrument })], answer: { kind: 'refused', refusal } };
}

/** The entry that makes an order. */
export const orderEntry = (
  state: AccountState,
  facts: Facts,
  order: Order,
  number: number,
  content: string,
  { causedBy = null, by = 'user', uses = {} }: { causedBy?: Draft['causedBy']; by?: EntryBy; uses?: WithUses } = {},
): Draft => {
  const instrument = facts.instrument(order.instrument);
  const data = { kind: 'order-requested', number, order, asked: { clientOrderId: order.clientOrderId, content }, ...uses } as const;
  return draft(state, facts.now, orderSentence(order, instrument), data, {
    order,
    by,
    causedBy,
    history: historyLine(order, instrument, 'pending-new', null, null),
  });
};

/** The entry that makes an order's exit plan, which waits for its fills. */
export function planEntry(state: AccountState, facts: Facts, order: Order, causedBy: Draft['causedBy'] = null): Draft {
  const plan = waitingPlan(order.plan ?? '', order.account, order.instrument, order.exitPlan as ExitPlan, order.side === 'buy', order.id, facts.now);
  const text = `Exit plan ${plan.id} of ${order.instrument}: waits for the fills of ${order.id}.`;
  return draft(state, facts.now, text, { kind: 'plan', plan }, { instrument: order.instrument, causedBy });
}

/** The entry by which an order that is held here is taken by Kavix itself; `causedBy` is the place of its request in the decision. */
export const heldEntry = (state: AccountState, facts: Facts, order: Order, causedBy = 0): Draft => {
  const instrument = facts.instrument(order.instrument);
  const report: OrderReport = { kind: 'new', ...standingOf(seenFirst(order.terms, order, facts)) };
  const data = { kind: 'order-adjusted', orderId: order.id, report } as const;
  return draft(state, facts.now, reportText(order, report, instrument), data, {
    order,
    by: 'desk',
    causedBy: { inDecision: causedBy },
    history: reportHistory(applyReport(order, report, facts.now), instrument, report),
  });
};

/** What a request says, by which the same one is known again. */
const contentOf = (intent: OrderIntent): string =>
  canonical({ ...intent, exitPlan: intent.exitPlan?.byName ? intent.exitPlan.name : (intent.exitPlan ?? undefined) });

const wordsOf = ({ side, instrument, terms }: OrderIntent, facts: Facts): string =>
  `${side} ${formatQuantity(facts.instrument(instrument), terms.quantity)} ${instrument}`;

/** Several orders in one commit, judged one after the other as if those before worked already. */
export function decidePlaceMany(state: AccountState, intents: readonly OrderIntent[], facts: Facts): Decision {
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return stillReconciling();
  const entries: Draft[] = [];
  const placed: Result<string, Refusal>[] = [];
  const now = sketchOf(state);
  for (const intent of intents) {
    const content = contentOf(intent);
    const before = askedBefore(intent.clientOrderId, content, facts);
    if (before) {
      placed.push(before.answer.kind === 'order' ? accepted(before.answer.orderId) : refused((before.answer as { refusal: Refusal }).refusal));
      continue;
    }
    const judged = judgeOrder(now, intent, facts);
    const order = judged.case?.order;
    if (judged.refusal || !order) {
      entries.push(...refusedEntry(now, facts, wordsOf(intent, facts), intent, intent.instrument, null, judged.refusal as Refusal).entries);
      placed.push(refused(judged.refusal as Refusal));
      continue;
    }
    const at = entries.length;
    entries.push(orderEntry(now, facts, order, now.count + 1, content, { uses: usesOf(judged) }));
    if (isHere(order)) entries.push(heldEntry(now, facts, order, at));
    if (order.exitPlan) entries.push(planEntry(now, facts, order, { inDecision: at }));
    placed.push(accepted(order.id));
    sketchOrder(now, order, facts);
    now.count++;
  }
  return { entries, answer: { kind: 'many', placed } };
}

/** A new order: known by its name, or judged by the gate. */
export function decidePlace(state: AccountState, intent: OrderIntent, facts: Facts): Decision {
  const content = contentOf(intent);
  const before = askedBefore(intent.clientOrderId, content, facts);
  if (before) return before;
  if (facts.link === 'down') return linkDown();
  const judged = judgeOrder(state, intent, facts);
  const order = judged.case?.order;
  if (facts.link === 'reconciling') return order && !order.opening ? { entries: [], answer: { kind: 'waits' } } : stillReconciling();
  if (judged.refusal || !order) {
    return refusedEntry(state, facts, wordsOf(intent, facts), intent, intent.instrument, null, judged.refusal as Refusal);
  }
  const entries = [orderEntry(state, facts, order, state.count + 1, content, { uses: usesOf(judged) })];
  if (isHere(order)) entries.push(heldEntry(state, facts, order));
  if (order.exitPlan) entries.push(planEntry(state, facts, order, { inDecision: 0 }));
  return { entries, answer: { kind: 'order', orderId: order.id, made: true, requestId: null } };
}
