import { sizeOf, type Instrument, type Price } from '../instrument/index.ts';
import { absolute, minus, type Money } from '../number/index.ts';
import { isRunning } from '../exits/index.ts';
import { isFinished, stopPriceOf, type Order } from '../orders/index.ts';
import { valueAt } from '../portfolio/index.ts';
import { plansIn, workingIn, type AccountState } from './state.ts';

/** What a position risked when a stop first worked for it, in what its instrument settles in. */
export interface FirstRisk {
  readonly long: boolean;
  readonly risk: Money;
}

const waitsAsStop = (order: Order): boolean => order.triggeredAt === null && (order.acknowledged === 'accepted' || order.heldBy === 'here');

/** The prices at which stops wait for a position: at the venue, held here as orders, and held here by plans. */
function* stopsAtWork(state: AccountState, id: string, long: boolean): Generator<Price, void> {
  for (const { order } of workingIn(state, id)) {
    const stop = stopPriceOf(order.terms);
    if (stop !== null && !order.opening && (order.side === 'sell') === long && waitsAsStop(order) && !isFinished(order)) yield stop;
  }
  for (const plan of plansIn(state, id)) {
    if (plan.plan.heldBy === 'venue' || !isRunning(plan)) continue;
    for (const { stop, open, fired, ended } of plan.steps)
      if (stop && !stop.over && stop.price !== null && stop.orderId === null && !fired && !ended && open > 0) yield stop.price;
  }
}

/**
 * Notes the first risk of an instrument's position: |average − stop| × quantity × multiplier at the first moment a stop
 * works for it, of several the nearest. It ends with the position.
 */
export function noteFirstRisk(state: AccountState, id: string, instrumentOf: (id: string) => Instrument): void {
  const position = state.book.positions[id];
  if (!position || position.quantity === 0) {
    state.firstRisks.delete(id);
    return;
  }
  const long = position.quantity > 0;
  if (state.firstRisks.get(id)?.long === long) return;
  state.firstRisks.delete(id);
  let nearest: Money | null = null;
  for (const stop of stopsAtWork(state, id, long)) {
    const risk = absolute(minus(position.cost, valueAt(instrumentOf(id), sizeOf(position.quantity), stop)));
    if (nearest === null || risk < nearest) nearest = risk;
  }
  if (nearest !== null) state.firstRisks.set(id, { long, risk: nearest });
}
