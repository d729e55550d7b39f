import { Desk } from '../../src/desk/desk.ts';
import type { DeskStore } from '../../src/desk/ledger.ts';
import type { BrokerLink, LinkListener } from '../../src/desk/broker-link.ts';
import type { Entry, EntryQuery } from '../../src/desk/journal.ts';
import type { OrderRequest } from '../../src/core/orders/index.ts';
import { page } from '../../src/core/page.ts';
import { fromJson, toJson } from '../../src/store/json.ts';
import type { Exchange } from '../../src/venue/exchange.ts';
import type { BrokerReport, CallName, LinkState, VenueCalls, VenueClock } from '../../src/venue/messages.ts';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { INSTRUMENTS } from './world.ts';

/** Where a fault strikes: before the commit (lost), or after it (done but not answered). */
export type Fault = 'lost' | 'unanswered' | null;

/** A journal in memory, with true fault points. */
export class MemoryStore implements DeskStore {
  entries: Entry[] = [];
  private snapshot: { seq: number; text: string } | null = null;
  /** Decides, before each append, what happens to it. */
  fault: () => Fault = () => null;

  encode = toJson;
  decode = fromJson;

  async append(entries: readonly Entry[]): Promise<void> {
    await Promise.resolve();
    const fault = this.fault();
    if (fault === 'lost') throw new Error('the disk said no');
    // As through a file: nothing is shared with the living state.
    this.entries.push(...(fromJson(toJson(entries)) as Entry[]));
    if (fault === 'unanswered') throw new Error('the answer was lost');
  }

  readAfter(seq: number, limit: number): Promise<Entry[]> {
    return Promise.resolve(this.entries.filter((entry) => entry.seq > seq).slice(0, limit));
  }

  last(): Promise<{ seq: number; hash: string }> {
    const last = this.entries[this.entries.length - 1];
    return Promise.resolve(last ? { seq: last.seq, hash: last.hash } : { seq: 0, hash: '0'.repeat(64) });
  }

  query({ accounts, orderId, before, after, limit }: EntryQuery): Promise<Entry[]> {
    const mine = this.entries.filter(
      (entry) => (entry.account === null || accounts.includes(entry.account)) && (orderId === undefined || entry.orderId === orderId),
    );
    return Promise.resolve(page(mine, { before: before ?? null, after: after ?? null, limit }).items);
  }

  saveSnapshot(seq: number, text: string): Promise<void> {
    this.snapshot = { seq, text };
    return Promise.resolve();
  }

  latestSnapshot(): Promise<{ seq: number; text: string } | null> {
    return Promise.resolve(this.snapshot);
  }
}

/** The venue without a thread: the same exchange, answering as the thread would, its reports kept for resending. */
export class DirectLink implements BrokerLink {
  readonly instruments = [...INSTRUMENTS.values()];
  readonly accounts = ACCOUNTS;
  link: LinkState;
  readonly told: BrokerReport[];
  private listener: LinkListener | null = null;
  private readonly exchange: Exchange;
  /** Loses what is sent, as a program that dies between commit and send does. */
  deaf = false;

  constructor(exchange: Exchange, told: BrokerReport[] = []) {
    this.exchange = exchange;
    this.told = told;
    const since = exchange.time;
    this.link = { broker: 'up', data: 'up', since, brokerSince: since, dataSince: since };
  }

  get clock(): VenueClock {
    return { mode: 'manual', market: 'tape', time: this.exchange.time, speed: 0, tapeEndsAt: this.exchange.source.endsAt, ended: false };
  }

  listen(listener: LinkListener): void {
    this.listener = listener;
  }

  call<K extends CallName>(call: K, ask: VenueCalls[K]['ask']): Promise<VenueCalls[K]['answer']> {
    return Promise.resolve().then(() => this.answer(call, ask) as VenueCalls[K]['answer']);
  }

  private answer(call: CallName, ask: unknown): unknown {
    const { exchange } = this;
    switch (call) {
      case 'command':
        if (!this.deaf) exchange.send(ask as VenueCalls['command']['ask']);
        this.publish();
        return null;
      case 'advance':
        exchange.run((ask as { to: number }).to);
        this.publish();
        return this.clock;
      case 'snapshot':
        return { time: exchange.time, quotes: exchange.quotes((ask as { instruments: string[] }).instruments), depths: [], prints: [], news: [] };
      case 'depth': {
        const { instrument, levels } = ask as VenueCalls['depth']['ask'];
        return exchange.depth(instrument, levels);
      }
      case 'reconcile':
        return { time: exchange.time, orders: exchange.broker.known(), books: [...exchange.broker.books.values()], lastSeq: exchange.broker.seq };
      case 'resend':
        return this.told.filter((report) => report.seq > (ask as { after: number }).after);
      case 'link': {
        const wish = ask as VenueCalls['link']['ask'];
        this.link = { ...this.link, broker: wish.broker ?? this.link.broker, data: wish.data ?? this.link.data };
        return this.link;
      }
      default:
        return this.clock;
    }
  }

  private publish(): void {
    const reports = fromJson(toJson(this.exchange.takeChanges().reports)) as BrokerReport[];
    this.told.push(...reports);
    if (reports.length > 0 && this.link.broker === 'up') this.listener?.reports(reports);
    this.listener?.market(this.exchange.takeUpdate());
  }
}

export async function openDesk(
  exchange: Exchange,
  store = new MemoryStore(),
  told: BrokerReport[] = [],
): Promise<{ desk: Desk; link: DirectLink; store: MemoryStore }> {
  const link = new DirectLink(exchange, told);
  const desk = new Desk(store, link, { waitsForVenue: true });
  await desk.open();
  return { desk, link, store };
}

let asked = 0;
/** A limit buy of 100 GANET.HALM at 41.20 for MAIN, but for what is given. */
export const request = (given: Partial<OrderRequest> = {}): OrderRequest => ({
  clientOrderId: `t-${++asked}`,
  account: 'MAIN',
  instrument: 'GANET.HALM',
  side: 'buy',
  type: 'limit',
  quantity: '100',
  ...(given.type === undefined || given.type === 'limit' ? { limitPrice: '41.20' } : {}),
  ...given,
});
