import {
  asIfWorking,
  judgeOrder,
  markedInstruments,
  needsOf,
  newAccountState,
  nextWake,
  orderOf,
  type AccountEvent,
  type AccountState,
  type BrokerCommand,
  type Draft,
  type Entry,
  type Facts,
  type Fill,
  type Intent,
  type Judgement,
  type Needs,
  type PriceRow,
  type Touched,
  type Working,
} from '../core/desk/index.ts';
import type { Instrument, Price } from '../core/instrument/index.ts';
import type { MarketTrade, Quote } from '../core/market/index.ts';
import { isOnItsWay, type Order, type OrderIntent, type ReasonCode, type Refusal } from '../core/orders/index.ts';
import type { Commission, Market, NewIssue } from '../core/portfolio/index.ts';
import { accepted, refused, type Result } from '../core/result.ts';
import type { Armed, OrderStanding } from '../venue/messages.ts';
import { AccountDesk } from './account-desk.ts';
import { gatherFacts, type GatheredFacts } from './facts.ts';
import { Feed } from './feed.ts';
import { Followers, type Follower } from './followers.ts';
import type { UserTopic } from './hub.ts';
import { Ledger } from './ledger.ts';
import { MarketData } from './market-data.ts';
import { isSent, outcomeOf, type Outcome } from './outcomes.ts';
import type { Broker, DemoControls, DeskLink, Prices, VenueClock } from './outside.ts';
import { pause, WRITE_AGAIN_MS } from './patience.ts';
import type { DeskStore, EntryQuery, FillQuery, OrderQuery } from './store.ts';

export interface DeskSettings {
  /** Whether a user has agreed to what it means that exits are held here. */
  readonly consents: (user: string) => boolean;
  /** Calls wait until the venue's answer has been applied: a manual clock without latency. */
  readonly waitsForVenue: boolean;
}

/** What the desk stands on: the outside world, and where it keeps things. */
export interface DeskParts {
  readonly broker: Broker;
  readonly prices: Prices;
  readonly demo: DemoControls;
  readonly store: DeskStore;
}

/** Orders judged one after the other, each with the state it was judged in, and the state after all that pass. */
export interface JudgedTogether {
  readonly judged: readonly { readonly judgement: Judgement; readonly before: AccountState }[];
  readonly after: AccountState;
  readonly facts: Facts;
}

const RECONCILING: Refusal = { kind: 'unavailable', detail: 'Kavix and the broker are being brought to agree.' };

const ORDER_ID = /^[A-Za-z0-9._-]{1,64}$/;
const RECONCILE_AGAIN_MS = 500;

/** The running desk: an account's own desk for each, the links to broker and market, and what is asked of all. It has no rules of its own. */
export class Desk {
  readonly accounts = new Map<string, AccountState>();
  readonly market: MarketData;
  readonly feed: Feed;
  clock: VenueClock;
  link: DeskLink;
  private readonly followers = new Followers();
  private readonly broker: Broker;
  private readonly prices: Prices;
  private readonly demo: DemoControls;
  private readonly ledger: Ledger;
  private readonly settings: DeskSettings;
  private readonly own = new Map<string, AccountDesk>();
  private reconciling: Promise<void> | null = null;
  private armed: Armed = { instruments: [], wakeAt: null };
  /** Newest rows of what somebody waits on, until a newer quote comes. */
  private readonly seen = new Map<string, PriceRow>();
  /** Requests given to the broker so far. */
  private sent = 0;
  /** Requests that the venue refused while a call waits for them, with the venue's words. */
  private readonly rejected = new Map<string, string>();
  private closed = false;
  readonly instrument = (id: string): Instrument => this.market.instrument(id);

  constructor({ broker, prices, demo, store }: DeskParts, settings: DeskSettings) {
    this.broker = broker;
    this.prices = prices;
    this.demo = demo;
    this.settings = settings;
    this.clock = demo.started;
    this.link = demo.link;
    this.feed = new Feed(this);
    this.market = new MarketData(prices, this.feed, () => this.feed.wanted());
    this.ledger = new Ledger(store, this.accounts, this.instrument, (state, entry, touched) => this.written(state, entry, touched));
    for (const terms of broker.accounts) this.accounts.set(terms.id, newAccountState(terms));
  }

