import { canonical } from '../canonical.ts';
import { asQuantity, inUnits, sizeOf, type InstrumentKind } from '../instrument/index.ts';
import { formatMoney, formatScaled, negated, type Money } from '../number/index.ts';
import { isFinished, isHere, remainingQuantity, closingOrder, type Order, type ReasonCode } from '../orders/index.ts';
import { euroSources, type Position } from '../portfolio/index.ts';
import { actOf, blocksAt, isClosedOut, type Block, type BlockingRule, type CloseOut, type RiskState } from '../risk/index.ts';
import { endHere } from './change.ts';
import { openPositions } from './close.ts';
import { dayFigures } from './day.ts';
import type { Decision } from './decision.ts';
import { Drafts, closingTerms } from './drafts.ts';
import type { Facts } from './facts.ts';
import { dayEnd, openingOrders } from './rule-checks.ts';
import { closeOutName, isCloseOut } from './close-out.ts';
import { workingIn, type AccountState } from './state.ts';
import { sayMoment } from './words.ts';

/** A close that was refused goes again after this long, in market time, without end. */
export const CLOSE_AGAIN_MS = 1000;
const MINUTE_MS = 60_000;

/** Whether an account's rules look at every price of what it holds. */
export const watchesLosses = ({ risk }: AccountState): boolean =>
  risk.rules.dayLossLimit !== null || risk.rules.instrumentLossLimit !== null || risk.closeOut?.state === 'running';

/** Instruments whose every row the rules of an account need: what is held, and what other assets are worth. */
export function watchedForLosses(state: AccountState): Set<string> {
  const watched = new Set<string>();
  if (!watchesLosses(state)) return watched;
  for (const { instrument, quantity } of Object.values(state.book.positions)) if (quantity !== 0) watched.add(instrument);
  if (watched.size > 0) for (const { asset } of state.book.wallets) if (asset !== 'EUR') for (const id of euroSources(asset)) watched.add(id);
  return watched;
}

/**
 * Looks at what the rules have come to, after an event as a whole (exact rules *Risk* 2 to 5): what is reached blocks
 * from now on, cancels what would open, and closes out; a close-out under way goes on. Decided from the state alone.
 */
export function decideJudged(state: AccountState, facts: Facts): Decision {
  const drafts = new Drafts(state, facts, 'rule');
  const { risk } = state;
  const reached = [...reachedLosses(state, facts), ...reachedCounts(state, facts)];
  const blocks = [...risk.blocks, ...reached];
  const closeOut = startedCloseOut(risk, reached, facts.now);
  const to: Partial<RiskState> = {
    ...(reached.length > 0 ? { blocks } : {}),
    ...(reached.some(({ rule }) => rule === 'coolDown') ? { losing: 0 } : {}),
    ...(closeOut === risk.closeOut ? {} : { closeOut }),
  };
  if (reached.length > 0) drafts.say(reached.map(({ reason }) => reason).join(' '), { kind: 'risk', to }, { instrument: reached[0]?.instrument ?? null });
  if (facts.link === 'up') {
    for (const { order, reason } of toCancel(state, blocks, closeOut, facts)) {
      if (isHere(order)) drafts.entries.push(endHere(state, facts, order, reason, null, 'rule'));
      else drafts.cancel(order, reason);
    }
    if (closeOut?.state === 'running') goOnClosing(drafts, closeOut);
  }
  return { entries: drafts.entries, answer: { kind: 'done' } };
}

const inForce = (risk: RiskState, now: number, rule: BlockingRule, fits: (block: Block) => boolean = () => true): boolean =>
  blocksAt(risk, now).some((block) => block.rule === rule && fits(block));

