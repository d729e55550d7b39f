import { formatQuantity, isListed, isTradable, asQuantity, sizeOf, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { expiryTime, formatDay, tradingDay } from '../market/index.ts';
import { formatMoney, minus, plus, type Money } from '../number/index.ts';
import {
  cutTo,
  effectOnPosition,
  invalid,
  oversold,
  priceLimitProblems,
  requestedOrder,
  restOnlyProblem,
  firstStop,
  stopProblem,
  wouldTrade,
  type FieldProblem,
  type MarketView,
  type Order,
  type OrderIntent,
  type OrderTerms,
  type Refusal,
} from '../orders/index.ts';
import { mayTrade, positionOf, type AccountTerms } from '../portfolio/index.ts';
import { BLOCKING_RULES, type OrderUse } from '../risk/index.ts';
import { measuredBy, ruleRefusal } from './rule-checks.ts';
import { consentMissing, exitsHeldOtherwise, isExit, planRefusal } from './exits.ts';
import { fillsNow, marginOf, orderValue } from './estimate.ts';
import { buyingPower, feeEstimate, tiedUpIn } from './exposure.ts';
import type { WithUses } from './entries.ts';
import type { Facts } from './facts.ts';
import { sellingFreely, type AccountState } from './state.ts';

/** One check of the gate, told with its result whether it passed or not. */
export interface Check {
  readonly rule: string;
  readonly result: 'pass' | 'warn' | 'refuse';
  /** Put in words only where they are read: the way of an order reads the refusal. */
  readonly words: () => string;
  readonly refusal: Refusal | null;
  /** How far the order uses the rule, where that is measured by the order. */
  readonly use?: OrderUse | null;
}

/** An order as the gate judges it. */
export interface Case {
  /** A change of what works already. */
  readonly replaces: boolean;
  readonly state: AccountState;
  readonly order: Order;
  readonly instrument: Instrument;
  /** Signed quantity held. */
  readonly position: Quantity;
  readonly view: MarketView;
  readonly facts: Facts;
  /** How much of it opens: the whole, but of what goes through zero only what it leaves open. */
  readonly opens: Quantity;
}

/** What the gate says of an order. `order` is as it would be committed, where it is an order at all. */
export interface Judgement {
  readonly case: Case | null;
  readonly checks: readonly Check[];
  readonly refusal: Refusal | null;
}

/** What an order used of the rules that it was measured by, for the entry that takes it. */
export const usesOf = ({ checks }: Judgement): WithUses => {
  const uses = checks.flatMap(({ use }) => use ?? []);
  return uses.length === 0 ? {} : { uses };
};

type Checker = (of: Case) => Check | null;

const pass = (rule: string, words: () => string): Check => ({ rule, result: 'pass', words, refusal: null });
const refuse = (rule: string, refusal: Refusal): Check => ({
  rule,
  result: 'refuse',
  words: () => (refusal.kind === 'validation' ? refusal.errors.map(({ message }) => message).join('; ') : refusal.detail),
  refusal,
});

/** Checks of a new order, in the order in which the first refusal is told. Rules of risk come after these. */
const CHECKS: readonly Checker[] = [venueTakes, planFits, agreed, exitsTogether, sameProduct, stopSide, rests, freeSales, enoughMoney];

/** Judges a new order: what it is to the position, then each check. A pure decision: nothing is changed. */
export function judgeOrder(state: AccountState, intent: OrderIntent, facts: Facts): Judgement {
  const instrument = facts.instrument(intent.instrument);
  const problems = accountProblems(state.terms, intent, instrument);
  if (problems.length > 0) return refusedAtOnce('account', { kind: 'validation', errors: problems });
  const position = positionOf(state.book, instrument.id);
  const effect = effectOnPosition({ ...intent, quantity: intent.terms.quantity }, position.quantity, instrument);
  if (!effect.ok) return refusedAtOnce('position', effect.refusal);
  const { quantity, opening, reduceOnly, role } = effect.value;
  const number = state.count + 1;
  const order = requestedOrder(
    {
      id: `${intent.account}-${number}`,
      clientOrderId: intent.clientOrderId,
      account: intent.account,
      instrument: instrument.id,
      side: intent.side,
      heldBy: intent.heldBy,
      product: opening ? intent.product : position.product,
      reduceOnly,
      crossesZero: intent.crossesZero,
      setup: intent.setup ?? intent.exitPlan?.setup ?? null,
      plan: intent.exitPlan ? `${intent.account}-p${number}` : null,
      step: null,
      exitPlan: intent.exitPlan,
      role,
      opening,
      createdAt: facts.now,
    },
    quantity === intent.terms.quantity ? intent.terms : cutTo(intent.terms, quantity),
  );
  const held = sizeOf(position.quantity);
  const crosses = opening && held > 0 && quantity > held && (intent.side === 'sell') === position.quantity > 0;
  const opens = asQuantity(!opening ? 0 : crosses ? quantity - held : quantity);
  return runChecks(CHECKS, { state, order, instrument, position: position.quantity, view: facts.view(instrument.id), facts, opens, replaces: false });
}

/** Judges an order whose terms a change has made new, at what it needs now. */
export function judgeTerms(
  state: AccountState,
  order: Order,
  terms: OrderTerms,
  facts: Facts,
  moved: { stop: boolean; margin: boolean; opens: boolean },
): Judgement {
  const instrument = facts.instrument(order.instrument);
  const position = positionOf(state.book, instrument.id).quantity;
  const checks: Checker[] = [venueTakes];
  if (moved.stop && order.triggeredAt === null) checks.push(stopSide);
  checks.push(rests);
  if (moved.margin) checks.push(freeSales, enoughMoney);
  const changed = { ...order, terms };
  const opens = asQuantity(order.opening ? terms.quantity - order.filledQuantity : 0);
  return runChecks(checks, { state, order: changed, instrument, position, view: facts.view(instrument.id), facts, opens, replaces: true }, moved.opens);
}

function runChecks(checks: readonly Checker[], of: Case, rules = true): Judgement {
  const told: Check[] = rules ? byRules(of) : [];
  for (const check of checks) {
    const found = check(of);
    if (found) told.push(found);
  }
  return { case: of, checks: told, refusal: firstRefusal(told) };
}

/** The refusal that is told: what is wrong with the order itself before what the rules say; of several rules the first, with all named. */
function firstRefusal(told: readonly Check[]): Refusal | null {
  const all = told.flatMap(({ refusal }) => refusal ?? []);
  const own = all.find(({ kind }) => kind !== 'risk-blocked');
  if (own) return own;
  const rules = all.flatMap((refusal) => (refusal.kind === 'risk-blocked' ? [refusal] : []));
  rules.sort((a, b) => BLOCKING_RULES.indexOf(a.rule) - BLOCKING_RULES.indexOf(b.rule));
  const [first] = rules;
  if (!first) return null;
  const power = rules.find(({ buyingPower }) => buyingPower !== undefined)?.buyingPower;
  return { ...first, rules: rules.map(({ rule }) => rule), ...(power === undefined ? {} : { buyingPower: power }) };
}

/** What the account's rules say of it: a warning is told and stops nothing, and what passes tells what is left. */
function byRules(of: Case): Check[] {
  const { risk } = of.state;
  if (!of.order.opening) return [];
  if (risk.broken)
    return [
      refuse('record', {
        kind: 'conflict',
        detail: `The record of ${of.state.terms.id} (its rules, or its activity) is not what was written: only closing orders are taken.`,
      }),
    ];
  return measuredBy(of).map((found) => {
    const { rule, stops, warns, words, use } = found;
    return stops && !warns ? refuse(rule, ruleRefusal(found)) : { rule, result: stops ? 'warn' : 'pass', words, refusal: null, use };
  });
}

const refusedAtOnce = (rule: string, refusal: Refusal): Judgement => ({ case: null, checks: [refuse(rule, refusal)], refusal });

function accountProblems(terms: AccountTerms, intent: OrderIntent, instrument: Instrument): FieldProblem[] {
  const problems: FieldProblem[] = [];
  if (isTradable(instrument) && !mayTrade(terms, instrument))
    problems.push({
      path: '/instrument',
      message: `${terms.id} can't trade ${instrument.id}; it trades ${terms.kinds.join(', ')} on ${terms.venues.join(', ')}`,
    });
  if (!terms.products.includes(intent.product))
    problems.push({ path: '/product', message: `${terms.id} has no ${intent.product} product; accepted: ${terms.products.join(', ')}` });
  return problems;
}

function venueTakes({ order, instrument, view, facts }: Case): Check {
  const problems = priceLimitProblems(order.terms, order.side, instrument, view.priceLimits);
  if (order.opening && instrument.listsOn !== null && !isListed(instrument, formatDay(tradingDay(instrument.venue, facts.now))))
    problems.push({ path: '/instrument', message: `${instrument.id} is listed from ${instrument.listsOn} on` });
  const expiry = expiryTime(instrument);
  if (expiry !== null && facts.now >= expiry) problems.push({ path: '/instrument', message: `${instrument.id} expired at ${new Date(expiry).toISOString()}` });
  const { lifetime } = order.terms;
  if (lifetime.kind === 'gtd' && lifetime.until <= facts.now)
    problems.push({ path: '/expiresAt', message: `must be later than ${new Date(facts.now).toISOString()}` });
  return problems.length > 0 ? refuse('venue', { kind: 'validation', errors: problems }) : pass('venue', () => `${instrument.venue} takes it.`);
}

/** A plan goes with what opens, and each of its legs must be something that can be had there. */
function planFits({ order, instrument, view }: Case): Check | null {
  if (!order.exitPlan) return null;
  if (!order.opening) return refuse('exitPlan', invalid('/exitPlan', 'goes with an opening order; this one reduces'));
  const refusal = planRefusal('/exitPlan', order.exitPlan, order.side === 'buy', instrument, view, waitsAt(order, view));
  return refusal ? refuse('exitPlan', refusal) : pass('exitPlan', () => 'The plan fits.');
}

/** The price at which an order waits; null where it would trade at once, or goes after the market. */
function waitsAt({ terms, side }: Order, view: MarketView): Price | null {
  if (terms.type === 'limit') return wouldTrade(terms.limit, side, view) ? null : terms.limit;
  return terms.type === 'stop' || terms.type === 'stop-limit' ? terms.stop : null;
}

/** What is held here needs the trader's consent once. */
function agreed({ order, facts }: Case): Check | null {
  if (order.heldBy !== 'here' && order.exitPlan?.heldBy !== 'here') return null;
  return facts.consent ? pass('consent', () => 'Agreed.') : refuse('consent', consentMissing());
}

/** One instrument has its exits at the venue or here, never both. */
function exitsTogether({ state, order }: Case): Check | null {
  const holder = order.exitPlan?.heldBy ?? (isExit(order) ? order.heldBy : null);
  const other = holder && exitsHeldOtherwise(state, order.instrument, holder);
  return other ? refuse('exits', { kind: 'conflict', detail: other }) : null;
}

function sameProduct({ state, order, position }: Case): Check | null {
  if (!order.opening || position === 0) return null;
  const held = positionOf(state.book, order.instrument).product;
  if (held === order.product) return pass('product', () => `The open position is ${held} too.`);
  return refuse('product', invalid('/product', `the open position in ${order.instrument} is ${held}; an opening order must be too`));
}

function stopSide({ order, instrument, view }: Case): Check | null {
  const { terms, side } = order;
  if (terms.type !== 'stop' && terms.type !== 'stop-limit' && terms.type !== 'trailing-stop') return null;
  const problem = stopProblem(terms.type === 'trailing-stop' ? firstStop(terms, side, instrument, view) : terms, side, instrument, view);
  return problem ? refuse('stopSide', problem) : pass('stopSide', () => 'The stop is on the right side of the market.');
}

function rests({ order, instrument, view }: Case): Check | null {
  if (order.terms.type !== 'limit' || !order.terms.restOnly) return null;
  const problem = restOnlyProblem(order.terms, order.side, instrument, view);
  return problem ? refuse('restOnly', problem) : pass('restOnly', () => 'It rests.');
}

/** Sells of a spot position that are not reducing are together never more than what was bought here. */
function freeSales({ state, order, instrument, position }: Case): Check | null {
  if (instrument.kind !== 'spot' || order.side !== 'sell' || !order.opening) return null;
  const most = Math.max(0, position - sellingFreely(state, order.instrument));
  const wants = order.terms.quantity - order.filledQuantity;
  return wants <= most ? null : refuse('position', oversold(formatQuantity(instrument, asQuantity(most)), most > 0));
}

/** An opening order needs its margin and its estimated fees within the buying power; on wallets, within the wallet. */
function enoughMoney({ state, order, instrument, opens, facts }: Case): Check | null {
  if (!order.opening || (instrument.kind === 'spot' && order.side === 'sell')) return null;
  const fills = fillsNow(order, instrument, facts.book(instrument.id));
  const quantity = asQuantity(order.terms.quantity - order.filledQuantity);
  const value = orderValue(order, quantity, instrument, fills, facts);
  const margin = marginOf(order, opens, instrument, fills, facts);
  const say = (sum: Money): string => formatMoney(sum, instrument.settlesIn);
  const room = roomFor(state, instrument, facts);
  if (value === null || margin === null)
    return refuse(
      'buyingPower',
      poor(`Nothing tells what ${instrument.id} is worth, so its margin is not known. A limit order has a value of its own.`, instrument, say(room)),
    );
  const fees = feeEstimate(state, instrument, quantity, value);
  const need = plus(margin, fees);
  if (need <= room) return pass('buyingPower', () => `It needs ${say(need)}; ${say(room)} is left.`);
  return refuse('buyingPower', poor(`It needs ${say(need)} (margin ${say(margin)}, fees ${say(fees)}); ${say(room)} is left.`, instrument, say(room)));
}

/** What an opening order can use: the wallet it is paid from, else the buying power. */
function roomFor(state: AccountState, instrument: Instrument, facts: Facts): Money {
  if (instrument.kind !== 'spot' && instrument.kind !== 'inverse') return buyingPower(state, facts);
  const asset = instrument.kind === 'spot' ? instrument.currency : instrument.settlesIn;
  const purpose = instrument.kind === 'spot' ? 'spot' : 'contract';
  const wallet = state.book.wallets.find((one) => one.asset === asset && one.purpose === purpose);
  const tied = tiedUpIn(state, asset, purpose, facts);
  return wallet ? minus(wallet.total, tied) : minus(tied, tied);
}

const poor = (detail: string, instrument: Instrument, left: string): Refusal => ({
  kind: 'risk-blocked',
  rule: 'buyingPower',
  rules: ['buyingPower'],
  instrument: instrument.id,
  until: null,
  detail,
  buyingPower: left,
});
