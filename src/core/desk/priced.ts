import { inState, isRunning, withLeg, type Leg, type LegName, type RunningPlan } from '../exits/index.ts';
import { formatPrice, venueOrderTypes, type Instrument, type Price } from '../instrument/index.ts';
import type { Side, TriggerSource } from '../market/index.ts';
import {
  applyReport,
  isHere,
  limitPriceOf,
  refusalText,
  stopPriceOf,
  trailedTo,
  triggerOf,
  type Order,
  type OrderReport,
  type OrderTerms,
} from '../orders/index.ts';
import type { PriceRow } from './broker.ts';
import type { Decision } from './decision.ts';
import { Drafts, closingTerms } from './drafts.ts';
import type { Draft } from './entries.ts';
import type { Facts } from './facts.ts';
import { judgeTerms } from './gate.ts';
import { adjust, judgedUpTo, standingOf } from './here.ts';
import { closedNow, closingSide, followed, movedAtLast, reachedTarget } from './plans.ts';
import { heldHere, plansIn, workingIn, type AccountState } from './state.ts';
import { reportHistory, reportText } from './words.ts';

/** How often a price that is followed is written, in market time; in between it is found again from the trades since. */
const WRITTEN_WITHIN_MS = 1000;

/** What a price does to what is held here: the prices one row brings, by what watches them. */
type Seen = Readonly<Record<TriggerSource, Price | null>>;

const seenIn = ({ traded, bid, ask }: PriceRow): Seen => ({ last: traded, bid, ask });

/** Whether a price is at or beyond a level, for what sells below it or above it. */
const isBeyond = (price: Price | null, level: Price, below: boolean): boolean => price !== null && (below ? price <= level : price >= level);

/** A row of a market that something waits on: what it fires, what it moves (exact rules *Tapes* 4e, *Exits* 9, 14). */
export function decidePriced(state: AccountState, row: PriceRow, facts: Facts): Decision {
  const drafts = new Drafts(state, facts, 'plan');
  const following: RunningPlan[] = [];
  for (const plan of plansIn(state, row.instrument)) {
    if (!isRunning(plan) || (plan.plan.heldBy === 'here' && plan.state !== 'armed')) continue;
    const next = pricedPlan(drafts, plan, row);
    if (next === plan) continue;
    const said = next.log !== plan.log || plan.plan.heldBy === 'venue' || row.time - plan.judgedUpTo >= WRITTEN_WITHIN_MS;
    if (said)
      drafts.plan(next, next.log === plan.log ? `Exit plan ${plan.id} of ${plan.instrument} follows the price.` : `Exit plan ${plan.id}: ${lastLine(next)}`);
    else following.push(next);
  }
  const followingOrders = pricedOrders(drafts, row);
  return { entries: drafts.entries, answer: { kind: 'done' }, following, followingOrders };
}

const lastLine = ({ log }: RunningPlan): string => log[log.length - 1]?.text ?? '';

function pricedPlan(drafts: Drafts, plan: RunningPlan, row: PriceRow): RunningPlan {
  const instrument = drafts.facts.instrument(plan.instrument);
  let next = plan;
  if (plan.plan.heldBy === 'here') {
    next = triggered(drafts, plan, row);
    if (next.state !== 'armed') return next;
  }
  const after = row.traded === null || row.state !== 'open' ? next : followed(next, row.traded, instrument);
  return after === plan && drafts.facts.link === 'up' ? movedAtLast(drafts, after) : after;
}

/** Whether a row reaches a leg: its stop from behind, its target from before, and a target that trails from behind once touched. */
function isHit(plan: RunningPlan, name: LegName, asked: Leg, level: Price, touched: boolean, seen: Seen): boolean {
  const sells = closingSide(plan) === 'sell';
  const below = name === 'stop' || touched ? sells : !sells;
  return isBeyond(seen[asked.triggerOn], level, below);
}

function triggered(drafts: Drafts, plan: RunningPlan, row: PriceRow): RunningPlan {
  const seen = seenIn(row);
  const open = row.state === 'open';
  const instrument = drafts.facts.instrument(plan.instrument);
  let next = plan;
  for (const [index, step] of plan.steps.entries()) {
    if (step.open === 0 || step.fired || step.ended) continue;
    for (const name of ['stop', 'target'] as const) {
      const leg = step[name];
      const asked = plan.plan.steps[index]?.[name];
      if (!leg || !asked || leg.over || leg.price === null || leg.orderId !== null) continue;
      const hit = isHit(plan, name, asked, leg.price, leg.touched, seen);
      if (leg.ignored) {
        const left = seen[asked.triggerOn] !== null && !hit;
        if (left) next = withLeg(next, index, name, { ignored: false });
        continue;
      }
      if (!open) {
        if (hit) next = withLeg(next, index, name, { missed: true });
        continue;
      }
      if (!hit && !leg.missed) continue;
      if (leg.missed && plan.plan.onMissedLevel === 'ask') return asking(next, drafts.facts.now);
      if (name === 'stop' || leg.touched) {
        next = closedNow(drafts, next, index, `its ${name} at ${formatPrice(instrument, leg.price)} was reached: closed.`, name);
        break;
      }
      next = reachedTarget(drafts, next, index);
    }
  }
  return next;
}