const say = (sum: Money): string => formatMoney(sum, 'EUR');
function reachedLosses(state: AccountState, facts: Facts): Block[] {
  const { risk } = state;
  const { rules } = risk;
  const found: Block[] = [];
  const until = dayEnd(state, facts.now);
  const over = `no opening orders until ${sayMoment(state, until)}; closing works`;
  if (rules.dayLossLimit !== null && !inForce(risk, facts.now, 'dayLossLimit')) {
    const { net } = dayFigures(state, facts);
    if (net <= negated(rules.dayLossLimit))
      found.push({
        rule: 'dayLossLimit',
        instrument: null,
        kind: null,
        since: facts.now,
        until,
        reason: `Day limit reached: ${say(net)} of −${say(rules.dayLossLimit)}; ${over}.`,
      });
  }
  if (rules.instrumentLossLimit === null) return found;
  for (const instrument of Object.keys(state.book.positions).sort()) {
    if (inForce(risk, facts.now, 'instrumentLossLimit', (block) => block.instrument === instrument)) continue;
    const { net } = dayFigures(state, facts, instrument);
    if (net > negated(rules.instrumentLossLimit)) continue;
    const reason = `Limit of ${instrument} reached: ${say(net)} of −${say(rules.instrumentLossLimit)}; ${over}.`;
    found.push({ rule: 'instrumentLossLimit', instrument, kind: null, since: facts.now, until, reason });
    if (rules.coolDownMinutes !== null && !found.some(({ rule }) => rule === 'coolDown'))
      found.push(coolDown(state, rules.coolDownMinutes, facts.now, `the limit of ${instrument} was reached`));
  }
  return found;
}

const coolDown = (state: AccountState, minutes: number, now: number, why: string): Block => ({
  rule: 'coolDown',
  instrument: null,
  kind: null,
  since: now,
  until: now + minutes * MINUTE_MS,
  reason: `Cool-down for ${minutes} minutes, ${why}; no opening orders until ${sayMoment(state, now + minutes * MINUTE_MS)}.`,
});

function reachedCounts(state: AccountState, facts: Facts): Block[] {
  const { risk } = state;
  const { coolDownMinutes, coolDownAfterLosses, dayQuantityCap } = risk.rules;
  const found: Block[] = [];
  if (coolDownMinutes !== null && coolDownAfterLosses !== null && risk.losing >= coolDownAfterLosses)
    found.push(coolDown(state, coolDownMinutes, facts.now, `${risk.losing} losing round trips in a row`));
  for (const [name, cap] of Object.entries(dayQuantityCap ?? {})) {
    const kind = name as InstrumentKind;
    if ((risk.used[kind] ?? 0n) < cap || inForce(risk, facts.now, 'dayQuantityCap', (block) => block.kind === kind)) continue;
    const reason = `All ${formatScaled(cap, 8, 0)} ${kind} units of the day are used; no opening orders in ${kind}s until the day ends.`;
    found.push({ rule: 'dayQuantityCap', instrument: null, kind, since: facts.now, until: dayEnd(state, facts.now), reason });
  }
  return found;
}

/** A close-out that what was reached begins, or widens. */
function startedCloseOut(risk: RiskState, reached: readonly Block[], now: number): CloseOut | null {
  const { rules, closeOut } = risk;
  const day = reached.some(({ rule }) => rule === 'dayLossLimit') && actOf(rules.onDayLoss) === 'close-out';
  const some =
    actOf(rules.onInstrumentLoss) === 'close-out'
      ? reached.flatMap(({ rule, instrument }) => (rule === 'instrumentLossLimit' && instrument !== null ? [instrument] : []))
      : [];
  if (!day && some.length === 0) return closeOut;
  const before = closeOut?.state === 'running' ? closeOut.instruments : [];
  return { state: 'running', instruments: day || before === 'all' ? 'all' : [...before, ...some], since: now };
}

