import {
  evenPrice,
  hasGained,
  inState,
  isOver,
  isRunning,
  openOf,
  resized,
  withLeg,
  withLine,
  withStep,
  type Leg,
  type LegName,
  type RunningLeg,
  type RunningPlan,
} from '../exits/index.ts';
import { addTicks, asPrice, asQuantity, formatPrice, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { tighter, trailedStop, type Side } from '../market/index.ts';
import {
  limitPriceOf,
  remainingQuantity,
  stopPriceOf,
  stopProblem,
  trailFor,
  type MarketView,
  type Order,
  type OrderChange,
  type OrderGroup,
  type OrderTerms,
  type Pricing,
} from '../orders/index.ts';
import { positionOf } from '../portfolio/index.ts';
import { isClosedOut } from '../risk/index.ts';
import type { Decision } from './decision.ts';
import { Drafts, closingTerms, legOrder } from './drafts.ts';
import type { Facts } from './facts.ts';
import { cutHere } from './here.ts';
import { plansIn, type AccountState } from './state.ts';

const GTC = { kind: 'gtc' } as const;

/** What a plan can leave: the position on its side, never negative. */
const leaves = (state: AccountState, { instrument, long }: RunningPlan): Quantity => {
  const { quantity } = positionOf(state.book, instrument);
  return asQuantity(Math.max(0, long ? quantity : 0 - quantity));
};

export const closingSide = ({ long }: RunningPlan): Side => (long ? 'sell' : 'buy');

/**
 * Brings exit plans to what the account is now: armed by the fills of their entries, shared out for the position,
 * their orders at the venue as they should stand. Decided from the state alone, so that it can be asked again at any
 * time, and a process that ends in the middle goes on where it was.
 */
export function decideArrange(state: AccountState, instruments: Iterable<string>, facts: Facts): Decision {
  const drafts = new Drafts(state, facts, 'plan');
  for (const instrument of instruments)
    for (const plan of plansIn(state, instrument)) {
      if (isOver(plan)) continue;
      const settled = lifeOf(state, plan, facts);
      const next = facts.link === 'up' ? placed(drafts, settled) : settled;
      if (next !== plan) drafts.plan(next, textOf(plan, next));
    }
  cutHere(drafts, new Set(instruments));
  return { entries: drafts.entries, answer: { kind: 'done' } };
}

/** What a plan came to, for the activity: its newest line. */
function textOf(before: RunningPlan, after: RunningPlan): string {
  const line =
    after.log.length > 0 && after.log[after.log.length - 1] !== before.log[before.log.length - 1] ? after.log[after.log.length - 1]?.text : undefined;
  return `Exit plan ${after.id} of ${after.instrument}: ${line ?? 'its orders are brought to the position.'}`;
}

/** Whether it waits, runs or has ended, and for how much. */
function lifeOf(state: AccountState, plan: RunningPlan, facts: Facts): RunningPlan {
  const entryWorks = plan.entryOrderId !== null && state.working.has(plan.entryOrderId);
  const fresh = plan.entry.quantity > plan.sharedFor.entry;
  if (plan.state === 'waiting') {
    if (!fresh) return entryWorks ? plan : inState(plan, 'done', facts.now, 'Its entry ended without a further fill.');
    const running = plansIn(state, plan.instrument).find((one) => one.id !== plan.id && isRunning(one));
    if (running) return inState(plan, 'stopped', facts.now, `The fills of its entry joined ${running.id}.`);
    return armed(state, plan, facts);
  }
  const position = leaves(state, plan);
  if (position === 0) {
    const { closeOut } = state.risk;
    if (!entryWorks && closeOut?.state === 'running' && isClosedOut(closeOut, plan.instrument) && openOf(plan) > 0)
      return inState(plan, 'stopped', facts.now, 'Its position was closed out.');
    if (!entryWorks) return inState(plan, 'done', facts.now, 'The position is flat.');
    const waiting = inState(plan, 'waiting', facts.now, 'The position is flat; its entry still works.');
    const steps = plan.plan.steps.map((_, i) => ({
      ...(plan.steps[i] as RunningPlan['steps'][number]),
      open: asQuantity(0),
      closed: asQuantity(0),
      fired: false,
    }));
    return { ...waiting, steps, round: (plan.round ?? 0) + 1, sharedFor: { entry: plan.entry.quantity, position: asQuantity(0) } };
  }
  const instrument = facts.instrument(plan.instrument);
  let next = plan;
  if (fresh || position !== plan.sharedFor.position) {
    next = resized(plan, position, instrument);
    next = withLine(next, facts.now, `For ${saySizes(next)} of ${position}.`);
  }
  return openOf(next) === 0 ? inState(next, 'done', facts.now, 'Its steps are done.') : next;
}

const saySizes = ({ steps }: RunningPlan): string => steps.map(({ open }) => open).join(', ');

/** A plan that begins to run, for what its entry has filled or the position has. */
export function armed(state: AccountState, plan: RunningPlan, facts: Facts): RunningPlan {
  const instrument = facts.instrument(plan.instrument);
  const position = leaves(state, plan);
  // Its fills alone: what was held before is not its own.
  const before = { ...plan, sharedFor: { ...plan.sharedFor, position: asQuantity(position - (plan.entry.quantity - plan.sharedFor.entry)) } };
  const { last } = facts.view(plan.instrument);
  const at = resized(before, position, instrument);
  const sized = last === null ? at : followed(at, last, instrument);
  const cut = plan.plan.heldBy === 'here' && state.cutOffSince !== null;
  return inState(sized, cut ? 'suspended' : 'armed', facts.now, `Armed for ${saySizes(sized)}.`);
}

/** The orders of a plan brought to what it should have. */
function placed(drafts: Drafts, plan: RunningPlan): RunningPlan {
  if (plan.state !== 'armed') return plan;
  let next = plan;
  for (const [index, step] of plan.steps.entries()) {
    if (step.open === 0 || step.fired || step.ended) continue;
    next = plan.plan.heldBy === 'venue' ? atVenue(drafts, next, index) : here(drafts, next, index);
  }
  return next;
}

/** A plan of which a stop is to move to where the venue would not take it so far: it is moved with the first row at which it would. */
export const movedAtLast = (drafts: Drafts, plan: RunningPlan): RunningPlan =>
  plan.steps.some(({ stop }) => stop !== null && stop.wanted !== null) ? placed(drafts, plan) : plan;

const askedOf = (plan: RunningPlan, index: number, name: LegName): Leg => plan.plan.steps[index]?.[name] as Leg;
/** A group for the legs of a step; a new one for what it still has to close once a part of it was. */
const groupOf = ({ id, round = 0, steps }: RunningPlan, index: number): OrderGroup => {
  const closed = steps[index]?.closed ?? 0;
  return { id: `${id}.${index + 1}${round === 0 ? '' : `-${round}`}${closed === 0 ? '' : `.${closed}`}`, onPartialFill: 'reduce' };
};

/**
 * The group that a leg is sent in: that of the step's other leg while its order works, so that both never fill; else
 * a group of its own. One that has closed its part has nothing left, and would end whatever comes later at once.
 */
function groupBeside({ state }: Drafts, plan: RunningPlan, index: number, name: LegName): OrderGroup | null {
  const other = plan.steps[index]?.[name === 'stop' ? 'target' : 'stop'];
  if (!other || other.over) return null;
  const order = other.orderId === null ? null : state.working.get(other.orderId)?.order;
  return order ? order.group : groupOf(plan, index);
}
const works = (leg: RunningLeg | null): leg is RunningLeg => leg !== null && !leg.over && leg.price !== null;

/** Whether a leg's price is reached as things stand (exact rules *Exits* 6 and *Orders* 4). */
export function isReached(plan: RunningPlan, index: number, name: LegName, price: Price, view: MarketView, instrument: Instrument): boolean {
  const side = closingSide(plan);
  if (name === 'stop') return stopProblem({ type: 'stop', stop: price, triggerOn: askedOf(plan, index, name).triggerOn }, side, instrument, view) !== null;
  const best = (side === 'sell' ? view.bid : view.ask) ?? view.last;
  return best !== null && (side === 'sell' ? best >= price : best <= price);
}

/** A step whose legs are orders at the venue, one group. */
function atVenue(drafts: Drafts, plan: RunningPlan, index: number): RunningPlan {
  const { state, facts } = drafts;
  const step = plan.steps[index] as RunningPlan['steps'][number];
  const view = facts.view(plan.instrument);
  const instrument = facts.instrument(plan.instrument);
  if (!works(step.stop) && !works(step.target)) return withStep(plan, index, { ended: true, open: asQuantity(0) });
  const unsent: LegName[] = [];
  let next = plan;
  for (const name of ['stop', 'target'] as const) {
    const leg = step[name];
    if (!works(leg) || leg.price === null) continue;
    const order = leg.orderId === null ? null : (state.working.get(leg.orderId)?.order ?? null);
    if (!order) {
      const reached = name === 'stop' && (leg.missed || isReached(plan, index, name, leg.price, view, instrument));
      if (reached) return closedNow(drafts, next, index, `Its stop at ${formatPrice(instrument, leg.price)} is reached: closed at market.`);
      unsent.push(name);
      continue;
    }
    next = changed(drafts, next, index, name, leg, order, view);
  }
  return unsent.length > 0 ? sent(drafts, next, index, unsent) : next;
}

/** Sends legs that have no order yet: together, or to the one that works. */
function sent(drafts: Drafts, plan: RunningPlan, index: number, names: readonly LegName[]): RunningPlan {
  const step = plan.steps[index] as RunningPlan['steps'][number];
  const together = names.length > 1;
  const own = groupOf(plan, index);
  const orders = names.map((name, i) => {
    const order = legOrder(drafts, plan, index, name, legTerms(plan, index, name, step.open), i);
    return { ...order, group: together ? own : groupBeside(drafts, plan, index, name) };
  });
  for (const order of orders) drafts.order(order, order.id, { grouped: together });
  if (together) drafts.group(own, orders);
  let next = plan;
  for (const [i, name] of names.entries()) {
    const order = orders[i] as Order;
    const price = step[name]?.price ?? null;
    next = withLine(
      withLeg(next, index, name, { orderId: order.id, sent: price, missed: false }),
      drafts.facts.now,
      `Step ${index + 1}: ${name} sent.`,
      order.id,
    );
  }
  return next;
}

function legTerms(plan: RunningPlan, index: number, name: LegName, quantity: Quantity): OrderTerms {
  const { order, offsetTicks, triggerOn, trail } = askedOf(plan, index, name);
  const price = plan.steps[index]?.[name]?.price as Price;
  return { ...pricing(), quantity, lifetime: GTC };
  function pricing(): Pricing {
    if (name === 'target') return { type: 'limit', limit: price, restOnly: false };
    if (trail) return { type: 'trailing-stop', trail: trailFor(trail, quantity), stop: price, triggerOn };
    if (order === 'limit') return { type: 'stop-limit', stop: price, limit: { by: 'offset', ticks: offsetTicks ?? 0 }, triggerOn };
    return { type: 'stop', stop: price, triggerOn };
  }
}

/** A working leg brought to its quantity and price. */
function changed(drafts: Drafts, plan: RunningPlan, index: number, name: LegName, leg: RunningLeg, order: Order, view: MarketView): RunningPlan {
  if (order.pendingReplace !== null || order.pendingCancel !== null || leg.asked !== null || order.triggeredAt !== null) return plan;
  const instrument = drafts.facts.instrument(plan.instrument);
  const { open } = plan.steps[index] as RunningPlan['steps'][number];
  let next = plan;
  let price = leg.price as Price;
  if (leg.wanted !== null && !isReached(plan, index, name, leg.wanted, view, instrument)) {
    price = leg.wanted;
    next = withLine(
      withLeg(next, index, name, { price, wanted: null }),
      drafts.facts.now,
      `Step ${index + 1}: ${name} to ${formatPrice(instrument, price)}.`,
      order.id,
    );
  }
  const moves = price !== leg.sent;
  if (moves && name === 'stop' && (leg.missed || isReached(plan, index, name, price, view, instrument))) {
    // One change, so that the order and what closes instead of it can never both fill.
    const quantity = asQuantity(order.filledQuantity + open);
    const terms = closingTerms(instrument, plan.long, quantity, drafts.facts, 'gtc');
    const change: OrderChange =
      terms.type === 'market' ? { type: 'market', quantity } : { type: 'limit', limit: limitPriceOf(terms, order.side, instrument) ?? price, quantity };
    drafts.replace(order, change, terms);
    next = withLeg(next, index, name, { sent: price, missed: false });
    return withLine(withStep(next, index, { fired: true }), drafts.facts.now, `Step ${index + 1}: its stop is reached, closed at market.`, order.id);
  }
  const resizes = remainingQuantity(order) !== open;
  if (!moves && !resizes) return next;
  const change: OrderChange = {
    ...(resizes ? { quantity: asQuantity(order.filledQuantity + open) } : {}),
    ...(moves ? (name === 'stop' ? { stop: price } : { limit: price }) : {}),
  };
  drafts.replace(order, change, { ...legTerms(next, index, name, open), quantity: asQuantity(order.filledQuantity + open) });
  return withLeg(next, index, name, { sent: price });
}

/** Closes a step at market at once. */
export function closedNow(drafts: Drafts, plan: RunningPlan, index: number, why: string, name: LegName = 'stop'): RunningPlan {
  const { facts } = drafts;
  const step = plan.steps[index] as RunningPlan['steps'][number];
  const instrument = facts.instrument(plan.instrument);
  const asked = askedOf(plan, index, name);
  const offset = name === 'stop' ? asked.offsetTicks : null;
  const price = step[name]?.price ?? null;
  const side = closingSide(plan);
  const terms: OrderTerms =
    offset !== null && price !== null
      ? { type: 'limit', limit: addTicks(instrument, price, side === 'sell' ? -offset : offset), restOnly: false, quantity: step.open, lifetime: GTC }
      : closingTerms(instrument, plan.long, step.open, facts, 'gtc');
  return released(drafts, withStep(plan, index, { fired: true }), index, name, terms, `Step ${index + 1}: ${why}`);
}

/** Sends an order that closes a step; what of the step works already is in a group with it, so that both never fill. */
function released(drafts: Drafts, plan: RunningPlan, index: number, name: LegName, terms: OrderTerms, why: string): RunningPlan {
  const order = { ...legOrder(drafts, plan, index, name, terms), group: groupBeside(drafts, plan, index, name) };
  drafts.order(order, order.id);
  const next = withLeg(plan, index, name, { orderId: order.id, sent: plan.steps[index]?.[name]?.price ?? null, missed: false });
  return withLine(next, drafts.facts.now, why, order.id);
}

/** Sends the limit of a target that was touched; its stop goes on protecting. */
export function targetSent(drafts: Drafts, plan: RunningPlan, index: number): RunningPlan {
  const step = plan.steps[index] as RunningPlan['steps'][number];
  const price = step.target?.price as Price;
  const terms: OrderTerms = { type: 'limit', limit: price, restOnly: false, quantity: step.open, lifetime: GTC };
  return released(drafts, plan, index, 'target', terms, `Step ${index + 1}: its target was touched, its limit sent.`);
}

/** A step held here: looked at once where it is armed or moved, then it waits for the rows. */
function here(drafts: Drafts, plan: RunningPlan, index: number): RunningPlan {
  const { state, facts } = drafts;
  const instrument = facts.instrument(plan.instrument);
  const step = plan.steps[index] as RunningPlan['steps'][number];
  const view = facts.view(plan.instrument);
  if (!works(step.stop) && !works(step.target)) return withStep(plan, index, { ended: true, open: asQuantity(0) });
  let next = plan;
  for (const name of ['stop', 'target'] as const) {
    const leg = step[name];
    if (!works(leg) || leg.price === null) continue;
    const order = leg.orderId === null ? null : (state.working.get(leg.orderId)?.order ?? null);
    if (order) next = resizedOrder(drafts, next, index, order);
    else if (view.state === 'open' && (leg.missed || (leg.price !== leg.sent && isReached(plan, index, name, leg.price, view, instrument)))) {
      if (name === 'stop') return closedNow(drafts, next, index, `its stop at ${formatPrice(instrument, leg.price)} is reached: closed.`);
      next = reachedTarget(drafts, next, index);
    } else if (leg.price !== leg.sent) next = withLeg(next, index, name, { sent: leg.price });
  }
  return next;
}

/** What a reached target does: its limit goes, it closes by market, or it begins to trail. */
export function reachedTarget(drafts: Drafts, plan: RunningPlan, index: number): RunningPlan {
  const { order, trail } = askedOf(plan, index, 'target');
  if (trail)
    return withLine(
      withLeg(plan, index, 'target', { touched: true, missed: false }),
      drafts.facts.now,
      `Step ${index + 1}: its target was touched and trails.`,
    );
  return order === 'limit' ? targetSent(drafts, plan, index) : closedNow(drafts, plan, index, 'its target was touched: closed at market.', 'target');
}

/** A target's limit that works for another quantity than the step has by now. */
function resizedOrder(drafts: Drafts, plan: RunningPlan, index: number, order: Order): RunningPlan {
  const { open } = plan.steps[index] as RunningPlan['steps'][number];
  if (order.pendingReplace !== null || order.pendingCancel !== null || remainingQuantity(order) === open) return plan;
  const quantity = asQuantity(order.filledQuantity + open);
  drafts.replace(order, { quantity }, { ...order.terms, quantity });
  return plan;
}

/**
 * A plan's stops as they move with a trade: by their trail, to break-even, by a trailing adjustment. Never looser.
 *
 * @returns the same plan where nothing moves
 */
export function followed(plan: RunningPlan, price: Price, instrument: Instrument): RunningPlan {
  let next = plan;
  const side = closingSide(plan);
  for (const [index, step] of plan.steps.entries()) {
    if (step.open === 0 || step.fired || step.ended) continue;
    const { stop, target } = step;
    if (stop && works(stop)) next = followedStop(next, index, stop, price, side, instrument);
    const trail = target?.touched ? askedOf(plan, index, 'target').trail : null;
    if (target && trail) {
      const trailed = trailedStop(instrument, side, trailFor(trail, step.open), price);
      const at = target.moved ? tighter(side, target.price, trailed) : trailed;
      if (at !== null && (at !== target.price || !target.moved)) next = withLeg(next, index, 'target', { price: at, sent: at, moved: true });
    }
  }
  return next;
}

function followedStop(plan: RunningPlan, index: number, leg: RunningLeg, price: Price, side: Side, instrument: Instrument): RunningPlan {
  const asked = askedOf(plan, index, 'stop');
  const { reference } = plan;
  const step = plan.steps[index] as RunningPlan['steps'][number];
  const quantity = asQuantity(step.open + step.closed);
  const stands = leg.wanted ?? leg.price;
  if (stands === null) return plan;
  const held = plan.plan.heldBy === 'here';
  let at: Price = stands;
  let done = leg.done;
  if (asked.trail && held) at = tighter(side, at, trailedStop(instrument, side, trailFor(asked.trail, quantity), price)) ?? at;
  for (const [i, adjustment] of asked.adjust.entries()) {
    if (!reference || !hasGained(instrument, plan.long, adjustment.afterGain, reference, quantity, price)) continue;
    if (adjustment.kind === 'break-even') {
      if (done.includes(i)) continue;
      done = [...done, i];
      at = tighter(side, at, evenPrice(instrument, plan.long, reference, adjustment.plusTicks)) ?? at;
    } else {
      const trailed = trailedStop(instrument, side, trailFor(adjustment.distance, quantity), price);
      const least = addTicks(instrument, at, (side === 'sell' ? 1 : -1) * adjustment.incrementTicks);
      if (trailed !== null && (side === 'sell' ? trailed >= least : trailed <= least)) at = tighter(side, at, trailed) ?? at;
    }
  }
  if (at === stands && done === leg.done) return plan;
  const moved = at !== stands;
  return withLeg(plan, index, 'stop', { done, ...(moved ? (held ? { price: at, sent: at, moved: true } : { wanted: asPrice(at), moved: true }) : {}) });
}

/** Where a leg's order stands: what was sent, unless it trails by itself. */
export const legStands = (leg: RunningLeg, order: Order | null): Price | null =>
  (order && (stopPriceOf(order.terms) ?? null) !== null && order.terms.type === 'trailing-stop' ? stopPriceOf(order.terms) : null) ??
  (leg.orderId !== null ? (leg.sent ?? leg.price) : leg.price);