const asking = (plan: RunningPlan, now: number, passed = 'A level was passed while it could not fire'): RunningPlan =>
  inState(plan, 'asking', now, `${passed}: it asks what to do.`);

/** Orders held here: what triggers goes to the venue, what trails moves, what is for the day ends with it. */
function pricedOrders(drafts: Drafts, row: PriceRow): Order[] {
  const { state } = drafts;
  const moved: Order[] = [];
  if (state.cutOffSince !== null) return moved;
  for (const { order } of workingIn(state, row.instrument)) {
    if (!isHere(order) || order.acknowledged !== 'accepted') continue;
    if (row.state === 'closed' && order.terms.lifetime.kind === 'day') adjust(drafts, order, { kind: 'expired', reasonCode: 'day-end' });
    else if (row.state === 'open' && isTriggered(order, row, drafts.facts)) {
      const stopped = order.opening ? judgeTerms(state, order, order.terms, drafts.facts, { stop: false, margin: false, opens: true }).refusal : null;
      if (stopped) adjust(drafts, order, { kind: 'rejected', reason: refusalText(stopped), reasonCode: 'risk' });
      else release(drafts, order);
    } else if (order.terms.type === 'trailing-stop') {
      const price = seenIn(row)[order.terms.triggerOn];
      const next = price === null || row.state !== 'open' ? order : trailed(order, price, row.time, drafts.facts);
      if (next === order) continue;
      // What it has seen is written at most once a second; in between it is found again from the trades since.
      if (row.time - order.updatedAt >= WRITTEN_WITHIN_MS) drafts.entries.push(trailedEntry(drafts, order, next));
      else moved.push(next);
    }
  }
  return moved;
}

function trailed(order: Order, price: Price, at: number, facts: Facts): Order {
  const { terms, side } = order;
  if (terms.type !== 'trailing-stop') return order;
  const now = trailedTo(terms, side, facts.instrument(order.instrument), price, at);
  return now === terms ? order : { ...order, terms: now };
}

/** The entry by which a stop that trails is written; its moves are no line of its history. */
function trailedEntry(drafts: Drafts, order: Order, after: Order): Draft {
  const report = { kind: 'trailed', ...standingOf(after.terms) } as const;
  const text = reportText(after, report, drafts.facts.instrument(order.instrument));
  return { ...base(drafts, order), text, data: { kind: 'order-adjusted', orderId: order.id, report }, history: null };
}

const stopBelow = (side: Side): boolean => side === 'sell';

function isTriggered({ terms, side }: Order, row: PriceRow, facts: Facts): boolean {
  const seen = seenIn(row);
  const stop = stopPriceOf(terms);
  if (stop !== null) return isBeyond(seen[triggerOf(terms)], stop, stopBelow(side));
  const limit = limitPriceOf(terms, side, facts.instrument(row.instrument));
  if (limit === null) return false;
  return isBeyond(row.traded, limit, side === 'buy') || isBeyond(side === 'buy' ? row.ask : row.bid, limit, side === 'buy');
}

/** Sends an order that was held here to the venue, as what the venue takes. */
export function release(drafts: Drafts, order: Order): void {
  const { facts } = drafts;
  const instrument = facts.instrument(order.instrument);
  const marketable = order.terms.type === 'stop' || order.terms.type === 'trailing-stop';
  const refused = marketable && !venueOrderTypes(instrument.venue, instrument.kind).includes('market');
  const terms: OrderTerms | null = refused ? closingTerms(instrument, order.side === 'sell', order.terms.quantity, facts, 'gtc') : null;
  const report: OrderReport = { kind: 'triggered', ...(terms ? { terms: { ...terms, lifetime: order.terms.lifetime } } : {}) };
  const after = applyReport(order, report, facts.now);
  const data = { kind: 'order-released', number: drafts.take(), orderId: order.id, report } as const;
  const history = reportHistory(after, instrument, report);
  drafts.entries.push({ ...base(drafts, order), text: reportText(after, report, instrument), data, history });
}

const base = ({ state, facts }: Drafts, order: Order) =>
  ({
    time: facts.now,
    account: state.terms.id,
    by: 'desk',
    instrument: order.instrument,
    orderId: order.id,
    causedBy: state.working.get(order.id)?.askedBy ?? null,
  }) as const;

