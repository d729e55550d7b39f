import { canonical } from '../canonical.ts';
import { formatQuantity, asQuantity, sizeOf, type Instrument, type Quantity } from '../instrument/index.ts';
import { formatScaled } from '../number/index.ts';
import { invalid, refusalText, type OrderIntent, type Refusal } from '../orders/index.ts';
import { positionOf, type Position } from '../portfolio/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import { alive, cancelAll, meant } from './cancels.ts';
import { draft, linkDown, stillReconciling, type Decision, type RefusedOrder } from './decision.ts';
import { Drafts, closingTerms } from './drafts.ts';
import type { Facts } from './facts.ts';
import { judgeOrder, usesOf } from './gate.ts';
import type { CloseAmount, Intent } from './intents.ts';
import { askedBefore, orderEntry, refusedEntry } from './place.ts';
import type { AccountState } from './state.ts';

const HUNDRED = 100n * 10n ** 8n;

/** How much of a position an amount closes; a share is taken down to the step. */
function closingQuantity(amount: CloseAmount, held: Quantity, instrument: Instrument): Result<Quantity, Refusal> {
  switch (amount.kind) {
    case 'all':
      return accepted(held);
    case 'quantity':
      return accepted(amount.quantity);
    case 'percent': {
      const share = asQuantity(Number((BigInt(held) * amount.share) / HUNDRED));
      if (share > 0) return accepted(share);
      const of = `${formatScaled(amount.share, 8, 0)} % of ${formatQuantity(instrument, held)}`;
      return refused(invalid('/percent', `${of} is less than the quantity step ${formatQuantity(instrument, asQuantity(1))}`));
    }
    default:
      return amount satisfies never;
  }
}

/** The order that closes a position, or part of it: by market, or by a limit that follows the best opposite price. */
const closingOrder = (
  state: AccountState,
  position: Position,
  instrument: Instrument,
  quantity: Quantity,
  clientOrderId: string,
  facts: Facts,
): OrderIntent => ({
  clientOrderId,
  account: state.terms.id,
  instrument: instrument.id,
  side: position.quantity > 0 ? 'sell' : 'buy',
  terms: closingTerms(instrument, position.quantity > 0, quantity, facts, 'day'),
  heldBy: 'venue',
  product: position.product,
  reduceOnly: true,
  crossesZero: false,
  setup: null,
  exitPlan: null,
});

/** Closes a position, or part of it, by a reducing order. */
export function decideClose(state: AccountState, intent: Intent & { kind: 'close' }, facts: Facts): Decision {
  const instrument = facts.instrument(intent.instrument);
  const content = canonical(intent);
  const before = intent.clientOrderId === null ? null : askedBefore(intent.clientOrderId, content, facts);
  if (before) return before;
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const number = state.count + 1;
  const closing = judgeClose(state, intent.instrument, intent.amount, intent.clientOrderId ?? `kavix.close.${number}`, facts);
  if (!closing.ok) return refusedEntry(state, facts, `close of ${instrument.id}`, intent, instrument.id, null, closing.refusal);
  const order = closing.value;
  return { entries: [orderEntry(state, facts, order, number, content)], answer: { kind: 'order', orderId: order.id, made: true, requestId: null } };
}

function judgeClose(state: AccountState, instrumentId: string, amount: CloseAmount, clientOrderId: string, facts: Facts) {
  const instrument = facts.instrument(instrumentId);
  const position = positionOf(state.book, instrumentId);
  if (position.quantity === 0) return refused<Refusal>({ kind: 'conflict', detail: `There is no position in ${instrumentId} to close.` });
  const quantity = closingQuantity(amount, sizeOf(position.quantity), instrument);
  if (!quantity.ok) return quantity;
  const judged = judgeOrder(state, closingOrder(state, position, instrument, quantity.value, clientOrderId, facts), facts);
  return judged.case && !judged.refusal ? accepted(judged.case.order) : refused(judged.refusal as Refusal);
}

