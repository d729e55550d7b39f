import { Worker } from 'node:worker_threads';
import type { Instrument } from '../core/instrument/index.ts';
import type { AccountTerms } from '../core/portfolio/index.ts';
import type { BrokerLink, LinkListener, LinkState } from '../desk/broker-link.ts';
import type { CallName, FromVenue, VenueCalls, VenueClock } from '../venue/messages.ts';
import type { VenueWorkerData } from '../venue/worker.ts';

/** The venue could not begin or had to stop, in words for the person who runs Kavix. */
export class VenueUnable extends Error {}

/** The connection to the stand-in broker in its thread. */
export class VenueThreadLink implements BrokerLink {
  readonly instruments: readonly Instrument[];
  readonly accounts: readonly AccountTerms[];
  readonly clock: VenueClock;
  readonly link: LinkState;
  private readonly worker: Worker;
  private readonly waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();
  private asked = 0;
  private listener: LinkListener | null = null;
  private early: FromVenue[] = [];

  private constructor(worker: Worker, ready: FromVenue & { kind: 'ready' }) {
    this.worker = worker;
    this.instruments = ready.instruments;
    this.accounts = ready.accounts;
    this.clock = ready.clock;
    this.link = ready.link;
  }

  /** @param onUnable is told when the venue stops later on */
  static async start(entry: URL, data: VenueWorkerData, onUnable: (message: string) => void): Promise<VenueThreadLink> {
    const worker = new Worker(entry, { workerData: data });
    const early: FromVenue[] = [];
    return new Promise((resolve, reject) => {
      let link: VenueThreadLink | null = null;
      worker.on('message', (message: FromVenue) => {
        if (link) link.receive(message, onUnable);
        else if (message.kind === 'ready') {
          link = new VenueThreadLink(worker, message);
          link.early = early;
          resolve(link);
        } else if (message.kind === 'unable') {
          void worker.terminate();
          reject(new VenueUnable(message.message));
        } else early.push(message);
      });
      worker.on('error', (error) => (link ? onUnable(String(error)) : reject(error)));
    });
  }

  call<K extends CallName>(call: K, ask: VenueCalls[K]['ask']): Promise<VenueCalls[K]['answer']> {
    const id = ++this.asked;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve, reject });
      this.worker.postMessage({ call, id, ask });
    });
  }

  listen(listener: LinkListener): void {
    this.listener = listener;
    const early = this.early;
    this.early = [];
    for (const message of early) this.deliver(message, listener);
  }

  async stop(): Promise<void> {
    await this.call('stop', null);
    await this.worker.terminate();
  }

  private receive(message: FromVenue, onUnable: (message: string) => void): void {
    switch (message.kind) {
      case 'answer':
        this.waiting.get(message.id)?.resolve(message.answer as never);
        this.waiting.delete(message.id);
        break;
      case 'failed':
        this.waiting.get(message.id)?.reject(new Error(message.message));
        this.waiting.delete(message.id);
        break;
      case 'unable':
        onUnable(message.message);
        break;
      default:
        if (this.listener) this.deliver(message, this.listener);
        else this.early.push(message);
    }
  }

  private deliver(message: FromVenue, listener: LinkListener): void {
    if (message.kind === 'reports') listener.reports(message.reports);
    else if (message.kind === 'market') listener.market(message.update);
    else if (message.kind === 'beat') listener.beat(message.time);
  }
}
