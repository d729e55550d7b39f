import { atom, map } from 'nanostores';
import { readOrder, type LiveOrder } from './read.ts';
import type { ApiOrder } from './shapes.ts';

/** The day's orders: those that work, and the newest of those that are done, in the order they were made. */
export interface OrderBook {
  readonly all: ReadonlyMap<string, LiveOrder>;
  /** The one that is new or has changed; null for a snapshot. */
  readonly changed: LiveOrder | null;
}

const all = new Map<string, LiveOrder>();
export const $orders = atom<OrderBook>({ all, changed: null });
/** Orders that work, by account and instrument, in the order they were made: views follow the key they show. */
export const $working = map<Record<string, readonly LiveOrder[]>>({});

/** Done orders that a window keeps. */
const MOST_DONE = 5000;
const PRUNED_AT = MOST_DONE + 500;
const TERMINAL = new Set(['filled', 'canceled', 'rejected', 'expired']);
export const NO_ORDERS: readonly LiveOrder[] = [];

export const isWorking = (order: ApiOrder): boolean => !TERMINAL.has(order.state);
const keyOf = ({ account, instrument }: ApiOrder): string => `${account} ${instrument}`;
const byTime = (a: ApiOrder, b: ApiOrder): number => (a.createdAt < b.createdAt ? -1 : a.createdAt > b.createdAt ? 1 : a.id < b.id ? -1 : 1);

let done = 0;

/** Takes a snapshot: all orders anew. */
export function takeOrders(orders: readonly ApiOrder[]): void {
  const working: Record<string, LiveOrder[]> = {};
  all.clear();
  done = 0;
  for (const order of orders.map((order) => readOrder(order)).sort(byTime)) {
    all.set(order.id, order);
    if (isWorking(order)) (working[keyOf(order)] ??= []).push(order);
    else done++;
  }
  $working.set(working);
  prune();
  $orders.set({ all, changed: null });
}

/** Takes an order that is new or has changed. */
export function takeOrder(told: ApiOrder): void {
  const order = readOrder(told);
  const before = all.get(order.id);
  if (before && !isWorking(before)) done--;
  if (!isWorking(order)) done++;
  all.set(order.id, order);
  const key = keyOf(order);
  const rest = ($working.get()[key] ?? NO_ORDERS).filter(({ id }) => id !== order.id);
  if (isWorking(order)) $working.setKey(key, [...rest, order].sort(byTime));
  else if (before && isWorking(before)) $working.setKey(key, rest);
  prune();
  $orders.set({ all, changed: order });
}

/** A long day holds the newest of what is done; the rest is on the server. */
function prune(): void {
  if (done < PRUNED_AT) return;
  for (const [id, order] of all) {
    if (done <= MOST_DONE) return;
    if (isWorking(order)) continue;
    all.delete(id);
    done--;
  }
}
