import { asPrice, type Price } from '../instrument/index.ts';
import { PriceLevels } from './price-levels.ts';

/** What can stand in a queue: it carries its own links, so that coming and going make nothing new. */
export interface Queued<T extends Queued<T>> {
  readonly limit: Price | null;
  /** Whether it stands in a queue. */
  queued: boolean;
  /** Whoever came just before it; of the first at its price, the last. */
  previous: T | null;
  next: T | null;
}

/** Where what has no price stands. */
const UNPRICED = asPrice(0);

/** The orders of one side by price, and at each price in the order they came. */
export class OrderQueues<T extends Queued<T>> {
  private readonly firsts: PriceLevels<T>;

  /** @param sign 1 where the highest price is best, -1 where the lowest is */
  constructor(sign: 1 | -1) {
    this.firsts = new PriceLevels<T>(sign);
  }

  get isEmpty(): boolean {
    return this.firsts.size === 0;
  }

  best(): Price | null {
    return this.firsts.best();
  }

  /** All prices that orders stand at, best first: read it at once, don't change it. */
  prices(): readonly Price[] {
    return this.firsts.prices();
  }

  /** @param one that stands in no queue */
  push(one: T): void {
    const price = one.limit ?? UNPRICED;
    const first = this.firsts.get(price);
    one.queued = true;
    one.next = null;
    if (first) {
      const last = first.previous as T;
      one.previous = last;
      last.next = one;
      first.previous = one;
    } else {
      one.previous = one;
      this.firsts.set(price, one);
    }
  }

  /** What leaves keeps pointing forward, so that whoever stands at it finds on. */
  remove(one: T): void {
    if (!one.queued) return;
    one.queued = false;
    const price = one.limit ?? UNPRICED;
    const first = this.firsts.get(price) as T;
    const { previous, next } = one;
    if (first !== one) {
      (previous as T).next = next;
      (next ?? first).previous = previous;
    } else if (next) {
      next.previous = previous;
      this.firsts.set(price, next);
    } else this.firsts.delete(price);
  }

  /** The first at a price. From there on each leads to the {@link next}. */
  first(price: Price = UNPRICED): T | null {
    return this.firsts.get(price) ?? null;
  }

  /** Those at a price, first come first; those that leave meanwhile are passed over. */
  *at(price: Price = UNPRICED): Generator<T, void> {
    for (let one = this.first(price); one; one = one.next) if (one.queued) yield one;
  }
}
