import type { Price } from '../instrument/index.ts';

/**
 * Values by price with the best price always at hand: a map, and a heap of its prices from which
 * prices that left the map are dropped only when they come up. Setting and deleting cost the same
 * for ten levels as for ten thousand.
 */
export class PriceLevels<T extends NonNullable<unknown>, K extends number = Price> {
  /** Every price in the heap has its place here; one without a value is to be dropped when it comes up. */
  private readonly values = new Map<K, T | undefined>();
  private readonly heap: K[] = [];
  private count = 0;
  private sorted: K[] | null = null;
  /** 1 where the highest price is best (bids), -1 where the lowest is (asks). */
  private readonly sign: 1 | -1;

  constructor(sign: 1 | -1) {
    this.sign = sign;
  }

  get size(): number {
    return this.count;
  }

  get(price: K): T | undefined {
    return this.values.get(price);
  }

  set(price: K, value: T): void {
    const before = this.values.get(price);
    if (before === undefined) {
      this.sorted = null;
      this.count++;
      if (!this.values.has(price)) this.push(price);
    }
    this.values.set(price, value);
  }

  delete(price: K): void {
    if (this.values.get(price) === undefined) return;
    this.values.set(price, undefined);
    this.sorted = null;
    this.count--;
  }

  clear(): void {
    this.values.clear();
    this.heap.length = 0;
    this.count = 0;
    this.sorted = null;
  }

  /** The best price that has a value, or null. */
  best(): K | null {
    for (;;) {
      const top = this.heap[0];
      if (top === undefined) return null;
      if (this.values.get(top) !== undefined) return top;
      this.pop();
    }
  }

  /** All prices, best first. The array is the structure's own: read it at once, don't change it. */
  prices(): readonly K[] {
    this.sorted ??= [...this.values].flatMap(([price, value]) => (value === undefined ? [] : [price])).sort((a, b) => this.sign * (b - a));
    return this.sorted;
  }

  private before(a: K, b: K): boolean {
    return this.sign * (a - b) > 0;
  }

  private push(price: K): void {
    const heap = this.heap;
    let at = heap.push(price) - 1;
    while (at > 0) {
      const parent = (at - 1) >> 1;
      const above = heap[parent] as K;
      if (!this.before(price, above)) break;
      heap[at] = above;
      at = parent;
    }
    heap[at] = price;
  }

  private pop(): void {
    const heap = this.heap;
    this.values.delete(heap[0] as K);
    const last = heap.pop() as K;
    if (heap.length === 0) return;
    let at = 0;
    for (;;) {
      let child = 2 * at + 1;
      if (child >= heap.length) break;
      if (child + 1 < heap.length && this.before(heap[child + 1] as K, heap[child] as K)) child++;
      const below = heap[child] as K;
      if (!this.before(below, last)) break;
      heap[at] = below;
      at = child;
    }
    heap[at] = last;
  }
}
