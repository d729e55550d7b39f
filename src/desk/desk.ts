import type { RunningPlan } from '../core/exits/index.ts';
import type { Instrument, Price } from '../core/instrument/index.ts';
import type { MarketTrade, Quote } from '../core/market/index.ts';
import { isOnItsWay, type Order, type OrderGroup, type OrderIntent, type ReasonCode, type Refusal } from '../core/orders/index.ts';
import {
  armedInstruments,
  asIfWorking,
  commandOf,
  decide,
  hasRules,
  judgeOrder,
  keepFollowing,
  keepPlan,
  markedInstruments,
  needsOf,
  nextWake,
  newAccountState,
  followedInstruments,
  orderOf,
  type AccountEvent,
  type AccountState,
  type Answer,
  type Decision,
  type Draft,
  type Entry,
  type Facts,
  type Fill,
  type Intent,
  type Judgement,
  type Lodged,
  type PriceRow,
  type RefusedOrder,
  type Touched,
  type Working,
} from '../core/desk/index.ts';
import type { Application, CashRequest, Commission, Market, NewIssue } from '../core/portfolio/index.ts';
import type { RiskState } from '../core/risk/index.ts';
import { accepted, refused, type Result } from '../core/result.ts';
import type { Armed, Headline, OrderStanding, StreamItem } from '../venue/messages.ts';
import { gatherFacts, type GatheredFacts } from './facts.ts';
import { Feed } from './feed.ts';
import type { UserTopic } from './hub.ts';
import { Inbox } from './inbox.ts';
import { Ledger } from './ledger.ts';
import { MarketData } from './market-data.ts';
import type { Broker, DemoControls, DeskLink, Prices, VenueClock } from './outside.ts';
import { SerialQueue } from './queue.ts';
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

/** What became of what was asked. */
export type Outcome =
  | { readonly kind: 'done' }
  | { readonly kind: 'order'; readonly order: Order; readonly made: boolean }
  | { readonly kind: 'group'; readonly group: OrderGroup; readonly orders: readonly Order[]; readonly made: boolean }
  | { readonly kind: 'plan'; readonly plan: RunningPlan }
  | { readonly kind: 'cash'; readonly request: CashRequest; readonly made: boolean }
  | { readonly kind: 'application'; readonly application: Application; readonly made: boolean }
  | { readonly kind: 'risk'; readonly risk: RiskState; readonly made: boolean }
  | { readonly kind: 'orders'; readonly canceled: readonly Order[]; readonly closing: readonly Order[]; readonly refused: readonly RefusedOrder[] };

/** Orders judged one after the other, each with the state it was judged in, and the state after all that pass. */
export interface JudgedTogether {
  readonly judged: readonly { readonly judgement: Judgement; readonly before: AccountState }[];
  readonly after: AccountState;
  readonly facts: Facts;
}

/** Who follows what the market and the accounts bring, besides the accounts themselves. */
export interface Follower {
  /** Resolves when all that follows from it is committed: the market may wait for that. */
  heard(items: readonly StreamItem[], time: number): Promise<void>;
  news(headlines: readonly Headline[]): void;
  entry(entry: Entry): void;
  /** Broker and prices are both there, or no longer. */
  linked(up: boolean): Promise<void>;
  settled(): Promise<unknown>;
  /** The state of a topic that is a user's own; null where it is another's business. */
  snapshot(topic: UserTopic, user: string): Promise<unknown>;
  /** Whether something in an account must follow before the market goes on. */
  awaits(account: string): boolean;
  readonly armed: Armed;
}

const LOG_DOWN: Refusal = { kind: 'unavailable', detail: 'The activity log could not be written. Nothing was sent or kept.' };
const LOG_UNCERTAIN: Refusal = {
  kind: 'unavailable',
  detail: 'The activity log did not answer: it is not known yet whether this was kept. Its client order id tells later.',
};

const RECONCILING: Refusal = { kind: 'unavailable', detail: 'Kavix and the broker are being brought to agree.' };