  /** Rebuilds the state from the log, then reconciles with the broker. */
  async open(): Promise<void> {
    await this.ledger.rebuild();
    for (const [id, state] of this.accounts) this.own.set(id, this.deskOf(state));
    this.feed.beginAt(this.ledger.lastSeq);
    this.prices.listen({
      market: (update) => {
        this.market.take(update);
        for (const { instrument } of update.quotes) this.seen.delete(instrument);
        this.passed(update.time);
        this.followers.news(update.news);
      },
      beat: () => this.feed.alive(),
    });
    this.broker.listen({
      stream: async (items, time) => {
        this.passed(time);
        for (const item of items) if (item.kind === 'price') this.seen.set(item.row.instrument, item.row);
        await Promise.all([...this.own.values()].map((own) => own.receive(items)));
        await this.followers.heard(items, time);
      },
      alive: (newest) => {
        this.feed.brokerAlive();
        if (this.link.broker === 'up') for (const [id, seq] of Object.entries(newest)) void this.own.get(id)?.expect(seq);
      },
    });
    await this.market.followWanted();
    await this.market.ensure([...this.feed.heldInstruments()]);
    for (const own of this.own.values()) await own.happened({ kind: 'cut-off', restart: this.link.broker === 'up' && this.link.data === 'up' });
    this.followArmed();
    if (this.link.broker === 'up') await this.reconcile();
  }

  async close(): Promise<void> {
    this.closed = true;
    this.feed.stop();
    this.market.stop();
    await this.settled();
    await this.ledger.close();
  }

  /** Market time now. */
  now(): number {
    return this.market.time;
  }

  account(id: string): AccountState {
    const found = this.accounts.get(id);
    if (!found) throw new Error(`unknown account ${id}`);
    return found;
  }

  accountsOf(user: string): string[] {
    return [...this.accounts.values()].filter((state) => state.terms.user === user).map((state) => state.terms.id);
  }

  /** An order of one of the accounts, working or not. */
  async findOrder(id: string, accounts: readonly string[]): Promise<Order | null> {
    if (!ORDER_ID.test(id)) return null;
    for (const account of accounts) {
      const order = orderOf(this.account(account), id);
      if (order) return order;
    }
    const past = await this.ledger.tables.order(id);
    return past && accounts.includes(past.order.account) ? past.order : null;
  }

  /** The orders that a client order id was given to: it names one in each account at most. */
  async ordersAsked(accounts: readonly string[], clientOrderId: string): Promise<Order[]> {
    const found = await Promise.all(accounts.map((account) => this.ledger.tables.askedFor(account, clientOrderId)));
    const orders = await Promise.all(found.flatMap((asked) => (asked ? [this.findOrder(asked.orderId, accounts)] : [])));
    return orders.filter((order) => order !== null);
  }

  listOrders(query: OrderQuery): Promise<Working[]> {
    return this.ledger.tables.listOrders(query);
  }

  listFills(query: FillQuery): Promise<Fill[]> {
    return this.ledger.tables.listFills(query);
  }

  /** Entries of all accounts after one, oldest first. */
  entriesAfter(seq: number, limit: number): Promise<Entry[]> {
    return this.ledger.entriesAfter(seq, limit);
  }

  /** An instrument's trades between two times, both inclusive, oldest first; where they are not kept, highs and lows of its minutes. */
  tradesBetween(instrument: string, from: number, to: number): Promise<readonly MarketTrade[]> {
    return this.prices.tradesBetween(instrument, from, to);
  }

  entries(query: EntryQuery): Promise<Entry[]> {
    return this.ledger.entries(query);
  }

  /** Resolves when every report received so far has been applied. */
  async settled(): Promise<void> {
    for (const own of this.own.values()) await own.idle();
  }

  /** Asks something of an account: decided in its queue, committed, sent, and where calls wait, answered by the venue. */
  async ask(account: string, intent: Intent): Promise<Result<Outcome, Refusal>> {
    for (;;) {
      const answer = await this.of(account).perform({ kind: 'asked', intent });
      if (answer.kind === 'refused') return refused(answer.refusal);
      if (answer.kind === 'many') throw new Error('several orders at once are asked for by placeMany');
      if (answer.kind === 'waits') {
        await (this.reconciling ?? pause(WRITE_AGAIN_MS));
        continue;
      }
      if (isSent(answer)) await this.answered();
      return outcomeOf(answer, {
        state: this.account(account),
        find: (id) => this.findOrder(id, [account]),
        takeRejected: (requestId) => this.takeRejected(requestId),
      });
    }
  }

  /** What is offered for the first time, or was. */
  newIssues(): Promise<readonly NewIssue[]> {
    return this.broker.newIssues();
  }

