import type { Entry, EntryData } from '../desk/index.ts';
import { isOver, type RunningPlan } from '../exits/index.ts';
import type { Instrument, Price } from '../instrument/index.ts';
import { applyReport, isFinished, limitPriceOf, stopPriceOf, type Order, type OrderReport } from '../orders/index.ts';

/** A price at which an exit stood for a while. */
export interface ExitLevel {
  readonly kind: 'stop' | 'target';
  readonly price: Price;
  readonly from: number;
  readonly to: number;
}

type Said = Pick<Entry, 'time' | 'data'>;
type Standing = Pick<ExitLevel, 'kind'> & { readonly price: Price | null };

/** Of an order that only closes: a stop where it waits for one, else the price it is to leave at. */
function standingOf(order: Order, instrument: Instrument): Standing | null {
  if (!order.reduceOnly && order.role !== 'stop' && order.role !== 'target') return null;
  const stop = stopPriceOf(order.terms);
  const kind = stop !== null || order.role === 'stop' ? 'stop' : 'target';
  return { kind, price: isFinished(order) ? null : (stop ?? limitPriceOf(order.terms, order.side, instrument)) };
}

/** Of a plan what waits here: what stands at the venue is told by its orders. */
function* standingIn(plan: RunningPlan): Generator<readonly [key: string, standing: Standing]> {
  for (const [at, step] of plan.steps.entries())
    for (const kind of ['stop', 'target'] as const) {
      const leg = step[kind];
      const waits = leg !== null && !isOver(plan) && !step.ended && !step.fired && !leg.over && leg.orderId === null;
      yield [`${plan.id} ${at} ${kind}`, { kind, price: waits ? leg.price : null }];
    }
}

const reportIn = (data: EntryData): { readonly orderId: string; readonly report: OrderReport } | null =>
  data.kind === 'order-report' || data.kind === 'order-adjusted' || data.kind === 'order-released' ? data : null;

/**
 * Where the exits of an instrument stood over time, as the activity tells it: those of orders, which count from when
 * they were asked for, and those of plans that are held here.
 *
 * @param entries of one account and the instrument, oldest first
 * @param opened,closed ms: levels are told for what of them lies between
 */
export function exitLevels(instrument: Instrument, entries: Iterable<Said>, opened: number, closed: number): ExitLevel[] {
  const orders = new Map<string, Order>();
  const standing = new Map<string, { readonly kind: ExitLevel['kind']; readonly price: Price; readonly from: number }>();
  const levels: ExitLevel[] = [];
  const end = (key: string, at: number): void => {
    const was = standing.get(key);
    standing.delete(key);
    if (!was) return;
    const [from, to] = [Math.max(opened, was.from), Math.min(closed, at)];
    if (to > from) levels.push({ ...was, from, to });
  };
  const stand = (key: string, { kind, price }: Standing, at: number): void => {
    if (standing.get(key)?.price === price) return;
    end(key, at);
    if (price !== null) standing.set(key, { kind, price, from: at });
  };
  const follow = (order: Order, time: number): void => {
    orders.set(order.id, order);
    const now = standingOf(order, instrument);
    if (now) stand(order.id, now, time);
  };
  for (const { time, data } of entries) {
    if (data.kind === 'order-requested' || data.kind === 'order-opened') follow(data.order, time);
    else if (data.kind === 'plan') for (const [key, now] of standingIn(data.plan)) stand(key, now, time);
    const said = reportIn(data);
    const order = said && orders.get(said.orderId);
    if (said && order) follow(applyReport(order, said.report, time), time);
  }
  for (const key of [...standing.keys()]) end(key, closed);
  return levels.sort((a, b) => a.from - b.from || a.to - b.to);
}
