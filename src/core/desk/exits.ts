import { isOver, priceProblem, type ExitPlan, type Leg, type PlanProblem } from '../exits/index.ts';
import { formatPrice, parsePrice, venueOrderTypes, type Instrument, type Price } from '../instrument/index.ts';
import { isHere, stopProblem, type Holder, type MarketView, type Order, type Refusal } from '../orders/index.ts';
import { plansIn, workingIn, type AccountState } from './state.ts';

export const consentMissing = (): Refusal => ({
  kind: 'conflict',
  needs: 'held-here',
  detail: 'What is held here runs in Kavix, not at the venue: while Kavix, its link or its prices are down it does not fire. It needs your consent once.',
});

/** Whether a working order protects or ends a position by waiting: stops that reduce, and reducing limits held here. */
export const isExit = (order: Order): boolean =>
  !order.opening &&
  (order.terms.type === 'stop' ||
    order.terms.type === 'stop-limit' ||
    order.terms.type === 'trailing-stop' ||
    (order.terms.type === 'limit' && order.heldBy === 'here'));

/** What exits of an instrument are held by the other, in words that say what to stop first; null where none is (exact rule *Exits* 8). */
export function exitsHeldOtherwise(state: AccountState, instrument: string, holder: Holder): string | null {
  const where = (by: Holder): string => (by === 'here' ? 'here' : 'at the venue');
  const other: Holder = holder === 'here' ? 'venue' : 'here';
  for (const plan of plansIn(state, instrument))
    if (!isOver(plan) && plan.plan.heldBy === other)
      return `The exit plan ${plan.plan.name ?? plan.id} of ${instrument} is held ${where(other)}; exits of one instrument are held here or at the venue. Stop it first.`;
  for (const { order } of workingIn(state, instrument))
    if (order.step === null && isExit(order) && order.heldBy === other && (other === 'venue' || isHere(order)))
      return `The order ${order.id} is an exit of ${instrument} held ${where(other)}; exits of one instrument are held here or at the venue. Cancel it first.`;
  return null;
}

/**
 * Why a plan can't be had: an instrument or its venue has no such thing, or a stop typed as a price lies on the wrong side
 * (exact rules *Exits* 6): of the market where there is a position, or is one at once, else of the price its entry waits at.
 *
 * @param path where the plan stands in what was asked
 */
export function planRefusal(path: string, plan: ExitPlan, long: boolean, instrument: Instrument, view: MarketView, entry: Price | null): Refusal | null {
  const sides = plan.steps.map(({ stop }) => (stop ? sideProblem(stop, long, instrument, view, entry) : null));
  const wrong = sides.flatMap((message, i): PlanProblem[] => (message === null ? [] : [{ path: `/steps/${i}/stop/value`, message }]));
  const problems = [...planProblems(plan, instrument), ...wrong];
  if (problems.length === 0) return null;
  const first = plan.steps[sides.findIndex((message) => message !== null)]?.stop?.distance;
  return {
    kind: 'validation',
    errors: problems.map((problem) => ({ path: path + problem.path, message: problem.message })),
    ...(first?.by === 'price' ? { suggestion: { type: 'limit', limitPrice: first.price } } : {}),
  };
}

function sideProblem({ distance, triggerOn }: Leg, long: boolean, instrument: Instrument, view: MarketView, entry: Price | null): string | null {
  const stop = distance.by === 'price' ? parsePrice(instrument, distance.price) : null;
  if (stop === null) return null;
  const side = long ? 'sell' : 'buy';
  if (entry === null) {
    const wrong = stopProblem({ type: 'stop', stop, triggerOn }, side, instrument, view);
    return wrong?.kind === 'validation' ? (wrong.errors[0]?.message ?? null) : null;
  }
  if (long ? stop < entry : stop > entry) return null;
  return `a ${side} stop at ${formatPrice(instrument, stop)} must be ${long ? 'below' : 'above'} the price its entry waits at, ${formatPrice(instrument, entry)}`;
}

/** What of a plan an instrument or its venue can't have. Paths count from the plan. */
function planProblems(plan: ExitPlan, instrument: Instrument): PlanProblem[] {
  const problems: PlanProblem[] = [];
  const takes = venueOrderTypes(instrument.venue, instrument.kind);
  for (const [i, step] of plan.steps.entries())
    for (const name of ['stop', 'target'] as const) {
      const leg = step[name];
      if (!leg) continue;
      const wrong = priceProblem(instrument, leg.distance);
      if (wrong !== null) problems.push({ path: `/steps/${i}/${name}/value`, message: wrong });
      for (const [n, { afterGain }] of leg.adjust.entries()) {
        const gain = priceProblem(instrument, afterGain);
        if (gain !== null) problems.push({ path: `/steps/${i}/${name}/adjust/${n}/afterGain/value`, message: gain });
      }
      if (plan.heldBy === 'here' || name === 'target') continue;
      const type = leg.trail ? 'trailing-stop' : leg.order === 'limit' ? 'stop-limit' : 'stop';
      if (takes.includes(type)) continue;
      if (takes.includes('stop-limit') && !leg.trail)
        problems.push({ path: `/steps/${i}/stop/order`, message: `${instrument.venue} takes stops that close by limit only; accepted: limit` });
      else problems.push({ path: '/heldBy', message: `${instrument.venue} takes no ${type} orders for ${instrument.id}; accepted: here` });
    }
  return problems;
}
