import { inState, isOver, isRunning, legsOf, waitingPlan, withLeg, type ExitPlan } from '../exits/index.ts';
import { asQuantity, formatPrice, parsePrice, sizeOf, type Instrument } from '../instrument/index.ts';
import { isFinished, stopProblem, type Refusal } from '../orders/index.ts';
import { positionOf } from '../portfolio/index.ts';
import { alive, cancelAll } from './cancels.ts';
import { draft, linkDown, type Decision } from './decision.ts';
import { Drafts } from './drafts.ts';
import { consentMissing, exitsHeldOtherwise, planProblems } from './exits.ts';
import type { Facts } from './facts.ts';
import type { Intent } from './intents.ts';
import { refusedEntry } from './place.ts';
import { armed } from './plans.ts';
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
  const problems = [...planProblems(intent.plan, instrument), ...wrongSides(intent.plan, long, instrument, facts)];
  if (problems.length > 0)
    return refuse({ kind: 'validation', errors: problems.map(({ path, message }) => ({ path: `/plan${path}`, message })), ...suggestionOf(problems) });
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

type SideProblem = { readonly path: string; readonly message: string; readonly limit?: string };

/** Absolute prices on the wrong side of the market for what they are to do. */
function wrongSides(plan: ExitPlan, long: boolean, instrument: Instrument, facts: Facts): SideProblem[] {
  const view = facts.view(instrument.id);
  const side = long ? 'sell' : 'buy';
  return plan.steps.flatMap(({ stop }, i): SideProblem[] => {
    const price = stop?.distance.by === 'price' ? parsePrice(instrument, stop.distance.price) : null;
    if (!stop || price === null) return [];
    const wrong = stopProblem({ type: 'stop', stop: price, triggerOn: stop.triggerOn }, side, instrument, view);
    return wrong?.kind === 'validation'
      ? [{ path: `/steps/${i}/stop/value`, message: wrong.errors[0]?.message ?? '', limit: formatPrice(instrument, price) }]
      : [];
  });
}

const suggestionOf = (problems: readonly SideProblem[]): { suggestion?: { type: string; limitPrice: string } } => {
  const limit = problems.find((one) => one.limit !== undefined)?.limit;
  return limit === undefined ? {} : { suggestion: { type: 'limit', limitPrice: limit } };
};

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