const NOT_LODGED: Refusal = { kind: 'unavailable', detail: 'The broker did not take the lock. Nothing was locked or changed.' };

const ORDER_ID = /^[A-Za-z0-9._-]{1,64}$/;
const WRITE_AGAIN_MS = 50;
const RECONCILE_AGAIN_MS = 500;
const REPORTS_AT_ONCE = 500;
/** Reports that are written before the broker may forget them. */
const REPORTS_AN_ACKNOWLEDGEMENT = 200;
const TRIES_TO_AGREE = 40;

/** What was reported and can't be applied is a bug: going on without it would be wrong, a start from the log applies it anew. */
const endProgram = (error: unknown): void =>
  void setImmediate(() => {
    throw error;
  });

interface Account {
  readonly queue: SerialQueue;
  readonly inbox: Inbox;
  /** Heard and not yet applied. */
  pending: StreamItem[];
  /** Instruments whose rows it waits on. */
  waitsOn: ReadonlySet<string>;
  acknowledged: number;
}

/**
 * Performs what the core decides: one queue an account, every decision committed before it is sent, every report
 * applied once and in order. It has no rules of its own.
 */
export class Desk {
  readonly accounts = new Map<string, AccountState>();
  readonly market: MarketData;
  readonly feed: Feed;
  clock: VenueClock;
  link: DeskLink;
  private readonly followers: Follower[] = [];
  private readonly broker: Broker;
  private readonly prices: Prices;
  private readonly demo: DemoControls;
  private readonly ledger: Ledger;
  private readonly settings: DeskSettings;
  private readonly own = new Map<string, Account>();
  private reconciling: Promise<void> | null = null;
  private armed: Armed = { instruments: [], wakeAt: null };
  /** Newest rows of what somebody waits on, until a newer quote comes. */
  private readonly seen = new Map<string, PriceRow>();
  /** Requests given to the broker so far. */
  private sent = 0;
  /** Requests that the venue refused while a call waits for them, with the venue's words. */
  private readonly rejected = new Map<string, string>();
  private closed = false;

  constructor({ broker, prices, demo, store }: DeskParts, settings: DeskSettings) {
    this.broker = broker;
    this.prices = prices;
    this.demo = demo;
    this.settings = settings;
    this.clock = demo.started;
    this.link = demo.link;
    this.feed = new Feed(this);
    this.market = new MarketData(prices, this.feed, () => this.feed.wanted());
    this.ledger = new Ledger(
      store,
      this.accounts,
      (id) => this.market.instrument(id),
      (state, entry, touched) => this.written(state, entry, touched),
    );
    for (const terms of broker.accounts) {
      this.accounts.set(terms.id, newAccountState(terms));
      const inbox = new Inbox(
        (after, limit) => broker.reportsAfter(terms.id, after, limit),
        (items) => this.heard(terms.id, items),
      );
      this.own.set(terms.id, { queue: new SerialQueue(), inbox, pending: [], waitsOn: new Set(), acknowledged: 0 });
    }
  }

