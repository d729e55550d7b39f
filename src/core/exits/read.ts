import { formatScaled, moneyOf, parseScaled } from '../number/index.ts';
import { readTrail, type Trail, type TrailText, type TriggerSource } from '../market/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import { type Adjustment, type Distance, type ExitPlan, type Leg, type LegName, type Measure, type Step } from './plan.ts';

interface DistanceText {
  readonly by: Measure;
  readonly value: string;
}

type AdjustmentText =
  | { readonly kind: 'break-even'; readonly afterGain: DistanceText; readonly plusTicks: number }
  | { readonly kind: 'trail'; readonly afterGain: DistanceText; readonly distance: TrailText; readonly incrementTicks: number };

interface LegText extends DistanceText {
  readonly order: Leg['order'];
  readonly limitOffsetTicks?: number | null;
  readonly triggerOn?: TriggerSource;
  readonly trail?: TrailText | null;
  readonly adjust?: readonly AdjustmentText[];
}

/** A plan as it comes: decimal strings, its shape already checked by the schema. */
export interface ExitPlanText {
  readonly name?: string | null;
  readonly heldBy: ExitPlan['heldBy'];
  readonly onSizeChange: ExitPlan['onSizeChange'];
  readonly onMissedLevel: ExitPlan['onMissedLevel'];
  readonly steps: readonly { readonly share: string; readonly stop?: LegText | null; readonly target?: LegText | null }[];
  readonly setup?: string | undefined;
}

export interface PlanProblem {
  readonly path: string;
  readonly message: string;
}

type Note = (path: string, message: string) => void;

const MOST_TICKS = 100_000;
const HUNDRED = 10n ** 10n;
const MOST_PERCENT = 1000n * 10n ** 8n;

/** Reads a plan: its figures, what sums to 100, and what can be held where. All problems at once; paths count from the plan. */
export function readExitPlan(text: ExitPlanText, byName = false): Result<ExitPlan, readonly PlanProblem[]> {
  const problems: PlanProblem[] = [];
  const note: Note = (path, message) => void problems.push({ path, message });
  const steps = text.steps.map((step, i): Step => {
    const at = `/steps/${i}`;
    const share = parseScaled(step.share, 8);
    if (share === null || share <= 0n) note(`${at}/share`, 'must be above 0 with at most 8 decimals');
    if (!step.stop && !step.target) note(at, 'needs a stop, a target or both');
    return {
      share: share ?? 0n,
      stop: readLeg('stop', `${at}/stop`, step.stop, text, note),
      target: readLeg('target', `${at}/target`, step.target, text, note),
    };
  });
  const sum = steps.reduce((total, { share }) => total + share, 0n);
  if (sum !== HUNDRED) note('/steps', `the shares sum to ${formatScaled(sum, 8, 0)}; they must sum to 100`);
  const { heldBy, onSizeChange, onMissedLevel, name = null, setup } = text;
  return problems.length > 0
    ? refused(problems)
    : accepted({ name, byName, heldBy, onSizeChange, onMissedLevel, steps, ...(setup === undefined ? {} : { setup }) });
}

function readLeg(name: LegName, path: string, text: LegText | null | undefined, plan: ExitPlanText, note: Note): Leg | null {
  if (!text) return null;
  const { order, limitOffsetTicks = null, triggerOn = 'last', adjust = [] } = text;
  if (limitOffsetTicks !== null && (name === 'target' || order === 'market')) note(`${path}/limitOffsetTicks`, 'goes with a stop that closes by limit only');
  if (name === 'target' && adjust.length > 0) note(`${path}/adjust`, 'only a stop is adjusted');
  const trail = !text.trail ? null : readTrail(text.trail, (message) => note(`${path}/trail/value`, message));
  if (plan.heldBy === 'venue') {
    if (name === 'target' && order === 'market') note(`${path}/order`, 'a target by market is held here only; accepted at the venue: limit');
    if (name === 'target' && text.trail) note(`${path}/trail`, 'a target that trails is held here only');
    if (name === 'stop' && text.trail && order === 'limit') note(`${path}/order`, 'a stop that trails closes by market at the venue');
  }
  return {
    distance: readDistance(path, text, note, name === 'stop'),
    order,
    offsetTicks: name === 'stop' && order === 'limit' ? (limitOffsetTicks ?? 0) : null,
    triggerOn,
    trail,
    adjust: adjust.map((one, i) => readAdjustment(`${path}/adjust/${i}`, one, note)),
  };
}

