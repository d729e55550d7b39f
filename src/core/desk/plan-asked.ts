import { inState, isOver, isRunning, legsOf, waitingPlan, withLeg, withLine, type LegName, type RunningPlan } from '../exits/index.ts';
import { asQuantity, formatPrice, sizeOf, type Instrument, type Price } from '../instrument/index.ts';
import { invalid, isFinished, stopProblem, type MarketView, type Refusal } from '../orders/index.ts';
import { positionOf } from '../portfolio/index.ts';
import { alive, cancelAll } from './cancels.ts';
import { draft, linkDown, type Decision } from './decision.ts';
import { Drafts } from './drafts.ts';
import { consentMissing, exitsHeldOtherwise, planRefusal } from './exits.ts';
import type { Facts } from './facts.ts';
import type { Intent } from './intents.ts';
import { refusedEntry } from './place.ts';
import { armed, closingSide, isReached } from './plans.ts';
import { workingIn, type AccountState } from './state.ts';

/** Puts a plan on a position that is open. */
export function decidePutPlan(state: AccountState, intent: Intent & { kind: 'put-plan' }, facts: Facts): Decision {
  const instrument = facts.instrument(intent.instrument);
  const position = positionOf(state.book, instrument.id);
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const refuse = (refusal: Refusal): Decision => refusedEntry(state, facts, `exit plan on ${instrument.id}`, intent, instrument.id, null, refusal);
  if (position.quantity === 0) return refuse({ kind: 'conflict', detail: `There is no position in ${instrument.id} to put a plan on.` });
  const running = alive(state, instrument.id).find(isRunning);
  if (running) return refuse({ kind: 'conflict', detail: `The plan ${running.plan.name ?? running.id} runs on ${instrument.id} already. Stop it first.` });
  const long = position.quantity > 0;
  const reference = { quantity: asQuantity(sizeOf(position.quantity)), cost: position.cost };
  const wrong = planRefusal('/plan', intent.plan, long, instrument, facts.view(instrument.id), null);
  if (wrong) return refuse(wrong);
  if (intent.plan.heldBy === 'here' && !facts.consent) return refuse(consentMissing());
  const mixed = exitsHeldOtherwise(state, instrument.id, intent.plan.heldBy);
  if (mixed) return refuse({ kind: 'conflict', detail: mixed });
  const number = state.count + 1;
  const blank = waitingPlan(`${state.terms.id}-p${number}`, state.terms.id, instrument.id, intent.plan, long, null, facts.now);
  const plan = armed(state, { ...blank, entry: reference }, facts);
  const drafts = new Drafts(state, facts, 'user');
  drafts.say(`Exit plan ${plan.id} put on ${instrument.id}.`, { kind: 'plan', plan, number: drafts.take() }, { instrument: instrument.id });
  return { entries: drafts.entries, answer: { kind: 'plan', planId: plan.id } };
}