  /** Rebuilds the state from the log, then reconciles with the broker. */
  async open(): Promise<void> {
    await this.ledger.rebuild();
    this.feed.beginAt(this.ledger.lastSeq);
    this.prices.listen({
      market: (update) => {
        this.market.take(update);
        for (const { instrument } of update.quotes) this.seen.delete(instrument);
        this.passed(update.time);
        for (const follower of this.followers) follower.news(update.news);
      },
      beat: () => this.feed.alive(),
    });
    this.broker.listen({
      stream: async (items, time) => {
        this.passed(time);
        for (const item of items) if (item.kind === 'price') this.seen.set(item.row.instrument, item.row);
        await Promise.all([...this.own].map(([id, { inbox }]) => this.receive(id, inbox, items)));
        for (const follower of this.followers) await follower.heard(items, time);
      },
      alive: (newest) => {
        this.feed.brokerAlive();
        if (this.link.broker === 'up') for (const [id, seq] of Object.entries(newest)) void this.own.get(id)?.inbox.expect(seq);
      },
    });
    await this.market.followWanted();
    await this.market.ensure([...this.feed.heldInstruments()]);
    for (const [account, state] of this.accounts) {
      this.of(account).waitsOn = armedInstruments(state);
      await this.happened(account, { kind: 'cut-off', restart: this.link.broker === 'up' && this.link.data === 'up' });
    }
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

  instrument(id: string): Instrument {
    return this.market.instrument(id);
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
    for (const { queue } of this.own.values()) await queue.idle();
  }

  /** Asks something of an account: decided in its queue, committed, sent, and where calls wait, answered by the venue. */
  async ask(account: string, intent: Intent): Promise<Result<Outcome, Refusal>> {
    for (;;) {
      const answer = await this.perform(account, { kind: 'asked', intent });
      switch (answer.kind) {
        case 'waits':
          await (this.reconciling ?? new Promise((resolve) => setTimeout(resolve, WRITE_AGAIN_MS)));
          continue;
        case 'refused':
          return refused(answer.refusal);
        case 'order':
          return this.orderOutcome(account, answer);
        case 'orders':
          return this.ordersOutcome(account, answer);
        case 'group':
          return this.groupOutcome(account, answer);
        case 'risk':
          await this.answered();
          return accepted({ kind: 'risk', risk: this.account(account).risk, made: answer.made ?? false });
        case 'plan':
          await this.answered();
          return accepted({ kind: 'plan', plan: this.account(account).plans.get(answer.planId) as RunningPlan });
        case 'cash': {
          await this.answered();
          const known = this.account(account).cash.get(answer.requestId);
          if (!known) throw new Error(`the request ${answer.requestId} is gone`);
          return accepted({ kind: 'cash', request: known.request, made: answer.made });
        }
        case 'application': {
          await this.answered();
          const known = this.account(account).applications.get(answer.applicationId);
          if (!known) throw new Error(`the application ${answer.applicationId} is gone`);
          return accepted({ kind: 'application', application: known.application, made: answer.made });
        }
        case 'done':
          return accepted({ kind: 'done' });
        case 'many':
          throw new Error('several orders at once are asked for by placeMany');
        default:
          return answer satisfies never;
      }
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
    const needs = needsOf(state, event, (id) => this.market.instrument(id));
    const facts = await this.gather(state, { ...needs, books: [intent.instrument], clientOrderIds: [] });
    return { judgement: judgeOrder(state, intent, facts), facts, state };
  }

  /** Agrees with the broker on a line of commission; answered once it has reported it. */
  async agree(account: string, line: Commission): Promise<Result<null, Refusal>> {
    if (this.link.broker !== 'up') return refused({ kind: 'unavailable', detail: 'Commission is agreed with the broker, and its link is down.' });
    const seq = await this.broker.agree(account, line).catch(() => null);
    if (seq === null) return refused({ kind: 'unavailable', detail: 'The broker did not answer. Asked again it is the same line.' });
    // What was missed when the link is lost meanwhile is told when it is back.
    while (this.account(account).lastReport < seq && this.link.broker === 'up') await new Promise((resolve) => setTimeout(resolve, WRITE_AGAIN_MS));
    return accepted(null);
  }

  /** Lets somebody follow what the market and the accounts bring. */
  followedBy(follower: Follower): void {
    this.followers.push(follower);
  }

  /** For the feed: the state of a topic that is a user's own. */
  ownTopic(topic: UserTopic, user: string): Promise<unknown> {
    return Promise.all(this.followers.map((follower) => follower.snapshot(topic, user))).then((all) => all.find((one) => one !== null) ?? []);
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
    const answer = await this.perform(account, { kind: 'asked', intent: { kind: 'place', order } });
    if (answer.kind === 'order') return accepted(answer.orderId);
    return refused(answer.kind === 'refused' ? answer.refusal : RECONCILING);
  }

  /** Asks for several orders in one decision, without waiting for the venue: what became of each, or why none could be asked for. */
  async placeMany(account: string, orders: readonly OrderIntent[]): Promise<Result<readonly Result<string, Refusal>[], Refusal>> {
    const answer = await this.perform(account, { kind: 'asked', intent: { kind: 'place-many', orders } });
    if (answer.kind === 'many') return accepted(answer.placed);
    return refused(answer.kind === 'refused' ? answer.refusal : RECONCILING);
  }

  /** Cancels an order for another reason than the trader's wish, without waiting for the venue. */
  async cancel(account: string, orderId: string, reasonCode: ReasonCode): Promise<void> {
    await this.perform(account, { kind: 'asked', intent: { kind: 'cancel', orderId, reasonCode } });
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
    const needs = intents.map((order) => needsOf(state, { kind: 'asked', intent: { kind: 'place', order } }, (id) => this.market.instrument(id)));
    const quotes = new Set([...markedInstruments(state, (id) => this.market.instrument(id)), ...needs.flatMap((need) => [...need.quotes])]);
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
    if (theirs.broker === 'down' || theirs.data === 'down') for (const follower of this.followers) await follower.linked(false);
    if (theirs.broker === 'down' || theirs.data === 'down')
      await Promise.all([...this.accounts.keys()].map((account) => this.happened(account, { kind: 'cut-off', restart: false })));
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
    for (const id of accounts) for (const one of markedInstruments(this.account(id), (of) => this.market.instrument(of))) needed.add(one);
    await this.market.ensure([...needed]);
  }

  /** What things are worth now: as the newest row says it, where somebody waits on it, else as the quote does. */
  marks(): Market {
    return { instrument: (id) => this.market.instrument(id), mark: (id) => this.seen.get(id)?.mark ?? this.market.mark(id) };
  }

  /** For the feed: the quote of an instrument, if it is known. */
  quoteOf(id: string): Quote | undefined {
    return this.market.quote(id);
  }

  /** Tells the broker which markets' rows and which moment somebody waits on, if that changed. */
  followArmed(): void {
    const others = this.followers.map(({ armed }) => armed);
    const own = [...this.own.values()].flatMap(({ waitsOn }) => [...waitsOn]);
    const instruments = [...new Set([...own, ...others.flatMap(({ instruments: more }) => more)])].sort();
    const wakes = [...this.accounts.values()].flatMap((state) => nextWake(state, (id) => this.market.instrument(id), this.now()) ?? []);
    wakes.push(...others.flatMap(({ wakeAt }) => wakeAt ?? []));
    const wakeAt = wakes.length === 0 ? null : Math.min(...wakes);
    if (wakeAt === this.armed.wakeAt && instruments.join() === this.armed.instruments.join()) return;
    for (const id of this.seen.keys()) if (!instruments.includes(id)) this.seen.delete(id);
    this.armed = { instruments, wakeAt };
    void this.broker.arm(this.armed).catch(() => undefined);
  }

  /** Something that nobody asked for: decided in the account's queue, for sure. */
  private happened(account: string, event: AccountEvent): Promise<void> {
    const state = this.account(account);
    return this.of(account).queue.run(async () => this.follow(state, await this.performForSure(state, event)));
  }

  /** Once broker and prices are back, what is held here goes on. */
  private async goOn(): Promise<void> {
    if (this.link.broker !== 'up' || this.link.data !== 'up') return;
    await Promise.all([...this.accounts.keys()].map((account) => this.happened(account, { kind: 'back' })));
    await this.waitForVenue();
    for (const follower of this.followers) await follower.linked(true);
    await this.waitForVenue();
  }

  private passed(time: number): void {
    this.market.time = Math.max(this.market.time, time);
    const ended = this.clock.tapeEndsAt !== null && this.market.time >= this.clock.tapeEndsAt;
    if (this.clock.time !== this.market.time || this.clock.ended !== ended) this.clock = { ...this.clock, time: this.market.time, ended };
  }

  private async afterClock(): Promise<VenueClock> {
    await this.settled();
    for (const follower of this.followers) await follower.settled();
    this.passed(this.clock.time);
    this.feed.tellClock();
    return this.clock;
  }

  private of(account: string): Account {
    const found = this.own.get(account);
    if (!found) throw new Error(`unknown account ${account}`);
    return found;
  }

  private gather(state: AccountState, needs: ReturnType<typeof needsOf>): Promise<GatheredFacts> {
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

  private async gatherForSure(state: AccountState, event: AccountEvent): Promise<GatheredFacts> {
    const needs = needsOf(state, event, (id) => this.market.instrument(id));
    for (;;) {
      const facts = await this.gather(state, needs).catch(() => null);
      if (facts) return facts;
      await new Promise((resolve) => setTimeout(resolve, WRITE_AGAIN_MS));
    }
  }

  /** Decides an event in its account's queue, writes what was decided, then sends what follows from it. */
  private perform(account: string, event: AccountEvent): Promise<Answer> {
    return new Promise((resolve, reject) => {
      this.of(account)
        .queue.run(() => this.performNow(account, event, resolve))
        .catch(reject);
    });
  }

  private async performNow(account: string, event: AccountEvent, answer: (answer: Answer) => void): Promise<void> {
    const state = this.account(account);
    const facts = await this.gather(
      state,
      needsOf(state, event, (id) => this.market.instrument(id)),
    );
    const decision = decide(state, event, facts);
    if (decision.lodge && !(await this.lodged(account, decision.lodge))) return answer({ kind: 'refused', refusal: NOT_LODGED });
    const appended = await this.ledger.append(decision.entries);
    if (appended.kind === 'lost') return answer({ kind: 'refused', refusal: LOG_DOWN });
    let entries: readonly Entry[] | null = null;
    if (appended.kind === 'kept') entries = appended.entries;
    else {
      answer({ kind: 'refused', refusal: LOG_UNCERTAIN });
      entries = await appended.settled;
    }
    if (entries) {
      this.carryOut(state, entries, decision, facts);
      await this.follow(state, entries);
    }
    answer(decision.answer);
  }

  /** Whether the broker has locked rules for good. */
  private lodged(account: string, lodged: Lodged): Promise<boolean> {
    return this.broker.lodge(account, lodged).then(
      () => true,
      () => false,
    );
  }

  /** What has happened can't be refused: it is written, however often that has to be tried. */
  private async performForSure(state: AccountState, event: AccountEvent): Promise<readonly Entry[]> {
    for (;;) {
      const facts = await this.gatherForSure(state, event);
      const decision = decide(state, event, facts);
      const appended = await this.ledger.append(decision.entries);
      const entries = appended.kind === 'kept' ? appended.entries : appended.kind === 'uncertain' ? await appended.settled : null;
      if (entries) {
        this.carryOut(state, entries, decision, facts);
        // What was lodged otherwise there is written back.
        if (decision.lodge) await this.lodged(state.terms.id, decision.lodge);
        return entries;
      }
      await new Promise((resolve) => setTimeout(resolve, WRITE_AGAIN_MS));
    }
  }

  /**
   * Lets exit plans and rules follow what happened, until nothing more comes of it.
   *
   * @param whole false where more of the same event is still to come: the rules look at it as a whole
   */
  private async follow(state: AccountState, entries: readonly Entry[], whole = true): Promise<void> {
    for (let more = entries, first = true; first || more.length > 0; first = false) {
      const instruments = followedInstruments(state, more);
      const arranged = instruments.length > 0 ? await this.performForSure(state, { kind: 'arranged', instruments }) : [];
      const judged = whole && hasRules(state) ? await this.performForSure(state, { kind: 'judged' }) : [];
      more = [...arranged, ...judged];
    }
  }

  /** Applies what is written, and sends what follows from it. What can't be sent now is looked at when reconciling. */
  private carryOut(state: AccountState, entries: readonly Entry[], { following = [], followingOrders = [] }: Decision, facts: GatheredFacts): void {
    this.ledger.apply(entries, facts.pastOrders);
    for (const plan of following) keepPlan(state, plan);
    for (const order of followingOrders) keepFollowing(state, order);
    if (entries.length === 0) return;
    const own = this.of(state.terms.id);
    if (state.plans.size + state.here.size + own.waitsOn.size > 0 || hasRules(state)) {
      own.waitsOn = armedInstruments(state);
      this.followArmed();
    }
    this.sendFrom(state, entries);
  }

  private sendFrom(state: AccountState, entries: readonly Entry[]): void {
    const commands = entries.flatMap((entry) => commandOf(entry, state) ?? []);
    if (commands.length === 0 || this.link.broker === 'down') return;
    this.sent += commands.length;
    this.broker.send(commands).catch(() => this.reconcileLater());
  }

  private written(state: AccountState | null, entry: Entry, touched: Touched): void {
    const { data } = entry;
    if (this.settings.waitsForVenue) {
      if (data.kind === 'order-report' && data.report.kind === 'cancel-rejected' && !touched.orders.some(({ order }) => isOnItsWay(order)))
        this.rejected.set(data.report.requestId, data.report.reason);
      if (data.kind === 'link-refused') this.rejected.set(data.requestId, data.reason);
    }
    this.feed.tellEntry(state, entry, touched);
    for (const follower of this.followers) follower.entry(entry);
  }

  private async note(data: Draft['data'], text: string): Promise<void> {
    const draft = { time: this.now(), account: null, by: 'desk', instrument: null, orderId: null, causedBy: null, text, data, history: null } as const;
    const appended = await this.ledger.append([draft]);
    const entries = appended.kind === 'kept' ? appended.entries : appended.kind === 'uncertain' ? await appended.settled : null;
    if (entries) this.ledger.apply(entries, new Map());
  }

  /** What an account hears of a message: its own reports, and the rows it waits on. */
  private receive(account: string, inbox: Inbox, items: readonly StreamItem[]): Promise<void> {
    const { waitsOn } = this.of(account);
    const isMine = (item: StreamItem): boolean =>
      item.kind === 'timer' || (item.kind === 'report' ? item.report.account === account : waitsOn.has(item.row.instrument));
    const mine = items.filter(isMine);
    return mine.length === 0 ? Promise.resolve() : inbox.receive(mine);
  }

  /** Takes items in order. Only where something could follow from them does anybody wait for it. */
  private heard(account: string, items: readonly StreamItem[]): Promise<void> {
    const own = this.of(account);
    own.pending.push(...items);
    const done = own.queue.run(() => this.applyPending(account));
    done.catch(endProgram);
    const state = this.account(account);
    const awaited = state.plans.size + state.here.size > 0 || hasRules(state) || this.followers.some((follower) => follower.awaits(account));
    return awaited ? done : Promise.resolve();
  }

  private async applyPending(account: string): Promise<void> {
    const own = this.of(account);
    const state = this.account(account);
    while (own.pending.length > 0) {
      const first = own.pending[0] as StreamItem;
      if (first.kind !== 'report') {
        own.pending.shift();
        await this.follow(state, await this.performForSure(state, first.kind === 'price' ? { kind: 'priced', row: first.row } : { kind: 'timer' }));
        if (first.kind === 'timer') this.followArmed();
        continue;
      }
      const reports = [];
      for (let next = own.pending[0]; next?.kind === 'report' && reports.length < REPORTS_AT_ONCE; next = own.pending[0]) {
        reports.push(next.report);
        own.pending.shift();
      }
      const entries = await this.performForSure(state, { kind: 'reported', reports });
      // The row that led to these fills comes right after them.
      await this.follow(state, entries, own.pending[0]?.kind !== 'price');
    }
    if (state.lastReport - own.acknowledged >= REPORTS_AN_ACKNOWLEDGEMENT) {
      own.acknowledged = state.lastReport;
      void this.broker.acknowledge([{ account, seq: state.lastReport }]).catch(() => undefined);
    }
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
    await Promise.all([...this.own.keys()].map((account) => this.reconcileAccount(account)));
    await this.waitForVenue();
    await this.market.followWanted();
    if (this.link.broker !== 'reconciling') return;
    this.link = { ...this.link, broker: 'up' };
    this.feed.tellLink();
    await Promise.all([...this.accounts].map(([account, state]) => this.happened(account, { kind: 'arranged', instruments: [...state.plansIn.keys()] })));
    await this.waitForVenue();
    await this.goOn();
  }

  private async reconcileAccount(account: string): Promise<void> {
    const { queue, inbox } = this.of(account);
    const state = this.account(account);
    for (let tries = 0; ; tries++) {
      await inbox.beginAfter(state.lastReport);
      await queue.idle();
      const agreed = await queue.run(async () => {
        const theirs = await this.broker.status(account);
        // Reports on their way are heard first; one that the broker has forgotten never comes.
        const awaited = theirs.lastSeq > state.lastReport && theirs.forgotten <= state.lastReport && tries < TRIES_TO_AGREE;
        if (awaited) return false;
        await this.performForSure(state, { kind: 'reconciled', theirs });
        return true;
      });
      if (agreed) break;
    }
    await inbox.beginAfter(state.lastReport);
  }

  private async waitForVenue(): Promise<void> {
    if (!this.settings.waitsForVenue) return;
    // What the venue says can lead to more: it is quiet once nothing more was sent.
    for (let sent = -1; sent !== this.sent;) {
      sent = this.sent;
      await this.broker.settled();
      await this.settled();
      for (const follower of this.followers) await follower.settled();
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

  private async groupOutcome(account: string, answer: Answer & { kind: 'group' }): Promise<Result<Outcome, Refusal>> {
    await this.answered();
    const reason = answer.requestId === null ? undefined : this.takeRejected(answer.requestId);
    if (reason !== undefined) return refused({ kind: 'venue-rejected', detail: reason });
    const orders = await Promise.all(answer.orderIds.map((id) => this.findOrder(id, [account])));
    return accepted({ kind: 'group', group: answer.group, orders: orders.filter((order) => order !== null), made: answer.made });
  }

  private async orderOutcome(account: string, answer: Answer & { kind: 'order' }): Promise<Result<Outcome, Refusal>> {
    await this.answered();
    const order = await this.findOrder(answer.orderId, [account]);
    if (!order) throw new Error(`the order ${answer.orderId} is gone`);
    const reason = answer.requestId === null ? undefined : this.takeRejected(answer.requestId);
    if (reason !== undefined) return refused({ kind: 'venue-rejected', detail: reason });
    return accepted({ kind: 'order', order, made: answer.made });
  }

  /** What really became of each order: where the venue refused, that is said. */
  private async ordersOutcome(account: string, answer: Answer & { kind: 'orders' }): Promise<Result<Outcome, Refusal>> {
    if (answer.canceled.length + answer.closing.length > 0) await this.answered();
    const failed: RefusedOrder[] = [...answer.refused];
    const canceled: Order[] = [];
    for (const { orderId, requestId } of answer.canceled) {
      const reason = this.takeRejected(requestId);
      const order = await this.findOrder(orderId, [account]);
      if (reason !== undefined) failed.push({ orderId, detail: reason });
      else if (order) canceled.push(order);
    }
    const closing = await Promise.all(answer.closing.map((id) => this.findOrder(id, [account])));
    return accepted({ kind: 'orders', canceled, closing: closing.filter((order) => order !== null), refused: failed });
  }

  private takeRejected(requestId: string): string | undefined {
    const reason = this.rejected.get(requestId);
    this.rejected.delete(requestId);
    return reason;
  }
}