  /** All checks of an order without sending it. */
  async judge(intent: OrderIntent): Promise<{ judgement: Judgement; facts: Facts; state: AccountState }> {
    const state = this.account(intent.account);
    const event: AccountEvent = { kind: 'asked', intent: { kind: 'place', order: intent } };
    const needs = needsOf(state, event, this.instrument);
    const facts = await this.gather(state, { ...needs, books: [intent.instrument], clientOrderIds: [] });
    return { judgement: judgeOrder(state, intent, facts), facts, state };
  }

  /** Agrees with the broker on a line of commission; answered once it has reported it. */
  async agree(account: string, line: Commission): Promise<Result<null, Refusal>> {
    if (this.link.broker !== 'up') return refused({ kind: 'unavailable', detail: 'Commission is agreed with the broker, and its link is down.' });
    const seq = await this.broker.agree(account, line).catch(() => null);
    if (seq === null) return refused({ kind: 'unavailable', detail: 'The broker did not answer. Asked again it is the same line.' });
    // What was missed when the link is lost meanwhile is told when it is back.
    while (this.account(account).lastReport < seq && this.link.broker === 'up') await pause(WRITE_AGAIN_MS);
    return accepted(null);
  }

  /** Lets somebody follow what the market and the accounts bring. */
  followedBy(follower: Follower): void {
    this.followers.add(follower);
  }

  /** For the feed: the state of a topic that is a user's own. */
  ownTopic(topic: UserTopic, user: string): Promise<unknown> {
    return this.followers.snapshot(topic, user);
  }

  users(): string[] {
    return [...new Set([...this.accounts.values()].map((state) => state.terms.user))];
  }

  /** The number of the newest entry of the activity. */
  get lastEntry(): number {
    return this.ledger.lastSeq;
  }

  /** Asks for an order without waiting for the venue: for those who are heard while that stands still. */
  async place(account: string, order: OrderIntent): Promise<Result<string, Refusal>> {
    const answer = await this.of(account).perform({ kind: 'asked', intent: { kind: 'place', order } });
    if (answer.kind === 'order') return accepted(answer.orderId);
    return refused(answer.kind === 'refused' ? answer.refusal : RECONCILING);
  }

  /** Asks for several orders in one decision, without waiting for the venue: what became of each, or why none could be asked for. */
  async placeMany(account: string, orders: readonly OrderIntent[]): Promise<Result<readonly Result<string, Refusal>[], Refusal>> {
    const answer = await this.of(account).perform({ kind: 'asked', intent: { kind: 'place-many', orders } });
    if (answer.kind === 'many') return accepted(answer.placed);
    return refused(answer.kind === 'refused' ? answer.refusal : RECONCILING);
  }

  /** Cancels an order for another reason than the trader's wish, without waiting for the venue. */
  async cancel(account: string, orderId: string, reasonCode: ReasonCode): Promise<void> {
    await this.of(account).perform({ kind: 'asked', intent: { kind: 'cancel', orderId, reasonCode } });
  }

  /** An order that is still known to its account's state; null where it is in the tables alone. */
  orderHere(orderId: string, account: string): Order | null {
    return orderOf(this.account(account), orderId);
  }

  /** An order with its turnover, working or not. */
  async workingOrPast(orderId: string, account: string): Promise<Working | null> {
    return this.account(account).working.get(orderId) ?? (await this.ledger.tables.order(orderId));
  }

  /** Resolves when all that was sent has been answered, where calls wait for that. */
  quiet(): Promise<void> {
    return this.waitForVenue();
  }

  /** Judges orders of an account as if they were placed one after the other: what passes counts for those after it. */
  async judgeTogether(account: string, intents: readonly OrderIntent[]): Promise<JudgedTogether> {
    const state = this.account(account);
    const needs = intents.map((order) => needsOf(state, { kind: 'asked', intent: { kind: 'place', order } }, this.instrument));
    const quotes = new Set([...markedInstruments(state, this.instrument), ...needs.flatMap((need) => [...need.quotes])]);
    const books = [...new Set(intents.map(({ instrument }) => instrument))];
    const facts = await this.gather(state, { quotes, books, clientOrderIds: [], orders: [], trades: new Map() });
    let so = state;
    const judged = intents.map((intent) => {
      const judgement = judgeOrder(so, intent, facts);
      const before = so;
      if (judgement.refusal === null && judgement.case) so = { ...asIfWorking(so, [judgement.case.order], facts), count: so.count + 1 };
      return { judgement, before };
    });
    return { judged, after: so, facts };
  }

  async advance(to: number): Promise<VenueClock> {
    this.clock = await this.demo.advance(to);
    return this.afterClock();
  }