function readDistance(path: string, { by, value }: DistanceText, note: Note, loses = false): Distance {
  const fine = parseScaled(value, 8);
  if (fine === null || fine <= 0n) note(`${path}/value`, 'must be above 0 with at most 8 decimals');
  switch (by) {
    case 'ticks': {
      const ticks = Number(value);
      if (fine !== null && fine > 0n && (!Number.isInteger(ticks) || ticks > MOST_TICKS))
        note(`${path}/value`, `must be a whole number of ticks, at most ${MOST_TICKS}`);
      return { by, ticks };
    }
    case 'percent':
      if (fine !== null && fine >= (loses ? HUNDRED : MOST_PERCENT)) note(`${path}/value`, `must be below ${loses ? 100 : 1000} percent`);
      return { by, percent: fine ?? 0n };
    case 'money':
      return { by, value: moneyOf(fine ?? 0n) };
    case 'price':
      return { by, price: value };
    default:
      return by satisfies never;
  }
}

function readAdjustment(path: string, text: AdjustmentText, note: Note): Adjustment {
  const afterGain = readDistance(`${path}/afterGain`, text.afterGain, note);
  if (text.kind === 'break-even') return { kind: text.kind, afterGain, plusTicks: text.plusTicks };
  const distance = readTrail(text.distance, (message) => note(`${path}/distance/value`, message));
  return { kind: text.kind, afterGain, distance: distance ?? { unit: 'ticks', ticks: 1 }, incrementTicks: text.incrementTicks };
}

const trailText = (trail: Trail): TrailText => {
  switch (trail.unit) {
    case 'ticks':
      return { unit: trail.unit, value: String(trail.ticks) };
    case 'percent':
      return { unit: trail.unit, value: formatScaled(trail.percent, 8, 0) };
    case 'money':
      return { unit: trail.unit, value: formatScaled(trail.value, 8, 0) };
    default:
      return trail satisfies never;
  }
};

function distanceText(distance: Distance): DistanceText {
  switch (distance.by) {
    case 'ticks':
      return { by: distance.by, value: String(distance.ticks) };
    case 'percent':
      return { by: distance.by, value: formatScaled(distance.percent, 8, 0) };
    case 'money':
      return { by: distance.by, value: formatScaled(distance.value, 8, 0) };
    case 'price':
      return { by: distance.by, value: distance.price };
    default:
      return distance satisfies never;
  }
}

function legText(leg: Leg) {
  const adjust = leg.adjust.map((one): AdjustmentText =>
    one.kind === 'break-even'
      ? { kind: one.kind, afterGain: distanceText(one.afterGain), plusTicks: one.plusTicks }
      : { kind: one.kind, afterGain: distanceText(one.afterGain), distance: trailText(one.distance), incrementTicks: one.incrementTicks },
  );
  return {
    ...distanceText(leg.distance),
    order: leg.order,
    limitOffsetTicks: leg.offsetTicks,
    triggerOn: leg.triggerOn,
    trail: leg.trail && trailText(leg.trail),
    adjust,
  };
}

/** A plan as it is told and saved; {@link readExitPlan} reads it back. */
export const exitPlanText = ({ name, heldBy, onSizeChange, onMissedLevel, steps, setup }: ExitPlan) => ({
  name,
  heldBy,
  onSizeChange,
  onMissedLevel,
  steps: steps.map(({ share, stop, target }) => ({ share: formatScaled(share, 8, 0), stop: stop && legText(stop), target: target && legText(target) })),
  ...(setup === undefined ? {} : { setup }),
});
