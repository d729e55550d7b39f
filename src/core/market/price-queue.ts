/** What can stand in a queue: it carries its own links, so that coming and going cost nothing but themselves. */
export interface Queued<T extends Queued<T>> {
  /** The queue it stands in, or null. */
  queue: PriceQueue<T> | null;
  previous: T | null;
  next: T | null;
}

/** Orders at one price in the order they came. */
export class PriceQueue<T extends Queued<T>> {
  private first: T | null = null;
  private last: T | null = null;

  get isEmpty(): boolean {
    return this.first === null;
  }

  /** @param one that stands in no queue */
  push(one: T): void {
    one.queue = this;
    one.previous = this.last;
    one.next = null;
    if (this.last) this.last.next = one;
    else this.first = one;
    this.last = one;
  }

  /** What leaves keeps pointing forward, so that whoever stands at it finds on. */
  remove(one: T): void {
    if (one.queue !== this) return;
    if (one.previous) one.previous.next = one.next;
    else this.first = one.next;
    if (one.next) one.next.previous = one.previous;
    else this.last = one.previous;
    one.queue = null;
  }

  /** All of them, first come first; those that leave meanwhile are passed over. */
  *[Symbol.iterator](): Generator<T, void> {
    for (let one = this.first; one; one = one.next) if (one.queue === this) yield one;
  }
}
