import type { Price } from '../instrument/index.ts';
import type { StopOrder } from './book-order.ts';
import { PriceLevels } from './price-levels.ts';
import type { Side } from './tape-row.ts';
import type { TriggerSource } from './trigger.ts';

export type WaitingStop = StopOrder & { readonly arrival: number };

/** Stops that wait, so kept that an event looks only at those it triggers. One whose trail has no price yet just waits. */
export class StopQueue {
  private readonly byId = new Map<string, WaitingStop>();
  private readonly trailing = new Map<string, WaitingStop>();
  /** A rising price reaches the lowest buy stop first, a falling one the highest sell stop. */
  private readonly waiting = new Map<string, PriceLevels<Set<string>>>();

  get size(): number {
    return this.byId.size;
  }

  has(id: string): boolean {
    return this.byId.has(id);
  }

  get(id: string): WaitingStop | undefined {
    return this.byId.get(id);
  }

  all(): WaitingStop[] {
    return [...this.byId.values()].sort((a, b) => a.arrival - b.arrival);
  }

  /** The stops that follow the market. */
  following(): Iterable<WaitingStop> {
    return this.trailing.values();
  }

  add(stop: WaitingStop): void {
    this.byId.set(stop.id, stop);
    if (stop.trail !== null) this.trailing.set(stop.id, stop);
    if (stop.stopPrice === null) return;
    const levels = this.levelsOf(stop.triggerOn, stop.side);
    const ids = levels.get(stop.stopPrice);
    if (ids) ids.add(stop.id);
    else levels.set(stop.stopPrice, new Set([stop.id]));
  }

  remove(id: string): void {
    const stop = this.byId.get(id);
    if (!stop) return;
    this.byId.delete(id);
    this.trailing.delete(id);
    if (stop.stopPrice === null) return;
    const levels = this.levelsOf(stop.triggerOn, stop.side);
    const ids = levels.get(stop.stopPrice);
    ids?.delete(id);
    if (ids?.size === 0) levels.delete(stop.stopPrice);
  }

  /** A stop that follows is as given from now on, at the price it had. */
  update(stop: WaitingStop): void {
    this.byId.set(stop.id, stop);
    this.trailing.set(stop.id, stop);
  }

  /** The same at another price. */
  move(stop: WaitingStop): void {
    this.remove(stop.id);
    this.add(stop);
  }

  /** The stops at or beyond the prices of their sources, in the order they came. They stay until removed. */
  due(prices: Readonly<Record<TriggerSource, Price | null>>): WaitingStop[] {
    const found: WaitingStop[] = [];
    for (const [key, levels] of this.waiting) {
      const [source, side] = key.split(' ') as [TriggerSource, Side];
      const price = prices[source];
      const best = levels.best();
      if (price === null || best === null) continue;
      const reached = (stopPrice: Price): boolean => (side === 'buy' ? stopPrice <= price : stopPrice >= price);
      if (!reached(best)) continue;
      for (const at of levels.prices()) {
        if (!reached(at)) break;
        for (const id of levels.get(at) ?? []) found.push(this.byId.get(id) as WaitingStop);
      }
    }
    return found.sort((a, b) => a.arrival - b.arrival);
  }

  private levelsOf(source: TriggerSource, side: Side): PriceLevels<Set<string>> {
    const key = `${source} ${side}`;
    let levels = this.waiting.get(key);
    if (!levels) this.waiting.set(key, (levels = new PriceLevels<Set<string>>(side === 'buy' ? -1 : 1)));
    return levels;
  }
}
