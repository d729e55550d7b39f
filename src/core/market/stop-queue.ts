import type { Price } from '../instrument/index.ts';
import type { StopOrder } from './matching.ts';
import { PriceLevels } from './price-levels.ts';
import type { Side } from './tape-row.ts';

export const TRIGGER_SOURCES = ['last', 'bid', 'ask'] as const;
export type TriggerSource = (typeof TRIGGER_SOURCES)[number];

export type WaitingStop = StopOrder & { readonly arrival: number };

/** Stops that wait, so kept that an event looks only at those it triggers. */
export class StopQueue {
  private readonly byId = new Map<string, WaitingStop>();
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

  add(stop: WaitingStop): void {
    this.byId.set(stop.id, stop);
    const levels = this.levelsOf(stop.triggerOn, stop.side);
    const ids = levels.get(stop.stopPrice);
    if (ids) ids.add(stop.id);
    else levels.set(stop.stopPrice, new Set([stop.id]));
  }

  remove(id: string): void {
    const stop = this.byId.get(id);
    if (!stop) return;
    this.byId.delete(id);
    const levels = this.levelsOf(stop.triggerOn, stop.side);
    const ids = levels.get(stop.stopPrice);
    ids?.delete(id);
    if (ids?.size === 0) levels.delete(stop.stopPrice);
  }

  /** The stops at or beyond the prices of their sources, in the order they came. They stay until removed. */
  due(prices: Readonly<Record<TriggerSource, Price | null>>): WaitingStop[] {
    const found: WaitingStop[] = [];
    for (const source of TRIGGER_SOURCES) {
      const price = prices[source];
      if (price === null) continue;
      this.collect(source, 'buy', (stopPrice) => stopPrice <= price, found);
      this.collect(source, 'sell', (stopPrice) => stopPrice >= price, found);
    }
    return found.sort((a, b) => a.arrival - b.arrival);
  }

  private collect(source: TriggerSource, side: Side, reached: (stopPrice: Price) => boolean, into: WaitingStop[]): void {
    const levels = this.levelsOf(source, side);
    const best = levels.best();
    if (best === null || !reached(best)) return;
    for (const price of levels.prices()) {
      if (!reached(price)) return;
      for (const id of levels.get(price) ?? []) into.push(this.byId.get(id) as WaitingStop);
    }
  }

  private levelsOf(source: TriggerSource, side: Side): PriceLevels<Set<string>> {
    const key = `${source} ${side}`;
    let levels = this.waiting.get(key);
    if (!levels) this.waiting.set(key, (levels = new PriceLevels<Set<string>>(side === 'buy' ? -1 : 1)));
    return levels;
  }
}
