import { ACCOUNTS } from '../../demo/accounts.ts';
import type { BrokerCommand, BrokerReport, BrokerStatus, KnownOrder } from '../../src/core/desk/index.ts';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import { NO_STATISTICS, type Quote } from '../../src/core/market/index.ts';
import { readOrder, type OrderReport, type OrderRequest } from '../../src/core/orders/index.ts';
import { openAccount } from '../../src/core/portfolio/index.ts';
import { Desk } from '../../src/desk/desk.ts';
import type { Broker, BrokerListener, DemoControls, Prices } from '../../src/desk/outside.ts';
import type { LinkState, MarketUpdate, VenueClock } from '../../src/venue/messages.ts';
import { MemoryDeskStore } from './stores.ts';
import { INSTRUMENTS, at, instrument, orderIn, request } from './world.ts';

const NOON = at('12:00:00.000');

/** A report of an order without its place in the account's sequence. */
type Told = BrokerReport extends infer R ? (R extends BrokerReport ? Omit<R, 'account' | 'seq' | 'time'> : never) : never;

/**
 * A broker and market data that do only what a test says: nothing of the stand-in is in them. What they are asked is
 * kept in `commands`.
 */
export class ScriptedOutside {
  readonly commands: BrokerCommand[] = [];
  readonly reports: BrokerReport[] = [];
  known: KnownOrder[] = [];
  link: LinkState = { broker: 'up', data: 'up', since: NOON, brokerSince: NOON, dataSince: NOON };
  private listener: BrokerListener | null = null;

  readonly broker: Broker = {
    accounts: ACCOUNTS,
    send: (commands) => Promise.resolve(void this.commands.push(...commands)),
    reportsAfter: (account, seq, limit) => Promise.resolve(this.reports.filter((one) => one.account === account && one.seq > seq).slice(0, limit)),
    status: (account) => Promise.resolve(this.statusOf(account)),
    standing: () => Promise.resolve([]),
    acknowledge: () => Promise.resolve(),
    arm: () => Promise.resolve(),
    lodge: () => Promise.resolve(),
    agree: () => Promise.resolve(0),
    newIssues: () => Promise.resolve([]),
    settled: () => Promise.resolve(this.clock()),
    listen: (listener) => {
      this.listener = listener;
    },
  };

  readonly prices: Prices = {
    instruments: [...INSTRUMENTS.values()],
    time: NOON,
    watch: () => Promise.resolve(),
    snapshot: (ids) => Promise.resolve(this.market(ids)),
    depth: (id) => Promise.resolve({ instrument: id, time: NOON, bids: [], asks: [] }),
    bars: () => Promise.resolve({ items: [], live: false }),
    prints: () => Promise.resolve({ items: [], more: false }),
    tradesSince: () => Promise.resolve([]),
    tradesBetween: () => Promise.resolve([]),
    news: () => Promise.resolve({ items: [], more: false }),
    listen: () => undefined,
  };

  readonly demo: DemoControls = {
    link: this.link,
    started: this.clock(),
    clock: () => Promise.resolve(this.clock()),
    advance: () => Promise.resolve(this.clock()),
    setSpeed: () => Promise.resolve(this.clock()),
    setLink: (wish) => {
      this.link = { ...this.link, broker: wish.broker ?? this.link.broker, data: wish.data ?? this.link.data };
      return Promise.resolve(this.link);
    },
    survey: () => Promise.resolve([]),
  };

  private clock(): VenueClock {
    return { mode: 'manual', market: 'tape', time: NOON, speed: 0, tapeEndsAt: null, ended: false };
  }

  private market(ids: readonly string[]): MarketUpdate {
    const quote = (id: string): Quote => ({
      ...NO_STATISTICS,
      instrument: id,
      time: NOON,
      state: 'open',
      bid: asPrice(4118),
      bidQuantity: asQuantity(500),
      ask: asPrice(4120),
      askQuantity: asQuantity(300),
      last: asPrice(4119),
      lastEver: asPrice(4119),
      turnover: 0n,
      dayVolume: asQuantity(0),
      previousSettlement: asPrice(4100),
      priceLimits: { lower: null, upper: null },
    });
    return { time: NOON, quotes: ids.map(quote), depths: [], prints: [], news: [], missed: [] };
  }

  private statusOf(account: string): BrokerStatus {
    const terms = ACCOUNTS.find(({ id }) => id === account);
    if (!terms) throw new Error(`no account ${account}`);
    const orders = this.known.filter(({ order }) => order.account === account);
    return {
      account,
      time: NOON,
      lastSeq: this.reports.filter((one) => one.account === account).length,
      forgotten: 0,
      highest: 0,
      orders,
      lodged: null,
      cash: [],
      applications: [],
      book: openAccount(terms),
    };
  }

  /** Numbers a report; it is told by {@link tell}, or asked for. */
  report(told: Told, account = 'MAIN'): BrokerReport {
    const seq = this.reports.filter((one) => one.account === account).length + 1;
    const report = { account, seq, time: NOON + seq, ...told } as BrokerReport;
    this.reports.push(report);
    return report;
  }

  tell(...reports: BrokerReport[]): Promise<void> {
    if (!this.listener) throw new Error('nobody listens');
    return this.listener.stream(
      reports.map((report) => ({ kind: 'report', report })),
      NOON,
    );
  }
}

/** A desk on a scripted outside. */
export async function scriptedDesk(store = new MemoryDeskStore(), outside = new ScriptedOutside()) {
  const desk = new Desk({ broker: outside.broker, prices: outside.prices, demo: outside.demo, store }, { waitsForVenue: false, consents: () => true });
  await desk.open();
  const say = async (id: string, ...reports: OrderReport[]): Promise<void> => {
    await outside.tell(...reports.map((report) => outside.report({ kind: 'order', orderId: id, report })));
    await desk.settled();
  };
  const place = async (given: Partial<OrderRequest> = {}): Promise<string> => {
    const wanted = request(given);
    const read = readOrder(wanted, instrument(wanted.instrument));
    if (!read.ok) throw new Error(JSON.stringify(read.refusal));
    return orderIn(await desk.ask(wanted.account, { kind: 'place', order: read.value })).id;
  };
  return { desk, outside, store, say, place };
}