/** Working opening orders that what is blocked takes back: the account's, an instrument's, or the newest over a cap. */
function toCancel(state: AccountState, blocks: readonly Block[], closeOut: CloseOut | null, facts: Facts): { order: Order; reason: ReasonCode }[] {
  const now = blocks.filter(({ until }) => until > facts.now);
  const found: { order: Order; reason: ReasonCode }[] = [];
  const overCap = ordersOverCap(state, facts);
  for (const order of openingOrders(state, null)) {
    if (isFinished(order) || order.pendingCancel !== null) continue;
    const block = now.find(
      ({ rule, instrument }) => rule === 'dayLossLimit' || rule === 'coolDown' || (rule === 'instrumentLossLimit' && instrument === order.instrument),
    );
    if (!block && !overCap.has(order.id)) continue;
    const closes =
      closeOut !== null &&
      block !== undefined &&
      (block.rule === 'dayLossLimit' || block.rule === 'instrumentLossLimit') &&
      isClosedOut(closeOut, order.instrument);
    found.push({ order, reason: closes ? 'close-out' : 'risk' });
  }
  return found;
}

/** The newest working opening orders of a kind of which more is used and working than its cap. */
function ordersOverCap(state: AccountState, facts: Facts): Set<string> {
  const found = new Set<string>();
  for (const [kind, cap] of Object.entries(state.risk.rules.dayQuantityCap ?? {})) {
    const working = [...state.working.values()]
      .filter(({ order }) => order.opening && facts.instrument(order.instrument).kind === kind)
      .sort((a, b) => b.madeBy - a.madeBy);
    let sum = working.reduce(
      (total, { order }) => total + inUnits(remainingQuantity(order), facts.instrument(order.instrument)),
      state.risk.used[kind as InstrumentKind] ?? 0n,
    );
    for (const { order } of working) {
      if (sum <= cap) break;
      sum -= inUnits(remainingQuantity(order), facts.instrument(order.instrument));
      found.add(order.id);
    }
  }
  return found;
}

/** Positions that a close-out has still to close. */
const toClose = (state: AccountState, closeOut: CloseOut): Position[] =>
  openPositions(state, null).filter(({ instrument }) => isClosedOut(closeOut, instrument));

/** How much of a position no order of the close-out closes yet. */
function unclosed(state: AccountState, { instrument, quantity }: Position): number {
  let closing = 0;
  for (const { order } of workingIn(state, instrument)) if (isCloseOut(order)) closing += remainingQuantity(order);
  return Math.max(0, sizeOf(quantity) - closing);
}

const refusedLately = ({ risk }: AccountState, instrument: string, now: number): boolean => now - (risk.refused[instrument] ?? -Infinity) < CLOSE_AGAIN_MS;

/** Whether something of a close-out has to be tried again after a while. */
export const closesAgain = (state: AccountState): boolean =>
  state.risk.closeOut?.state === 'running' && toClose(state, state.risk.closeOut).some((position) => unclosed(state, position) > 0);

function goOnClosing(drafts: Drafts, closeOut: CloseOut): void {
  const { state, facts } = drafts;
  const open = toClose(state, closeOut);
  if (open.length === 0) {
    if (state.risk.closeOut?.state === 'running')
      drafts.say('Close-out done: all is flat.', { kind: 'risk', to: { closeOut: { ...closeOut, state: 'done' } } });
    return;
  }
  for (const position of open) {
    const missing = unclosed(state, position);
    if (missing === 0 || refusedLately(state, position.instrument, facts.now)) continue;
    const instrument = facts.instrument(position.instrument);
    const sells = position.quantity > 0;
    const terms = closingTerms(instrument, sells, asQuantity(missing), facts, 'gtc');
    const { lower, upper } = facts.view(instrument.id).priceLimits;
    const limit = terms.type === 'following' ? terms.limit : null;
    // Outside the day's limits the venue would refuse it: it is tried again until it would not.
    if (limit !== null && ((lower !== null && limit < lower) || (upper !== null && limit > upper))) continue;
    const number = drafts.next;
    const order = closingOrder(
      {
        id: `${state.terms.id}-${number}`,
        clientOrderId: closeOutName(number),
        account: state.terms.id,
        instrument: instrument.id,
        side: sells ? 'sell' : 'buy',
        product: position.product,
        role: 'close',
        createdAt: facts.now,
      },
      terms,
    );
    drafts.order(order, canonical(['close-out', order.id]));
  }
}