/** Everything that is held here waits from now on: the broker or the prices are cut off. */
export function decideCutOff(state: AccountState, restart: boolean, facts: Facts): Decision {
  const drafts = new Drafts(state, facts, 'desk');
  if (state.cutOffSince !== null) return { entries: [], answer: { kind: 'done' } };
  const plans = [...state.plans.values()].filter((plan) => plan.plan.heldBy === 'here' && plan.state === 'armed');
  const orders = [...heldHere(state)].filter((order) => order.acknowledged === 'accepted');
  if (restart && plans.length + orders.length === 0) return { entries: [], answer: { kind: 'done' } };
  drafts.say('What is held here waits: the broker or the prices are cut off.', { kind: 'cut-off', since: facts.now });
  for (const plan of plans) {
    const next = inState(plan, 'suspended', facts.now, 'Suspended: the broker or the prices are cut off.');
    // What it has seen so far is kept: the trades since are looked at when it is back.
    drafts.say(`Exit plan ${plan.id} of ${plan.instrument}: suspended.`, { kind: 'plan', plan: next }, { instrument: plan.instrument });
  }
  for (const order of orders) adjust(drafts, order, { kind: 'suspended' });
  return { entries: drafts.entries, answer: { kind: 'done' } };
}

/** Looks at all that was missed, then goes on: what was passed meanwhile fires, asks, or came too late. */
export function decideBack(state: AccountState, facts: Facts): Decision {
  const drafts = new Drafts(state, facts, 'desk');
  if (state.cutOffSince === null) return { entries: [], answer: { kind: 'done' } };
  drafts.say('What is held here goes on.', { kind: 'back' });
  for (const plan of state.plans.values()) {
    if (plan.plan.heldBy !== 'here' || plan.state !== 'suspended') continue;
    const next = caughtUp(plan, facts);
    drafts.plan(next, `Exit plan ${plan.id} of ${plan.instrument}: ${lastLine(next)}`);
  }
  for (const order of heldHere(state)) if (order.suspended) back(drafts, order);
  return { entries: drafts.entries, answer: { kind: 'done' } };
}

/** A suspended plan brought through the trades that it did not see. A level that was passed stays passed. */
function caughtUp(plan: RunningPlan, facts: Facts): RunningPlan {
  const instrument = facts.instrument(plan.instrument);
  const trades = facts.tradesAfter(plan.instrument, plan.judgedUpTo);
  let next = plan;
  let first: { readonly name: LegName; readonly level: Price } | null = null;
  for (const price of trades) {
    const seen: Seen = { last: price, bid: null, ask: null };
    for (const [index, step] of next.steps.entries())
      for (const name of ['stop', 'target'] as const) {
        const leg = step[name];
        const asked = plan.plan.steps[index]?.[name];
        if (!leg || !asked || leg.over || leg.price === null || leg.missed || leg.orderId !== null || step.open === 0 || step.fired) continue;
        const hit = isHit(plan, name, { ...asked, triggerOn: 'last' }, leg.price, leg.touched, seen);
        if (leg.ignored && !hit) next = withLeg(next, index, name, { ignored: false });
        else if (hit && !leg.ignored) {
          first ??= { name, level: leg.price };
          next = withLeg(next, index, name, { missed: true });
        }
      }
    next = followed(next, price, instrument);
  }
  const missed = next.steps.some(({ stop, target }) => (stop?.missed ?? false) || (target?.missed ?? false));
  if (!missed) return inState(next, 'armed', facts.now, 'It goes on: nothing was passed meanwhile.');
  const passed = first && passedWords(first.name, first.level, trades, closingSide(plan) === 'sell', instrument);
  if (plan.plan.onMissedLevel === 'ask') return asking(next, facts.now, passed ?? undefined);
  return inState(next, 'armed', facts.now, `${passed ?? 'A level was passed before'}: it fires.`);
}

/** Which level was passed, and the worst of the trades beyond a stop, the best beyond a target. */
function passedWords(name: LegName, level: Price, trades: readonly Price[], sells: boolean, instrument: Instrument): string {
  const down = (name === 'stop') === sells;
  const far = trades.reduce((so, price) => ((down ? price < so : price > so) ? price : so), level);
  return `Its ${name} at ${formatPrice(instrument, level)} was passed, ${down ? 'low' : 'high'} ${formatPrice(instrument, far)}`;
}

function back(drafts: Drafts, order: Order): void {
  const { facts, state } = drafts;
  let now = order;
  let passed = false;
  for (const price of facts.tradesAfter(order.instrument, judgedUpTo(order, state.cutOffSince))) {
    const row: PriceRow = { time: facts.now, instrument: order.instrument, state: 'open', traded: price, last: price, mark: null, bid: null, ask: null };
    passed = isTriggered(now, row, facts);
    if (passed) break;
    // What follows the bid or the ask did not see them: it goes on from what it had.
    if (triggerOf(now.terms) === 'last') now = trailed(now, price, facts.now, facts);
  }
  const resumed = adjust(drafts, order, { kind: 'resumed', ...(now === order ? {} : standingOf(now.terms)) });
  if (!passed) return;
  if (order.opening) adjust(drafts, resumed, { kind: 'rejected', reason: 'Its price was passed while it was cut off.', reasonCode: 'late' });
  else release(drafts, resumed);
}
