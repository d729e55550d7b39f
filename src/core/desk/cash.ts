import { formatMoney, minus, type Money } from '../number/index.ts';
import { invalid } from '../orders/index.ts';
import { unsettledProceeds, type CashRequest } from '../portfolio/index.ts';
import { answered, linkDown, stillReconciling, type Decision } from './decision.ts';
import { Drafts } from './drafts.ts';
import { buyingPower } from './exposure.ts';
import type { Facts } from './facts.ts';
import type { Intent } from './intents.ts';
import { refusedEntry } from './place.ts';
import type { AccountState } from './state.ts';

/** The most that may be withdrawn: no more than cash without what has not settled, nor than what nothing else claims. */
export function mostWithdrawn(state: AccountState, facts: Facts): Money {
  const settled = minus(state.book.cash, unsettledProceeds(state.book));
  const free = buyingPower(state, facts);
  const onTheirWay = [...state.cash.values()].filter(({ request, had }) => !had && request.kind === 'withdrawal');
  return onTheirWay.reduce((most, { request }) => minus(most, request.amount), settled < free ? settled : free);
}

/** Asks the broker for money to be paid out or taken in. */
export function decideCash(state: AccountState, intent: Intent & { kind: 'cash' }, facts: Facts): Decision {
  const { cashKind, amount, clientRequestId } = intent;
  const known = [...state.cash.values()].find(({ request }) => request.clientRequestId === clientRequestId)?.request;
  if (clientRequestId !== null && known) {
    if (known.kind === cashKind && known.amount === amount) return { entries: [], answer: { kind: 'cash', requestId: known.id, made: false } };
    return answered({ kind: 'conflict', detail: `${clientRequestId} has been used for another request.` });
  }
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return stillReconciling();
  const said = `${cashKind} of ${formatMoney(amount, 'EUR')} EUR`;
  const most = mostWithdrawn(state, facts);
  if (cashKind === 'withdrawal' && amount > most) {
    const refusal = invalid('/amount', `must be at most ${formatMoney(most < 0n ? minus(most, most) : most, 'EUR')} just now`);
    return refusedEntry(state, facts, said, { kind: cashKind, amount: formatMoney(amount, 'EUR') }, null, null, refusal);
  }
  const drafts = new Drafts(state, facts, 'user');
  const number = drafts.take();
  const id = `${state.terms.id}-m${number}`;
  const request: CashRequest = {
    id,
    clientRequestId: clientRequestId ?? id,
    account: state.terms.id,
    kind: cashKind,
    amount,
    state: 'requested',
    requestedAt: facts.now,
    paidAt: null,
  };
  drafts.say(`Asked for a ${said}.`, { kind: 'cash-requested', number, request });
  return { entries: drafts.entries, answer: { kind: 'cash', requestId: id, made: true } };
}

/** Takes a request back, if the broker has not paid it. */
export function decideCashBack(state: AccountState, requestId: string, facts: Facts): Decision {
  const known = state.cash.get(requestId);
  if (!known) return answered({ kind: 'not-found', detail: `There is no request ${requestId}.` });
  const { request } = known;
  const answer = { kind: 'cash', requestId, made: false } as const;
  if (request.state === 'paid') return answered({ kind: 'conflict', detail: 'It has been paid and can’t be taken back.', state: 'paid' });
  if (request.state === 'canceled' || known.back) return { entries: [], answer };
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const drafts = new Drafts(state, facts, 'user');
  drafts.say(`Taken back: the ${request.kind} of ${formatMoney(request.amount, 'EUR')} EUR.`, {
    kind: 'cash-back-requested',
    number: drafts.take(),
    requestId,
  });
  return { entries: drafts.entries, answer };
}
