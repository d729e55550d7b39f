import { MessageChannel, type MessagePort, type Worker } from 'node:worker_threads';
import type { BrokerCommand, BrokerReport } from '../core/desk/index.ts';
import type { Instrument } from '../core/instrument/index.ts';
import type { AccountTerms } from '../core/portfolio/index.ts';
import type { Broker, BrokerListener, DemoControls, LinkState, Prices, PricesListener, VenueClock } from '../desk/outside.ts';
import type { CallName, FromVenue, ToVenue, VenueCalls } from '../venue/messages.ts';
import type { VenueWorkerData } from '../venue/worker.ts';

/** The venue could not begin or had to stop, in words for the person who runs Kavix. */
export class VenueUnable extends Error {}

/** A way to the venue and back. */
export interface VenuePort {
  post(message: ToVenue): void;
  close(): Promise<unknown>;
}

interface Outgoing {
  readonly commands: BrokerCommand[];
  readonly taken: Promise<void>;
  readonly go: () => void;
}

/** The stand-in's broker, prices and demo controls, over messages to wherever its loop runs. */
export class VenueLink {
  readonly broker: Broker;
  readonly prices: Prices;
  readonly demo: DemoControls;
  private readonly port: VenuePort;
  private readonly waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();
  private asked = 0;
  private brokerListener: BrokerListener | null = null;
  private pricesListener: PricesListener | null = null;
  private early: FromVenue[] = [];
  /** Commands that go together, once what they follow from has been answered. */
  private outgoing: Outgoing | null = null;

  constructor(port: VenuePort, ready: FromVenue & { kind: 'ready' }, early: readonly FromVenue[] = []) {
    this.port = port;
    this.early = [...early];
    this.broker = this.makeBroker(ready.accounts);
    this.prices = this.makePrices(ready.instruments, ready.clock.time);
    this.demo = this.makeDemo(ready.link, ready.clock);
  }

  async stop(): Promise<void> {
    await this.call('stop', null);
    await this.port.close();
  }

  /** A message from the venue. */
  receive(message: FromVenue): void {
    switch (message.kind) {
      case 'answer':
        this.waiting.get(message.id)?.resolve(message.answer as never);
        this.waiting.delete(message.id);
        break;
      case 'failed':
        this.waiting.get(message.id)?.reject(new Error(message.message));
        this.waiting.delete(message.id);
        break;
      case 'stream':
      case 'market':
      case 'beat':
        this.deliver(message);
        break;
      case 'ready':
      case 'unable':
        break;
      default:
        message satisfies never;
    }
  }

  private makeBroker(accounts: readonly AccountTerms[]): Broker {
    return {
      accounts,
      send: (commands) => this.send(commands),
      reportsAfter: (account, seq, limit): Promise<BrokerReport[]> => this.call('reportsAfter', { account, seq, limit }),
      status: (account) => this.call('status', { account }),
      standing: (orderIds) => this.call('standing', { orderIds }),
      acknowledge: async (seqs) => void (await this.call('acknowledge', seqs)),
      arm: async (armed) => void (await this.call('arm', armed)),
      agree: (account, line) => this.call('agree', { account, line }),
      lodge: async (account, lodged) => void (await this.call('lodge', { account, lodged })),
      newIssues: () => this.call('newIssues', null),
      settled: () => this.call('settled', null),
      listen: (listener) => {
        this.brokerListener = listener;
        this.deliverEarly();
      },
    };
  }

  private makePrices(instruments: readonly Instrument[], time: number): Prices {
    return {
      instruments,
      time,
      watch: (watched, depths) => this.call('watch', { instruments: watched, depths }),
      snapshot: (ids) => this.call('snapshot', { instruments: ids }),
      depth: (instrument, levels) => this.call('depth', { instrument, levels }),
      bars: (request) => this.call('bars', request),
      prints: (request) => this.call('prints', request),
      tradesSince: (instrument, since) => this.call('tradesSince', { instrument, since }),
      tradesBetween: (instrument, from, to) => this.call('tradesBetween', { instrument, from, to }),
      news: (request) => this.call('news', request),
      listen: (listener) => {
        this.pricesListener = listener;
        this.deliverEarly();
      },
    };
  }

