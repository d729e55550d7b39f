/** Anything that happens at a time, in milliseconds. */
interface Timed {
  readonly time: number;
}

interface Lane<T> {
  readonly name: string;
  /** Of two that have something at one time the lower goes first. */
  readonly rank: number;
  items: readonly T[];
  at: number;
  /** What comes after these, in order of time; none: the lane is over. */
  readonly more: () => readonly T[];
}

/**
 * Several rows of events, each rising in time, taken as one: a heap of the rows by what is next in each. A row that
 * joins or leaves costs nothing of what the others hold.
 */
export class Lanes<T extends Timed> {
  private readonly lanes = new Map<string, Lane<T>>();
  /** Rows that have something left, the next one on top; null where it is to be built anew. */
  private heap: Lane<T>[] | null = null;
  private ranks = 0;

  /**
   * Opens a row; it goes behind all others at the same time.
   *
   * @param items what is ahead in it, in order of time
   * @param more asked for what comes after them when they are taken; none ends the row
   */
  open(name: string, items: readonly T[], more: () => readonly T[]): void {
    const lane: Lane<T> = { name, rank: ++this.ranks, items, at: 0, more };
    if (items.length === 0) lane.items = more();
    this.lanes.set(name, lane);
    this.heap = null;
  }

  has(name: string): boolean {
    return this.lanes.has(name);
  }

  /** Takes a row away with all that is left in it. */
  delete(name: string): void {
    if (this.lanes.delete(name)) this.heap = null;
  }

  clear(): void {
    this.lanes.clear();
    this.heap = null;
  }

  /** What is next of all, or null. */
  peek(): T | null {
    const top = this.built()[0];
    return top ? (top.items[top.at] as T) : null;
  }

  /** Takes what is next of all, or null. */
  take(): T | null {
    const heap = this.built();
    const top = heap[0];
    if (!top) return null;
    const item = top.items[top.at++] as T;
    if (top.at === top.items.length) {
      top.items = top.more();
      top.at = 0;
    }
    if (top.items.length === 0) {
      const last = heap.pop() as Lane<T>;
      if (heap.length > 0) heap[0] = last;
    }
    sink(heap, 0);
    return item;
  }

  private built(): Lane<T>[] {
    if (this.heap) return this.heap;
    const heap = [...this.lanes.values()].filter(({ items, at }) => at < items.length);
    for (let i = (heap.length >> 1) - 1; i >= 0; i--) sink(heap, i);
    return (this.heap = heap);
  }
}

function before<T extends Timed>(a: Lane<T>, b: Lane<T>): boolean {
  const [one, other] = [(a.items[a.at] as T).time, (b.items[b.at] as T).time];
  return one === other ? a.rank < b.rank : one < other;
}

/** Lets a row sink to its place below those that come sooner. */
function sink<T extends Timed>(heap: Lane<T>[], from: number): void {
  for (let at = from; ;) {
    let child = 2 * at + 1;
    if (child >= heap.length) return;
    if (child + 1 < heap.length && before(heap[child + 1] as Lane<T>, heap[child] as Lane<T>)) child++;
    const [above, below] = [heap[at] as Lane<T>, heap[child] as Lane<T>];
    if (!before(below, above)) return;
    heap[at] = below;
    heap[child] = above;
    at = child;
  }
}
