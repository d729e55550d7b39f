import { canonical } from '../canonical.ts';
import { formatQuantity } from '../instrument/index.ts';
import { MONEY_DECIMALS, formatMoney, formatScaled } from '../number/index.ts';
import { isFinished, isHere, orderSentence, orderState, refusalText, type Order, type OrderReport } from '../orders/index.ts';
import { reducibleBy, type AccountBook } from '../portfolio/index.ts';
import { RULE_NAMES, changedRules, chained, locksAt, ruleText, tighterOf, withRule, type Locks, type RiskRules, type RuleName } from '../risk/index.ts';
import type { BrokerStatus, KnownOrder, Lodged } from './broker.ts';
import { draft, type Decision } from './decision.ts';
import type { Draft, EntryData } from './entries.ts';
import type { Facts } from './facts.ts';
import { judgeTerms } from './gate.ts';
import { adjusted } from './here.ts';
import { orderOf, type AccountState, type Working } from './state.ts';

/** An opening order that the broker never had is sent again as it was while it is younger than this, in market time. */
const YOUNG_MS = 5000;

/**
 * Makes desk and broker agree, after every report that was missed has been applied: what the broker doesn't know is
 * looked at, pending changes and cancels are sent again with their own reasons, then everything is compared, and the
 * broker's truth stands for what is at the venue (exact rule *The desk* 2).
 */
export function decideReconcile(state: AccountState, theirs: BrokerStatus, facts: Facts): Decision {
  const entries: Draft[] = [];
  const known = new Map(theirs.orders.map((one) => [one.order.id, one]));
  if (theirs.highest > state.count || theirs.lastSeq !== state.lastReport) {
    const data: EntryData = { kind: 'count-taken-up', number: theirs.highest, reportSeq: theirs.lastSeq };
    entries.push(
      draft(state, facts.now, `The broker has had ${theirs.highest} requests of ${state.terms.id}; numbers go on from there.`, data, { by: 'desk' }),
    );
  }
  const complete = theirs.forgotten <= state.lastReport;
  entries.push(...linksAgain(state, known, facts));
  for (const working of state.working.values()) {
    if (isHere(working.order)) continue;
    const there = known.get(working.order.id);
    const again = there ? [] : unknownThere(state, working, complete, facts);
    entries.push(...again);
    if (there || again.some(({ data }) => data.kind === 'resent')) entries.push(...pendingAgain(state, working, there, facts));
    if (there) entries.push(...differingOrder(state, working, there, facts));
  }
  for (const { order } of theirs.orders)
    if (!state.working.has(order.id) && !isFinished(order) && !facts.past(order.id)) entries.push(takenOver(state, order, facts));
  entries.push(...cashAgain(state, theirs, facts), ...applicationsAgain(state, theirs, facts));
  entries.push(...differingBook(state, theirs.book, facts));
  const rules = differingRules(state, theirs.lodged, facts);
  return { entries: [...entries, ...rules.entries], answer: { kind: 'done' }, ...(rules.lodge ? { lodge: rules.lodge } : {}) };
}

/** Locked rules as they are here and as the broker has them: rule by rule the tighter of the two counts, and the later end of its lock. */
function differingRules(state: AccountState, lodged: Lodged | null, facts: Facts): { entries: Draft[]; lodge: Lodged | null } {
  const { risk } = state;
  const here = locksAt(risk, facts.now);
  const there = lodged ? locksAt(lodged, facts.now) : {};
  const names = RULE_NAMES.filter((name) => here[name] !== undefined || there[name] !== undefined);
  if (names.length === 0) return { entries: [], lodge: null };
  let { rules } = risk;
  const locks: Partial<Record<RuleName, number>> = {};
  for (const name of names) {
    if (lodged && there[name] !== undefined) rules = withRule(rules, name, tighterOf(name, rules, lodged.rules));
    locks[name] = Math.max(here[name] ?? 0, there[name] ?? 0);
  }
  const say = (of: RiskRules, until: Locks): string =>
    canonical(names.map((name) => [name, until[name] === undefined ? null : ruleText(name, of), until[name] ?? null]));
  const [ours, theirs, right] = [say(risk.rules, here), lodged ? say(lodged.rules, there) : 'none', say(rules, locks)];
  const entries: Draft[] = [];
  if (ours !== right) {
    const changes = changedRules(risk.rules, rules);
    const chain = chained(
      risk.changes,
      changes.map((rule) => ({ time: facts.now, by: 'desk', rule, old: ruleText(rule, risk.rules), new: ruleText(rule, rules), kind: 'set' as const })),
    );
    entries.push(difference(state, 'the locked rules', ours, theirs, { order: null, book: null }, facts));
    const to = { rules, locks: { ...risk.locks, ...locks }, version: risk.version + 1, changes: [...risk.changes, ...chain] };
    entries.push(draft(state, facts.now, 'The locked rules stand as the broker has them.', { kind: 'risk', to }, { by: 'desk' }));
  }
  return { entries, lodge: theirs === right ? null : { rules, locks } };
}