  async setSpeed(speed: number): Promise<VenueClock> {
    this.clock = await this.demo.setSpeed(speed);
    return this.afterClock();
  }

  /** Drops or restores a link. Answers when what was missed is applied. */
  async setLink(wish: { broker?: 'up' | 'down' | undefined; data?: 'up' | 'down' | undefined }): Promise<DeskLink> {
    const before = this.link;
    const theirs = await this.demo.setLink(wish);
    const back = theirs.broker === 'up' && before.broker !== 'up';
    this.link = { ...theirs, broker: back ? 'reconciling' : theirs.broker };
    if (before.data !== theirs.data || (before.broker === 'down') !== (theirs.broker === 'down')) {
      const text = `Broker link ${theirs.broker}, market data ${theirs.data}.`;
      await this.note({ kind: 'link', broker: theirs.broker, data: theirs.data }, text);
    }
    this.feed.tellLink();
    if (theirs.broker === 'down' || theirs.data === 'down') {
      await this.followers.linked(false);
      await this.happened({ kind: 'cut-off', restart: false });
    }
    if (back) await this.reconcile().catch(() => this.reconcileLater());
    else await this.goOn();
    return this.link;
  }

  clockNow(): Promise<VenueClock> {
    return this.demo.clock();
  }

  survey: DemoControls['survey'] = () => this.demo.survey();
  depth: Prices['depth'] = (instrument, levels) => this.prices.depth(instrument, levels);
  bars: Prices['bars'] = (request) => this.prices.bars(request);
  prints: Prices['prints'] = (request) => this.prices.prints(request);
  news: Prices['news'] = (request) => this.prices.news(request);

  /** Where working orders stand at the venue; nothing while there is no link to ask by. */
  async standing(orderIds: readonly string[]): Promise<ReadonlyMap<string, OrderStanding>> {
    if (orderIds.length === 0 || this.link.broker === 'down') return new Map();
    return new Map((await this.broker.standing(orderIds)).map((one) => [one.id, one]));
  }

  /** Where a following or trailing order stood when it was last looked at. */
  lastStanding(orderId: string): Price | null {
    return this.feed.standingOf(orderId);
  }

  /** Makes sure that everything the accounts hold or trade has a mark. */
  async ensureMarks(accounts: readonly string[]): Promise<void> {
    const needed = new Set<string>();
    for (const id of accounts) for (const one of markedInstruments(this.account(id), this.instrument)) needed.add(one);
    await this.market.ensure([...needed]);
  }

  /** What things are worth now: as the newest row says it, where somebody waits on it, else as the quote does. */
  marks(): Market {
    return { instrument: this.instrument, mark: (id) => this.seen.get(id)?.mark ?? this.market.mark(id) };
  }

  /** For the feed: the quote of an instrument, if it is known. */
  quoteOf(id: string): Quote | undefined {
    return this.market.quote(id);
  }

  /** Tells the broker which markets' rows and which moment somebody waits on, if that changed. */
  followArmed(): void {
    const others = this.followers.armed;
    const own = [...this.own.values()].flatMap(({ waitsOn }) => [...waitsOn]);
    const instruments = [...new Set([...own, ...others.flatMap(({ instruments: more }) => more)])].sort();
    const wakes = [...this.accounts.values()].flatMap((state) => nextWake(state, this.instrument, this.now()) ?? []);
    wakes.push(...others.flatMap(({ wakeAt }) => wakeAt ?? []));
    const wakeAt = wakes.length === 0 ? null : Math.min(...wakes);
    if (wakeAt === this.armed.wakeAt && instruments.join() === this.armed.instruments.join()) return;
    for (const id of this.seen.keys()) if (!instruments.includes(id)) this.seen.delete(id);
    this.armed = { instruments, wakeAt };
    void this.broker.arm(this.armed).catch(() => undefined);
  }

  /** Once broker and prices are back, what is held here goes on. */
  private async goOn(): Promise<void> {
    if (this.link.broker !== 'up' || this.link.data !== 'up') return;
    await this.happened({ kind: 'back' });
    await this.waitForVenue();
    await this.followers.linked(true);
    await this.waitForVenue();
  }

  private passed(time: number): void {
    this.market.time = Math.max(this.market.time, time);
    const ended = this.clock.tapeEndsAt !== null && this.market.time >= this.clock.tapeEndsAt;
    if (this.clock.time !== this.market.time || this.clock.ended !== ended) this.clock = { ...this.clock, time: this.market.time, ended };
  }

