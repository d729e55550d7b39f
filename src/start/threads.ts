import { Worker } from 'node:worker_threads';

/** The threads beside the program's own, loading already; each begins with its first message. */
export interface Threads {
  readonly venue: Worker;
  readonly prices: Worker;
}

/** Lets the threads load while the program itself does. `folder` is where the built program lies. */
export const loadThreads = (folder: string): Threads => ({
  venue: new Worker(new URL('./venue.mjs', folder)),
  prices: new Worker(new URL('./prices.mjs', folder)),
});