/** Cancels working orders: all, an instrument's, or one side's. One decision. */
export function decideCancelMany(state: AccountState, intent: Intent & { kind: 'cancel-many' }, facts: Facts): Decision {
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const { instrument, side } = intent;
  const all = [...meant(state, instrument, side)];
  if (all.length === 0) return { entries: [], answer: { kind: 'orders', canceled: [], closing: [], refused: [] } };
  const drafts = new Drafts(state, facts, 'user', { inDecision: 0 });
  const text = `Cancel the working ${side === null ? 'orders' : `${side}s`} of ${instrument ?? state.terms.id}.`;
  drafts.entries.push(draft(state, facts.now, text, { kind: 'group-requested', what: 'cancel', instrument, side }, { instrument }));
  const legsOf = new Set(all.flatMap(({ order }) => (order.step === null ? [] : [order.plan])));
  drafts.stopPlans(
    alive(state, instrument).filter(({ id }) => legsOf.has(id)),
    'its orders were cancelled.',
  );
  const canceled = cancelAll(drafts, all, 'user');
  return { entries: drafts.entries, answer: { kind: 'orders', canceled, closing: [], refused: [] } };
}

/** Cancels what works, here and at the venue, ends the plans, then closes what is open. One decision; nothing to do gives empty lists. */
export function decideFlatten(state: AccountState, instrument: string | null, facts: Facts): Decision {
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const drafts = new Drafts(state, facts, 'user', { inDecision: 0 });
  drafts.entries.push(
    draft(state, facts.now, `Flatten ${instrument ?? state.terms.id}.`, { kind: 'group-requested', what: 'flatten', instrument, side: null }, { instrument }),
  );
  drafts.stopPlans(alive(state, instrument), 'by Flatten.');
  const canceled = cancelAll(drafts, meant(state, instrument, null), 'flatten');
  const closing: string[] = [];
  const failed: RefusedOrder[] = [];
  for (const position of openPositions(state, instrument)) {
    const closed = judgeClose({ ...state, count: drafts.next - 1 }, position.instrument, { kind: 'all' }, `kavix.close.${drafts.next}`, facts);
    if (!closed.ok) {
      failed.push({ orderId: position.instrument, detail: refusalText(closed.refusal) });
      continue;
    }
    drafts.order(closed.value, canonical(['flatten', closed.value.id]));
    closing.push(closed.value.id);
  }
  const answer = { kind: 'orders', canceled, closing, refused: failed } as const;
  return { entries: drafts.entries.length === 1 ? [] : drafts.entries, answer };
}

/** Turns a position round: its exits end, and one order for twice as much goes. Judged first: a refusal cancels nothing. */
export function decideReverse(state: AccountState, intent: Intent & { kind: 'reverse' }, facts: Facts): Decision {
  const instrument = facts.instrument(intent.instrument);
  const content = canonical(intent);
  const before = intent.clientOrderId === null ? null : askedBefore(intent.clientOrderId, content, facts);
  if (before) return before;
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return stillReconciling();
  const refuse = (refusal: Refusal): Decision => refusedEntry(state, facts, `reverse of ${instrument.id}`, intent, instrument.id, null, refusal);
  const position = positionOf(state.book, instrument.id);
  if (position.quantity === 0) return refuse({ kind: 'conflict', detail: `There is no position in ${instrument.id} to reverse.` });
  if (instrument.kind === 'spot')
    return refuse(invalid('/instrument', `${instrument.id} is spot: what was bought can be sold, a position below nothing can't be had`));
  const drafts = new Drafts(state, facts, 'user', { inDecision: 0 });
  drafts.entries.push(
    draft(
      state,
      facts.now,
      `Reverse ${instrument.id}.`,
      { kind: 'group-requested', what: 'reverse', instrument: instrument.id, side: null },
      { instrument: instrument.id },
    ),
  );
  drafts.stopPlans(alive(state, instrument.id), 'the position was reversed.');
  cancelAll(
    drafts,
    [...meant(state, instrument.id, null)].filter(({ order }) => !order.opening),
    'user',
  );
  const twice = asQuantity(2 * sizeOf(position.quantity));
  const asked = closingOrder(state, position, instrument, twice, intent.clientOrderId ?? `kavix.reverse.${drafts.next}`, facts);
  const judged = judgeOrder({ ...state, count: drafts.next - 1 }, { ...asked, reduceOnly: false, crossesZero: true }, facts);
  if (judged.refusal || !judged.case) return refuse(judged.refusal as Refusal);
  const { order } = judged.case;
  drafts.order(order, content, { uses: usesOf(judged) });
  return { entries: drafts.entries, answer: { kind: 'order', orderId: order.id, made: true, requestId: null } };
}

/** Open positions by instrument id. */
export const openPositions = (state: AccountState, instrument: string | null): Position[] =>
  Object.values(state.book.positions)
    .filter((position) => position.quantity !== 0 && (instrument === null || position.instrument === instrument))
    .sort((a, b) => (a.instrument < b.instrument ? -1 : 1));