/** Requests for money that the broker has not had, or not had back. */
function cashAgain(state: AccountState, theirs: BrokerStatus, facts: Facts): Draft[] {
  const there = new Map(theirs.cash.map((request) => [request.id, request]));
  const again = (orderId: string, what: 'cash' | 'cash-back', text: string): Draft =>
    draft(state, facts.now, text, { kind: 'resent', orderId, what }, { by: 'desk' });
  return [...state.cash.values()].flatMap(({ request: { id, state: stands }, back }) => [
    ...(there.has(id) ? [] : [again(id, 'cash', `Sent again: the request ${id}.`)]),
    ...(back && stands === 'requested' && (there.get(id)?.state ?? 'requested') === 'requested' ? [again(id, 'cash-back', `Taken back again: ${id}.`)] : []),
  ]);
}

/** Applications that the broker has not had as they were asked for last, or not had back. */
function applicationsAgain(state: AccountState, theirs: BrokerStatus, facts: Facts): Draft[] {
  const there = new Map(theirs.applications.map((one) => [one.id, one]));
  const again = (orderId: string, what: 'application' | 'application-back', text: string): Draft =>
    draft(state, facts.now, text, { kind: 'resent', orderId, what }, { by: 'desk' });
  return [...state.applications.values()].flatMap(({ application: { id, revision, state: stands }, back }) => {
    const had = there.get(id);
    const open = stands === 'requested' && (had === undefined || had.state === 'requested');
    return [
      ...(open && (had?.revision ?? 0) < revision ? [again(id, 'application', `Sent again: the application ${id}.`)] : []),
      ...(open && back ? [again(id, 'application-back', `Taken back again: the application ${id}.`)] : []),
    ];
  });
}

/** Links that the broker has not had. */
const linksAgain = (state: AccountState, known: ReadonlyMap<string, KnownOrder>, facts: Facts): Draft[] =>
  [...state.links.values()]
    .filter(({ requestId, orderIds }) => !orderIds.some((id) => known.get(id)?.handled.includes(requestId)))
    .map(({ group, orderIds }) => {
      const instrument = orderOf(state, orderIds[0] ?? '')?.instrument ?? null;
      return draft(state, facts.now, `Sent again: the link ${group.id}.`, { kind: 'resent', orderId: group.id, what: 'link' }, { by: 'desk', instrument });
    });

const resent = (state: AccountState, order: Order, what: 'new' | 'replace' | 'cancel', text: string, facts: Facts): Draft =>
  draft(state, facts.now, text, { kind: 'resent', orderId: order.id, what }, { by: 'desk', order });

/** An order that the broker doesn't know: sent again where that is right, else it ends here. */
function unknownThere(state: AccountState, { order }: Working, complete: boolean, facts: Facts): Draft[] {
  const instrument = facts.instrument(order.instrument);
  const end = (report: OrderReport): Draft => adjusted(state, order, report, facts).entry;
  if (order.acknowledged !== 'pending' || !complete)
    return [end({ kind: 'canceled', requestId: null, reasonCode: 'venue', reason: 'The broker has it no more.' })];
  const again = (): Draft => resent(state, order, 'new', `Sent again, the broker did not know it: ${orderSentence(order, instrument)}`, facts);
  if (!order.opening) {
    const reducible = reducibleBy(state.book, order.instrument, order.side);
    if (reducible === 0) return [end({ kind: 'canceled', requestId: null, reasonCode: 'flat', reason: 'The position is flat.' })];
    if (reducible >= order.terms.quantity) return [again()];
    return [end({ kind: 'restated', quantity: reducible, reasonCode: 'reduced' }), again()];
  }
  if (facts.now - order.createdAt < YOUNG_MS) return [again()];
  const late = (why: string): Draft => end({ kind: 'rejected', reason: `It was not sent for the broker's link. ${why}`, reasonCode: 'late' });
  if (order.terms.type === 'market') return [late('It would have filled at a market that nobody looked at.')];
  const judged = judgeTerms(state, order, order.terms, facts, { stop: true, margin: false, opens: true });
  return [judged.refusal ? late(refusalText(judged.refusal)) : again()];
}

