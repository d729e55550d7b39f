import { NO_QUANTITY, asQuantity, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { NO_MONEY, type Money } from '../number/index.ts';
import type { ExitPlan, LegName } from './plan.ts';
import { legPrice, type Reference } from './price.ts';
import { cutFromLast, shareOut } from './share.ts';

export const PLAN_STATES = ['waiting', 'armed', 'suspended', 'asking', 'done', 'stopped'] as const;
export type PlanState = (typeof PLAN_STATES)[number];
export const STEP_STATES = ['waiting', 'armed', 'fired', 'done', 'canceled'] as const;
export type StepState = (typeof STEP_STATES)[number];

/** A leg of a plan that runs. */
export interface RunningLeg {
  /** Where it is to stand; null before the plan is armed, and where there is no such price. */
  readonly price: Price | null;
  /** The price its working order was last asked for; null without an order. */
  readonly sent: Price | null;
  readonly orderId: string | null;
  /** The trader or an adjustment moved it: a later fill of the entry does not move it back. */
  readonly moved: boolean;
  /** A price that an adjustment wants and the venue would not take yet. */
  readonly wanted: Price | null;
  /** The change that the trader asked for and the venue has not answered. */
  readonly asked: string | null;
  /** Adjustments that count once and have. */
  readonly done: readonly number[];
  /** It has ended: taken back by the trader, or refused by the venue. */
  readonly over: boolean;
  /** A target that trails was touched, and follows from then on. */
  readonly touched: boolean;
  /** Its level was passed while it could not fire. */
  readonly missed: boolean;
  /** A passed level that the trader chose to leave: it counts again once it was left. */
  readonly ignored: boolean;
}

export interface RunningStep {
  /** Still open. */
  readonly open: Quantity;
  readonly closed: Quantity;
  /** Its closing order is under way: nothing else fires. */
  readonly fired: boolean;
  /** It has ended for good: both legs were taken back, or it has closed what it had. */
  readonly ended: boolean;
  readonly stop: RunningLeg | null;
  readonly target: RunningLeg | null;
}

export interface PlanLine {
  readonly time: number;
  readonly text: string;
  readonly orderId: string | null;
}

/** A plan at work, a copy of its own: later changes of the saved one touch nothing. */
export interface RunningPlan {
  readonly id: string;
  readonly account: string;
  readonly instrument: string;
  readonly plan: ExitPlan;
  /** What it leaves: a long position, or a short one. */
  readonly long: boolean;
  readonly entryOrderId: string | null;
  /** What the entry has filled so far, with its value. */
  readonly entry: Reference;
  readonly reference: Reference | null;
  /** What the steps were last shared out for. */
  readonly sharedFor: { readonly entry: Quantity; readonly position: Quantity };
  readonly state: PlanState;
  readonly since: number;
  readonly steps: readonly RunningStep[];
  readonly log: readonly PlanLine[];
  /** How often its position has been flat while its entry worked on; left out of plans that were written before it was counted. */
  readonly round?: number;
  /** The trades up to here it has followed for good: those after are looked at again after a restart. */
  readonly judgedUpTo: number;
}

const NEW_LEG: RunningLeg = {
  price: null,
  sent: null,
  orderId: null,
  moved: false,
  wanted: null,
  asked: null,
  done: [],
  over: false,
  touched: false,
  missed: false,
  ignored: false,
};

const LOG_LINES = 200;

/** A plan before anything is filled. */
export function waitingPlan(
  id: string,
  account: string,
  instrument: string,
  plan: ExitPlan,
  long: boolean,
  entryOrderId: string | null,
  now: number,
): RunningPlan {
  return {
    id,
    account,
    instrument,
    plan,
    long,
    entryOrderId,
    entry: { quantity: NO_QUANTITY, cost: NO_MONEY },
    reference: null,
    sharedFor: { entry: NO_QUANTITY, position: NO_QUANTITY },
    state: 'waiting',
    since: now,
    steps: plan.steps.map(({ stop, target }) => ({
      open: NO_QUANTITY,
      closed: NO_QUANTITY,
      fired: false,
      ended: false,
      stop: stop && NEW_LEG,
      target: target && NEW_LEG,
    })),
    log: [],
    judgedUpTo: now,
  };
}

export const isRunning = ({ state }: RunningPlan): boolean => state === 'armed' || state === 'suspended' || state === 'asking';
export const isOver = ({ state }: RunningPlan): boolean => state === 'done' || state === 'stopped';

export const stepState = (plan: RunningPlan, step: RunningStep): StepState => {
  if (plan.state === 'waiting') return 'waiting';
  if (step.open === 0) return step.closed > 0 ? 'done' : 'canceled';
  if (step.ended || plan.state === 'stopped') return 'canceled';
  return step.fired ? 'fired' : 'armed';
};

export const openOf = ({ steps }: RunningPlan): Quantity => asQuantity(steps.reduce((sum, { open }) => sum + open, 0));

export const withLine = (plan: RunningPlan, time: number, text: string, orderId: string | null = null): RunningPlan => ({
  ...plan,
  log: [...plan.log, { time, text, orderId }].slice(-LOG_LINES),
});

/** The plan in another state, with the line that says so. */
export const inState = (plan: RunningPlan, state: PlanState, time: number, text: string): RunningPlan => ({
  ...withLine(plan, time, text),
  state,
  since: time,
});

export function withStep(plan: RunningPlan, index: number, change: Partial<RunningStep>): RunningPlan {
  return { ...plan, steps: plan.steps.map((step, i) => (i === index ? { ...step, ...change } : step)) };
}

export function withLeg(plan: RunningPlan, index: number, name: LegName, change: Partial<RunningLeg>): RunningPlan {
  const leg = plan.steps[index]?.[name];
  return leg ? withStep(plan, index, { [name]: { ...leg, ...change } }) : plan;
}

/** Each leg of the plan with where it stands. */
export function* legsOf(
  plan: RunningPlan,
): Generator<{ readonly index: number; readonly name: LegName; readonly step: RunningStep; readonly leg: RunningLeg }, void> {
  for (const [index, step] of plan.steps.entries())
    for (const name of ['stop', 'target'] as const) {
      const leg = step[name];
      if (leg) yield { index, name, step, leg };
    }
}

/** Which steps still take part when quantities are shared anew. */
const takesPart = (step: RunningStep): boolean => !step.ended && !step.fired && !(step.open === 0 && step.closed > 0);

function withOpen(plan: RunningPlan, quantities: ReadonlyMap<number, Quantity>): RunningPlan {
  return { ...plan, steps: plan.steps.map((step, i) => ({ ...step, open: quantities.get(i) ?? step.open })) };
}

function shared(plan: RunningPlan, total: Quantity): RunningPlan {
  const part = [...plan.steps.entries()].filter(([, step]) => takesPart(step)).map(([i]) => i);
  const fixed = plan.steps.reduce((sum, step) => sum + (step.fired ? step.open : 0), 0);
  const quantity = asQuantity(Math.max(0, total - fixed));
  const quantities = shareOut(
    quantity,
    part.map((i) => plan.plan.steps[i]?.share ?? 0n),
  );
  return withOpen(plan, new Map(part.map((i, at) => [i, quantities[at] ?? NO_QUANTITY])));
}

/**
 * Shares out anew where fills came that are not the plan's own (exact rules *Exits* 3 to 5).
 *
 * @param position the quantity that the plan can leave, never negative
 */
export function resized(plan: RunningPlan, position: Quantity, instrument: Instrument): RunningPlan {
  const grown = plan.entry.quantity - plan.sharedFor.entry;
  const before = openOf(plan);
  const outside = position !== plan.sharedFor.position + grown;
  let next = plan;
  if (grown > 0) next = repriced(shared(plan, asQuantity(Math.min(before + grown, position))), plan.entry, instrument);
  if (outside && plan.plan.onSizeChange === 'follow') next = shared(next, position);
  else if (openOf(next) > position) {
    const quantities = cutFromLast(
      next.steps.map(({ open }) => open),
      position,
    );
    next = withOpen(next, new Map(quantities.map((quantity, i) => [i, quantity])));
  }
  return { ...next, sharedFor: { entry: plan.entry.quantity, position } };
}

/** Every leg that nobody moved at its distance from a reference. */
export function repriced(plan: RunningPlan, reference: Reference, instrument: Instrument): RunningPlan {
  let next: RunningPlan = { ...plan, reference };
  for (const { index, name, step, leg } of legsOf(plan)) {
    const asked = plan.plan.steps[index]?.[name];
    const quantity = asQuantity(step.open + step.closed);
    if (!asked || leg.moved || leg.over || quantity === 0) continue;
    next = withLeg(next, index, name, { price: legPrice(instrument, plan.long, name, asked.distance, reference, quantity) });
  }
  return next;
}

/** A closing of a step's own, noted. What goes beyond the step's part, because its cut came too late, is the others' loss. */
export function withOwnFill(plan: RunningPlan, index: number, quantity: Quantity): RunningPlan {
  const step = plan.steps[index];
  if (!step) return plan;
  const own = Math.min(quantity, step.open);
  const next = withStep(plan, index, { open: asQuantity(step.open - own), closed: asQuantity(step.closed + quantity) });
  return { ...next, sharedFor: { ...plan.sharedFor, position: asQuantity(plan.sharedFor.position - own) } };
}

/** A fill of the entry, noted. `value` is the fill's, in what the instrument settles in. */
export const withEntryFill = (plan: RunningPlan, quantity: Quantity, value: Money): RunningPlan => ({
  ...plan,
  entry: { quantity: asQuantity(plan.entry.quantity + quantity), cost: (plan.entry.cost + value) as Money },
});
