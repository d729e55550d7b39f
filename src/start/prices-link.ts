import type { MessagePort, Worker } from 'node:worker_threads';
import type { Instrument } from '../core/instrument/index.ts';
import type { PricesPort } from '../desk/finding/parts.ts';
import type { FromPrices, PricesCall, PricesCalls, ScanProgress } from '../prices/messages.ts';
import type { PricesWorkerData } from '../prices/worker.ts';

/** The prices' thread, over messages. */
export class PricesLink implements PricesPort {
  private readonly worker: Worker;
  private readonly waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();
  private asked = 0;
  private readonly progress = new Map<string, ScanProgress>();

  /**
   * @param sight the way by which it looks at the market
   * @param onUnable is told when it stops
   */
  constructor(worker: Worker, instruments: readonly Instrument[], sight: MessagePort, onUnable: (message: string) => void) {
    this.worker = worker;
    worker.postMessage({ instruments, venue: sight } satisfies PricesWorkerData, [sight]);
    this.worker.on('message', (message: FromPrices) => {
      if (message.kind === 'progress') {
        if (this.progress.has(message.run)) this.progress.set(message.run, message.progress);
        return;
      }
      const waits = this.waiting.get(message.id);
      this.waiting.delete(message.id);
      if (message.kind === 'answer') waits?.resolve(message.answer as never);
      else waits?.reject(new Error(message.message));
    });
    this.worker.on('error', (error) => onUnable(`The prices had to stop: ${error.stack ?? String(error)}`));
  }

  ask<K extends PricesCall>(call: K, ask: PricesCalls[K]['ask']): Promise<PricesCalls[K]['answer']> {
    const id = ++this.asked;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      this.worker.postMessage({ call, id, ask });
    });
  }

  scanProgress(run: string): ScanProgress | null {
    return this.progress.get(run) ?? null;
  }

  async scan(ask: PricesCalls['scan']['ask']): Promise<PricesCalls['scan']['answer']> {
    if (ask.run !== null) this.progress.set(ask.run, { done: 0, of: 0 });
    try {
      return await this.ask('scan', ask);
    } finally {
      if (ask.run !== null) this.progress.delete(ask.run);
    }
  }

  async stop(): Promise<void> {
    await this.worker.terminate();
  }
}
