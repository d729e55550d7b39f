import { NO_QUANTITY, asQuantity, type Price, type Quantity } from '../instrument/index.ts';

interface Entry {
  readonly time: number;
  readonly high: Price;
  readonly low: Price;
  readonly volume: Quantity;
}

const DAY_MS = 86_400_000;

/**
 * High, low and volume of the last 24 hours, for venues that never close. What is older than that leaves;
 * the cost of a print does not grow with what is kept (monotonic queues for both extremes).
 */
export class RollingDay {
  private readonly all = new Queue();
  private readonly highs = new Queue();
  private readonly lows = new Queue();
  private volume = NO_QUANTITY;

  /** Adds a print, or a minute of them, at its time; never before the one added last. */
  add(time: number, high: Price, low: Price, volume: Quantity): void {
    const entry = { time, high, low, volume };
    this.all.push(entry);
    this.volume = asQuantity(this.volume + volume);
    this.highs.dropLastWhile((other) => other.high <= high);
    this.highs.push(entry);
    this.lows.dropLastWhile((other) => other.low >= low);
    this.lows.push(entry);
  }

  /** The figures of (now − 24 h, now]; extremes are null where nothing was traded. */
  at(now: number): { high: Price | null; low: Price | null; volume: Quantity } {
    const gone = now - DAY_MS;
    for (let first = this.all.first(); first && first.time <= gone; first = this.all.first()) {
      this.volume = asQuantity(this.volume - first.volume);
      this.all.drop();
    }
    for (const queue of [this.highs, this.lows]) for (let first = queue.first(); first && first.time <= gone; first = queue.first()) queue.drop();
    return { high: this.highs.first()?.high ?? null, low: this.lows.first()?.low ?? null, volume: this.volume };
  }

  clear(): void {
    this.volume = NO_QUANTITY;
    for (const queue of [this.all, this.highs, this.lows]) queue.clear();
  }
}

/** An array that is taken from at the front without moving the rest each time. */
class Queue {
  private items: Entry[] = [];
  private head = 0;

  push(entry: Entry): void {
    this.items.push(entry);
  }

  first(): Entry | undefined {
    return this.items[this.head];
  }

  drop(): void {
    this.head++;
    if (this.head > 1024 && this.head * 2 > this.items.length) {
      this.items = this.items.slice(this.head);
      this.head = 0;
    }
  }

  dropLastWhile(gone: (entry: Entry) => boolean): void {
    while (this.items.length > this.head && gone(this.items[this.items.length - 1] as Entry)) this.items.pop();
  }

  clear(): void {
    this.items = [];
    this.head = 0;
  }
}
