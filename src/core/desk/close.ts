import { canonical } from '../canonical.ts';
import { formatQuantity, asQuantity, sizeOf, venueOrderTypes, type Instrument, type Quantity } from '../instrument/index.ts';
import type { Side } from '../market/index.ts';
import { formatScaled } from '../number/index.ts';
import { invalid, isFinished, refusalText, type OrderIntent, type OrderTerms, type ReasonCode, type Refusal } from '../orders/index.ts';
import { positionOf, type Position } from '../portfolio/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import { cancelEntry } from './change.ts';
import { draft, linkDown, type Decision, type RefusedOrder, type Requested } from './decision.ts';
import type { Draft } from './entries.ts';
import type { Facts } from './facts.ts';
import { judgeOrder } from './gate.ts';
import type { CloseAmount, Intent } from './intents.ts';
import { askedBefore, orderEntry, refusedEntry } from './place.ts';
import { workingIn, type AccountState, type Working } from './state.ts';

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
function closingOrder(state: AccountState, position: Position, instrument: Instrument, quantity: Quantity, clientOrderId: string, facts: Facts): OrderIntent {
  const side: Side = position.quantity > 0 ? 'sell' : 'buy';
  const market = venueOrderTypes(instrument.venue, instrument.kind).includes('market');
  const { bid, ask } = facts.view(instrument.id);
  const terms: OrderTerms = {
    ...(market ? { type: 'market' } : { type: 'following', limit: side === 'sell' ? bid : ask }),
    quantity,
    lifetime: { kind: 'day' },
  };
  const { product } = position;
  return {
    clientOrderId,
    account: state.terms.id,
    instrument: instrument.id,
    side,
    terms,
    heldBy: 'venue',
    product,
    reduceOnly: true,
    crossesZero: false,
    setup: null,
  };
}

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

/** Working orders that a cancel of many means. */
function* meant(state: AccountState, instrument: string | null, side: Side | null): Generator<Working, void> {
  const all = instrument === null ? state.working.values() : workingIn(state, instrument);
  for (const working of all) {
    const { order } = working;
    if (order.pendingCancel === null && !isFinished(order) && (side === null || order.side === side)) yield working;
  }
}

interface Cancels {
  readonly entries: Draft[];
  readonly canceled: Requested[];
}

function cancels(state: AccountState, instrument: string | null, side: Side | null, reasonCode: ReasonCode, facts: Facts): Cancels {
  const entries: Draft[] = [];
  const canceled: Requested[] = [];
  for (const { order } of meant(state, instrument, side)) {
    const number = state.count + 1 + canceled.length;
    entries.push(cancelEntry(state, facts, order, number, reasonCode, { inDecision: 0 }));
    canceled.push({ orderId: order.id, requestId: `${order.id}/c${number}` });
  }
  return { entries, canceled };
}

/** Cancels working orders: all, an instrument's, or one side's. One decision. */
export function decideCancelMany(state: AccountState, intent: Intent & { kind: 'cancel-many' }, facts: Facts): Decision {
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const { instrument, side } = intent;
  const { entries, canceled } = cancels(state, instrument, side, 'user', facts);
  const answer = { kind: 'orders', canceled, closing: [], refused: [] } as const;
  if (entries.length === 0) return { entries: [], answer };
  const text = `Cancel the working ${side === null ? 'orders' : `${side}s`} of ${instrument ?? state.terms.id}.`;
  return { entries: [draft(state, facts.now, text, { kind: 'group-requested', what: 'cancel', instrument, side }, { instrument }), ...entries], answer };
}

/** Cancels what works, then closes what is open. One decision; nothing to do gives empty lists. */
export function decideFlatten(state: AccountState, instrument: string | null, facts: Facts): Decision {
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const { entries, canceled } = cancels(state, instrument, null, 'flatten', facts);
  const closing: string[] = [];
  const failed: RefusedOrder[] = [];
  let number = state.count + canceled.length;
  for (const position of openPositions(state, instrument)) {
    const shifted = { ...state, count: number };
    const closed = judgeClose(shifted, position.instrument, { kind: 'all' }, `kavix.close.${number + 1}`, facts);
    if (!closed.ok) {
      failed.push({ orderId: position.instrument, detail: refusalText(closed.refusal) });
      continue;
    }
    number++;
    entries.push(orderEntry(state, facts, closed.value, number, canonical(['flatten', closed.value.id]), { inDecision: 0 }));
    closing.push(closed.value.id);
  }
  const answer = { kind: 'orders', canceled, closing, refused: failed } as const;
  if (entries.length === 0) return { entries: [], answer };
  const text = `Flatten ${instrument ?? state.terms.id}.`;
  return { entries: [draft(state, facts.now, text, { kind: 'group-requested', what: 'flatten', instrument, side: null }, { instrument }), ...entries], answer };
}

/** Open positions by instrument id. */
export const openPositions = (state: AccountState, instrument: string | null): Position[] =>
  Object.values(state.book.positions)
    .filter((position) => position.quantity !== 0 && (instrument === null || position.instrument === instrument))
    .sort((a, b) => (a.instrument < b.instrument ? -1 : 1));