/** Stops a plan: its closing orders go, position and entry stay. Again is the same. */
export function decideStopPlan(state: AccountState, planId: string, facts: Facts): Decision {
  const plan = state.plans.get(planId);
  const answer = { kind: 'plan', planId } as const;
  if (!plan || isOver(plan)) return { entries: [], answer };
  const legs = [...workingIn(state, plan.instrument)].filter(
    ({ order }) => order.plan === planId && order.step !== null && !isFinished(order) && order.pendingCancel === null,
  );
  if (legs.length > 0 && facts.link === 'down') return linkDown();
  if (legs.length > 0 && facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  const drafts = new Drafts(state, facts, 'user', { inDecision: 0 });
  drafts.entries.push(
    draft(
      state,
      facts.now,
      `Stop the exit plan ${planId}.`,
      { kind: 'group-requested', what: 'stop-plan', instrument: plan.instrument, side: null },
      { instrument: plan.instrument },
    ),
  );
  drafts.stopPlans([plan], 'by the trader.');
  cancelAll(drafts, legs, 'plan-stopped');
  return { entries: drafts.entries, answer };
}

/** Answers a plan that asks what to do about a level that was passed while it could not fire. */
export function decideAnswerPlan(state: AccountState, intent: Intent & { kind: 'answer-plan' }, facts: Facts): Decision {
  const plan = state.plans.get(intent.planId);
  const refuse = (refusal: Refusal): Decision => refusedEntry(state, facts, `answer to ${intent.planId}`, intent, plan?.instrument ?? null, null, refusal);
  if (plan?.state !== 'asking') return refuse({ kind: 'conflict', detail: 'The plan does not ask.', ...(plan ? { state: plan.state } : {}) });
  const drafts = new Drafts(state, facts, 'user');
  let next = inState(
    plan,
    state.cutOffSince === null ? 'armed' : 'suspended',
    facts.now,
    intent.act === 'fire' ? 'Answered: it fires.' : 'Answered: it waits until the level is passed anew.',
  );
  for (const { index, name, leg } of legsOf(plan)) {
    if (!leg.missed) continue;
    next = withLeg(next, index, name, intent.act === 'fire' ? { missed: true } : { missed: false, ignored: true });
  }
  drafts.plan(next, `Exit plan ${plan.id} of ${plan.instrument}: answered, ${intent.act === 'fire' ? 'it fires' : 'it waits on'}.`);
  return { entries: drafts.entries, answer: { kind: 'plan', planId: plan.id } };
}

/** Moves a leg that waits here, as a working order is changed; a leg that is an order is changed as that order. */
export function decideMoveLeg(state: AccountState, intent: Intent & { kind: 'move-leg' }, facts: Facts): Decision {
  const { planId, step: index, leg: name, price } = intent;
  const plan = state.plans.get(planId);
  const instrument = plan ? facts.instrument(plan.instrument) : null;
  const refuse = (refusal: Refusal): Decision => refusedEntry(state, facts, `move of a leg of ${planId}`, intent, plan?.instrument ?? null, null, refusal);
  const conflict = (detail: string): Decision => refuse({ kind: 'conflict', detail, ...(plan ? { state: plan.state } : {}) });
  if (!plan || !instrument) return conflict('There is no such plan.');
  const step = plan.steps[index];
  const leg = step?.[name];
  if (!step) return refuse(invalid('/step', `the plan has ${plan.steps.length} steps; accepted: 0 to ${plan.steps.length - 1}`));
  if (!leg) return refuse(invalid('/leg', `step ${index} has no ${name}`));
  if (plan.state !== 'armed' && plan.state !== 'suspended') return conflict(`The plan is ${plan.state}.`);
  if (leg.orderId !== null) return conflict(`Its ${name} is the order ${leg.orderId}. Change that.`);
  if (plan.plan.heldBy === 'venue' || leg.over || step.fired || step.ended || step.open === 0) return conflict(`Its ${name} waits no more.`);
  const wrong = legProblem(plan, index, name, price, instrument, facts.view(plan.instrument));
  if (wrong) return refuse(wrong);
  const drafts = new Drafts(state, facts, 'user');
  const said = `${name} to ${formatPrice(instrument, price)}`;
  const moved = withLeg(plan, index, name, { price, moved: true, missed: false, ignored: false });
  drafts.plan(withLine(moved, facts.now, `Step ${index + 1}: ${said} by the trader.`), `Exit plan ${plan.id} of ${plan.instrument}: ${said}.`);
  return { entries: drafts.entries, answer: { kind: 'plan', planId } };
}

/** Why a leg can't wait at a price: the market is there already. */
function legProblem(plan: RunningPlan, index: number, name: LegName, price: Price, instrument: Instrument, view: MarketView): Refusal | null {
  if (!isReached(plan, index, name, price, view, instrument)) return null;
  if (name === 'target') return invalid('/price', `the market is at ${formatPrice(instrument, price)} already; a target lies beyond it`);
  const triggerOn = plan.plan.steps[index]?.stop?.triggerOn ?? 'last';
  const problem = stopProblem({ type: 'stop', stop: price, triggerOn }, closingSide(plan), instrument, view);
  return problem?.kind === 'validation' ? { ...problem, errors: problem.errors.map((one) => ({ ...one, path: '/price' })) } : null;
}
