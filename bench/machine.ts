import { Worker } from 'node:worker_threads';

/** A stretch in which the machine did not run a thread that only wanted to look at the clock. Milliseconds of this process. */
export interface Stall {
  readonly at: number;
  readonly took: number;
}

const WATCH = `
  const { parentPort } = require('node:worker_threads');
  const sleeper = new Int32Array(new SharedArrayBuffer(4));
  const stalls = [];
  let before = performance.timeOrigin + performance.now();
  let ends = false;
  parentPort.on('message', () => { ends = true; });
  const look = () => {
    Atomics.wait(sleeper, 0, 0, 1);
    const now = performance.timeOrigin + performance.now();
    if (now - before > 10) stalls.push({ at: before, took: now - before - 1 });
    before = now;
    if (ends) parentPort.postMessage(stalls);
    else setImmediate(look);
  };
  look();`;

/** Watches from a thread of its own for moments that the machine took for itself. */
export function watchMachine(): { end(): Promise<readonly Stall[]> } {
  const worker = new Worker(WATCH, { eval: true });
  return {
    end: async () => {
      const told = new Promise<readonly Stall[]>((done) => worker.once('message', done));
      worker.postMessage('end');
      const stalls = await told;
      await worker.terminate();
      return stalls.map(({ at, took }) => ({ at: at - performance.timeOrigin, took }));
    },
  };
}

/** How much of a stretch the machine took for itself. */
export const stalledIn = (stalls: readonly Stall[], from: number, to: number): number =>
  stalls.reduce((sum, { at, took }) => sum + Math.max(0, Math.min(to, at + took) - Math.max(from, at)), 0);

/** Stretches of a page's own time as milliseconds, with and without what the machine took of them. */
export function ownOf(
  stretches: readonly (readonly [from: number, to: number])[],
  stalls: readonly Stall[],
): { readonly all: number[]; readonly own: number[] } {
  const here = performance.timeOrigin;
  const all = stretches.map(([from, to]) => to - from);
  return { all, own: stretches.map(([from, to], i) => (all[i] as number) - stalledIn(stalls, from - here, to - here)) };
}
