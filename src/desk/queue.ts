/** Runs pieces of work one after the other, in the order they were given. */
export class SerialQueue {
  private tail: Promise<unknown> = Promise.resolve();

  run<T>(work: () => Promise<T>): Promise<T> {
    const done = this.tail.then(work);
    this.tail = done.catch(() => undefined);
    return done;
  }

  /** Resolves when all that was given so far is done. */
  idle(): Promise<unknown> {
    return this.tail;
  }
}
