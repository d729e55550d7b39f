import { isRunning, type RunningPlan } from '../exits/index.ts';
import { sizeOf, type Instrument, type Price } from '../instrument/index.ts';
import { absolute, minus, type Money } from '../number/index.ts';
import { isFinished, stopPriceOf, type Order } from '../orders/index.ts';
import { valueAt, type Position } from '../portfolio/index.ts';

const waitsAsStop = (order: Order): boolean =>
  order.triggeredAt === null && !isFinished(order) && (order.acknowledged === 'accepted' || order.heldBy === 'here');

/** The prices at which stops wait for a position: at the venue, held here as orders, and held here by plans. */
function* stopsAtWork(long: boolean, orders: Iterable<Order>, plans: Iterable<RunningPlan>): Generator<Price, void> {
  for (const order of orders) {
    const stop = stopPriceOf(order.terms);
    if (stop !== null && !order.opening && (order.side === 'sell') === long && waitsAsStop(order)) yield stop;
  }
  for (const plan of plans) {
    if (plan.plan.heldBy === 'venue' || !isRunning(plan)) continue;
    for (const { stop, open, fired, ended } of plan.steps)
      if (stop && !stop.over && stop.price !== null && stop.orderId === null && !fired && !ended && open > 0) yield stop.price;
  }
}

/**
 * |average − stop| × quantity × multiplier of an open position, of several stops the nearest.
 *
 * @returns in what the instrument settles in; null where no stop works for it
 */
export function firstRiskOf(instrument: Instrument, position: Position, orders: Iterable<Order>, plans: Iterable<RunningPlan>): Money | null {
  let nearest: Money | null = null;
  for (const stop of stopsAtWork(position.quantity > 0, orders, plans)) {
    const risk = absolute(minus(position.cost, valueAt(instrument, sizeOf(position.quantity), stop)));
    if (nearest === null || risk < nearest) nearest = risk;
  }
  return nearest;
}