  private makeDemo(link: LinkState, started: VenueClock): DemoControls {
    return {
      link,
      started,
      clock: () => this.call('clock', null),
      advance: (to) => this.call('advance', { to }),
      setSpeed: (speed) => this.call('speed', { speed }),
      setLink: (wish) => this.call('link', wish),
      survey: () => this.call('survey', null),
    };
  }

  /** Commands of one turn go in one message at its end: who asked for them has the answer first, and the venue is woken once. */
  private send(commands: readonly BrokerCommand[]): Promise<void> {
    const { outgoing } = this;
    if (outgoing) {
      outgoing.commands.push(...commands);
      return outgoing.taken;
    }
    const all = [...commands];
    let go = (): void => undefined;
    const taken = new Promise<void>((resolve, reject) => (go = () => void this.ask('commands', all).then(() => resolve(), reject)));
    this.outgoing = { commands: all, taken, go };
    setImmediate(() => this.sendNow());
    return taken;
  }

  private sendNow(): void {
    const { outgoing } = this;
    this.outgoing = null;
    outgoing?.go();
  }

  /** Nothing overtakes a command. */
  private call<K extends CallName>(call: K, ask: VenueCalls[K]['ask']): Promise<VenueCalls[K]['answer']> {
    this.sendNow();
    return this.ask(call, ask);
  }

  private ask<K extends CallName>(call: K, ask: VenueCalls[K]['ask']): Promise<VenueCalls[K]['answer']> {
    const id = ++this.asked;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve, reject });
      this.port.post({ call, id, ask } as ToVenue);
    });
  }

  /** The venue, which stood still after what it said, may go on: with all that was decided on it. */
  private resume(token: number): void {
    this.sendNow();
    this.port.post({ call: 'resume', token });
  }

  private deliverEarly(): void {
    if (!this.brokerListener || !this.pricesListener) return;
    for (const message of this.early.splice(0)) this.deliver(message);
  }

  private deliver(message: FromVenue): void {
    const { brokerListener, pricesListener } = this;
    if (!brokerListener || !pricesListener) {
      this.early.push(message);
      return;
    }
    if (message.kind === 'market') pricesListener.market(message.update);
    else if (message.kind === 'beat') {
      pricesListener.beat(message.time);
      brokerListener.alive(message.newest);
    } else if (message.kind === 'stream') {
      const { token } = message;
      const answered = brokerListener.stream(message.items, message.time);
      if (token !== null) void answered.then(() => this.resume(token));
    }
  }
}

/**
 * Begins the venue in its thread.
 *
 * @param onUnable is told when the venue stops later on
 * @returns the way to it, and the end of another one by which the prices' thread looks at the market
 * @throws VenueUnable in words where it can't begin
 */
export function startVenue(
  worker: Worker,
  data: Omit<VenueWorkerData, 'prices'>,
  onUnable: (message: string) => void,
): Promise<{ readonly link: VenueLink; readonly sight: MessagePort }> {
  const { port1, port2 } = new MessageChannel();
  worker.postMessage({ ...data, prices: port1 } satisfies VenueWorkerData, [port1]);
  const early: FromVenue[] = [];
  return new Promise((resolve, reject) => {
    let link: VenueLink | null = null;
    worker.on('message', (message: FromVenue) => {
      if (link && message.kind === 'unable') onUnable(message.message);
      else if (link) link.receive(message);
      else if (message.kind === 'ready') {
        link = new VenueLink({ post: (to) => worker.postMessage(to), close: () => worker.terminate() }, message, early);
        resolve({ link, sight: port2 });
      } else if (message.kind === 'unable') {
        void worker.terminate();
        reject(new VenueUnable(message.message));
      } else early.push(message);
    });
    worker.on('error', (error) => (link ? onUnable(String(error)) : reject(error)));
  });
}