  private async afterClock(): Promise<VenueClock> {
    await this.settled();
    await this.followers.settled();
    this.passed(this.clock.time);
    this.feed.tellClock();
    return this.clock;
  }

  private deskOf(state: AccountState): AccountDesk {
    return new AccountDesk({
      state,
      broker: this.broker,
      ledger: this.ledger,
      instrument: this.instrument,
      gather: (needs) => this.gather(state, needs),
      send: (commands) => this.send(commands),
      rearm: () => this.followArmed(),
      awaited: () => this.followers.awaits(state.terms.id),
    });
  }

  private of(account: string): AccountDesk {
    const found = this.own.get(account);
    if (!found) throw new Error(`unknown account ${account}`);
    return found;
  }

  /** Something that nobody asked for happened to every account. */
  private async happened(event: AccountEvent): Promise<void> {
    await Promise.all([...this.own.values()].map((own) => own.happened(event)));
  }

  private send(commands: readonly BrokerCommand[]): void {
    if (this.link.broker === 'down') return;
    this.sent += commands.length;
    this.broker.send(commands).catch(() => this.reconcileLater());
  }

  private gather(state: AccountState, needs: Needs): Promise<GatheredFacts> {
    return gatherFacts(
      {
        market: this.market,
        prices: this.prices,
        tables: this.ledger.tables,
        link: () => this.link.broker,
        standing: (id) => this.lastStanding(id),
        data: () => this.link.data,
        consent: () => this.settings.consents(state.terms.user),
        seen: (id) => this.seen.get(id),
      },
      state.terms.id,
      needs,
    );
  }

  private written(state: AccountState | null, entry: Entry, touched: Touched): void {
    const { data } = entry;
    if (this.settings.waitsForVenue) {
      if (data.kind === 'order-report' && data.report.kind === 'cancel-rejected' && !touched.orders.some(({ order }) => isOnItsWay(order)))
        this.rejected.set(data.report.requestId, data.report.reason);
      if (data.kind === 'link-refused') this.rejected.set(data.requestId, data.reason);
    }
    this.feed.tellEntry(state, entry, touched);
    this.followers.entry(entry);
  }

  private async note(data: Draft['data'], text: string): Promise<void> {
    const draft = { time: this.now(), account: null, by: 'desk', instrument: null, orderId: null, causedBy: null, text, data, history: null } as const;
    const entries = await this.ledger.written([draft]);
    if (entries) this.ledger.apply(entries, new Map());
  }

  /** Makes desk and broker agree; while that goes on, another wish for it is the same. */
  private reconcile(): Promise<void> {
    this.reconciling ??= this.reconcileAll().finally(() => (this.reconciling = null));
    return this.reconciling;
  }

  private reconcileLater(): void {
    if (this.closed || this.link.broker === 'down') return;
    // What runs may have looked already: what was lost since is looked at by the next.
    const ran = this.reconciling?.catch(() => undefined) ?? Promise.resolve();
    ran.then(() => this.reconcile()).catch(() => setTimeout(() => this.reconcileLater(), RECONCILE_AGAIN_MS).unref());
  }

  private async reconcileAll(): Promise<void> {
    this.link = { ...this.link, broker: 'reconciling' };
    this.feed.tellLink();
    await Promise.all([...this.own.values()].map((own) => own.reconcile()));
    await this.waitForVenue();
    await this.market.followWanted();
    if (this.link.broker !== 'reconciling') return;
    this.link = { ...this.link, broker: 'up' };
    this.feed.tellLink();
    await Promise.all([...this.accounts].map(([account, state]) => this.of(account).happened({ kind: 'arranged', instruments: [...state.plansIn.keys()] })));
    await this.waitForVenue();
    await this.goOn();
  }

  private async waitForVenue(): Promise<void> {
    if (!this.settings.waitsForVenue) return;
    // What the venue says can lead to more: it is quiet once nothing more was sent.
    for (let sent = -1; sent !== this.sent;) {
      sent = this.sent;
      await this.broker.settled();
      await this.settled();
      await this.followers.settled();
    }
  }

  /** Waits, where calls do, until what was asked is answered. What was lost on its way is sent again by reconciling. */
  private async answered(): Promise<void> {
    await this.waitForVenue();
    while (this.settings.waitsForVenue && this.reconciling) {
      await this.reconciling.catch(() => undefined);
      await this.waitForVenue();
    }
  }

  private takeRejected(requestId: string): string | undefined {
    const reason = this.rejected.get(requestId);
    this.rejected.delete(requestId);
    return reason;
  }
}