/** What the desk says of an order itself, in the form of a report. */
/** Changes and cancels that the broker has not had. */
function pendingAgain(state: AccountState, { order }: Working, there: KnownOrder | undefined, facts: Facts): Draft[] {
  const entries: Draft[] = [];
  const had = (requestId: string): boolean => there?.handled.includes(requestId) ?? false;
  if (order.pendingReplace && !had(order.pendingReplace.requestId)) entries.push(resent(state, order, 'replace', `Change sent again: ${order.id}.`, facts));
  if (order.pendingCancel && !had(order.pendingCancel.requestId)) entries.push(resent(state, order, 'cancel', `Cancel sent again: ${order.id}.`, facts));
  return entries;
}

/** The facts of an order that the broker decides: its terms, what is filled, whether it works. */
const brokersPart = (order: Order): unknown => {
  const standing = order.terms.type === 'following' || order.terms.type === 'trailing-stop' ? { ...order.terms, limit: null, stop: null } : order.terms;
  return [standing, order.filledQuantity, order.filledValue, order.fees, order.ended, order.version, order.triggeredAt === null];
};

function differingOrder(state: AccountState, { order }: Working, { order: theirs }: KnownOrder, facts: Facts): Draft[] {
  if (canonical(brokersPart(order)) === canonical(brokersPart(theirs))) return [];
  const instrument = facts.instrument(order.instrument);
  const { pendingCancel, pendingReplace } = order;
  const merged: Order = { ...theirs, pendingCancel, pendingReplace, createdAt: order.createdAt };
  const say = (of: Order): string => `${orderState({ ...of, pendingCancel: null, pendingReplace: null })}: ${orderSentence(of, instrument)}`;
  return [difference(state, `order ${order.id}`, say(order), say(theirs), { order: merged, book: null }, facts)];
}

const takenOver = (state: AccountState, order: Order, facts: Facts): Draft =>
  difference(state, `order ${order.id}`, 'none', orderSentence(order, facts.instrument(order.instrument)), { order, book: null }, facts);

function difference(
  state: AccountState,
  what: string,
  here: string,
  broker: string,
  truth: { order: Order | null; book: AccountBook | null },
  facts: Facts,
): Draft {
  const text = `${state.terms.id}: ${what} is ${here} here and ${broker} at the broker.`;
  return draft(state, facts.now, text, { kind: 'difference', what, here, broker, ...truth }, { by: 'desk', order: truth.order });
}

/** Where two books of the account disagree; the last of the lines carries the broker's, which stands from now on. */
function differingBook(state: AccountState, theirs: AccountBook, facts: Facts): Draft[] {
  const here = linesOf(state.book, facts);
  const broker = linesOf(theirs, facts);
  const names = [...new Set([...here.keys(), ...broker.keys()])].filter((name) => here.get(name) !== broker.get(name));
  return names.map((name, i) =>
    difference(state, name, here.get(name) ?? 'none', broker.get(name) ?? 'none', { order: null, book: i === names.length - 1 ? theirs : null }, facts),
  );
}

function linesOf(book: AccountBook, facts: Facts): Map<string, string> {
  const lines = new Map([['cash', formatMoney(book.cash, 'EUR')]]);
  if (book.applied) lines.set('cash in applications', formatMoney(book.applied, 'EUR'));
  for (const { asset, purpose, total } of book.wallets) lines.set(`the ${purpose} wallet of ${asset}`, formatMoney(total, asset === 'CARB' ? 'CARB' : 'EUR'));
  for (const { kind, basis, rate, from } of [...(book.commission ?? []), ...(book.coming ?? [])])
    lines.set(`the commission on ${kind}s from ${from} on`, `${formatScaled(rate, MONEY_DECIMALS)} ${basis}`);
  for (const position of Object.values(book.positions)) {
    if (position.quantity === 0) continue;
    const instrument = facts.instrument(position.instrument);
    lines.set(
      `the position in ${position.instrument}`,
      `${formatQuantity(instrument, position.quantity)} at a cost of ${formatMoney(position.cost, instrument.settlesIn)}`,
    );
  }
  return lines;
}
