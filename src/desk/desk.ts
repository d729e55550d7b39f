import { randomUUID } from 'node:crypto';
import { formatQuantity, type Instrument } from '../core/instrument/index.ts';
import type { Quote } from '../core/market/index.ts';
import {
  fingerprint,
  invalid,
  isFinished,
  orderSentence,
  orderState,
  requestCancel,
  requestReplace,
  requestedOrder,
  type Order,
  type OrderChange,
  type OrderRequest,
  type ReasonCode,
  type Refusal,
} from '../core/orders/index.ts';
import { accepted, refused, type Result } from '../core/result.ts';
import type { BrokerReport, LinkState, VenueClock } from '../venue/messages.ts';
import type { BrokerLink } from './broker-link.ts';
import { Feed } from './feed.ts';
import { JournalUnavailable, type Entry, type JournalStore } from './journal.ts';
import { Ledger, type DeskStore } from './ledger.ts';
import { MarketData } from './market-data.ts';
import { SerialQueue } from './queue.ts';
import { ReportStream } from './report-stream.ts';
import { differences, draftReports } from './reports.ts';
import { changeable, closingRequest, decidePlacement, decideReplace, type Placement } from './trading.ts';
import { newAccountState, type AccountState } from './state.ts';
import { historyLine } from './words.ts';

export interface DeskSettings {
  /** Calls wait until the venue's answer has been applied: a manual clock without latency. */
  readonly waitsForVenue: boolean;
}

const LINK_DOWN: Refusal = { kind: 'unavailable', detail: 'There is no link to the broker. Nothing was sent or kept.' };
const LOG_DOWN: Refusal = { kind: 'unavailable', detail: 'The activity log could not be written. Nothing was sent or kept.' };

export interface Placed {
  readonly order: Order;
  /** False where the same client order id had made it before. */
  readonly made: boolean;
}

export interface Flattened {
  readonly canceled: readonly Order[];
  readonly closing: readonly Order[];
  readonly refused: readonly { readonly orderId: string; readonly detail: string }[];
}

/**
 * The running desk: one queue an account, every decision committed before it is sent, every report applied
 * once and in order.
 */
export class Desk {
  readonly accounts = new Map<string, AccountState>();
  readonly market: MarketData;
  readonly feed: Feed;
  clock: VenueClock;
  link: LinkState;
  private readonly broker: BrokerLink;
  private readonly ledger: Ledger;
  private readonly reports: ReportStream;
  private readonly settings: DeskSettings;
  private readonly queues = new Map<string, SerialQueue>();

  constructor(store: DeskStore, broker: BrokerLink, settings: DeskSettings) {
    this.broker = broker;
    this.settings = settings;
    this.clock = broker.clock;
    this.link = broker.link;
    this.feed = new Feed(this);
    this.ledger = new Ledger(store, this);
    this.reports = new ReportStream(
      (after) => broker.call('resend', { after }),
      (reports) => this.dispatch(reports),
    );
    this.market = new MarketData(broker, this.feed, () => this.feed.wanted());
    for (const terms of broker.accounts) {
      this.accounts.set(terms.id, newAccountState(terms));
      this.queues.set(terms.id, new SerialQueue());
    }
  }

  /** Rebuilds the state from the log, then reconciles with the broker. */
  async open(): Promise<void> {
    await this.ledger.rebuild();
    this.broker.listen({
      reports: (reports) => this.reports.receive(reports),
      market: (update) => {
        this.market.take(update);
        this.clock = { ...this.clock, time: this.market.time, ended: this.clock.tapeEndsAt !== null && this.market.time >= this.clock.tapeEndsAt };
      },
      beat: (time) => this.feed.alive(time),
    });
    await this.market.followWanted();
    await this.market.ensure([...this.feed.heldInstruments()]);
    if (this.link.broker === 'up') await this.reconcile();
  }

  async close(): Promise<void> {
    this.feed.stop();
    this.market.stop();
    await this.settled();
    await this.ledger.snapshot();
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

  findOrder(id: string, accounts: readonly string[]): Order | undefined {
    for (const account of accounts) {
      const order = this.account(account).orders.get(id);
      if (order) return order;
    }
    return undefined;
  }

  /** Resolves when every report received so far has been applied. */
  async settled(): Promise<void> {
    for (const queue of this.queues.values()) await queue.idle();
  }

  /** Places an order; the same client order id with the same content is the same order. */
  async place(request: OrderRequest): Promise<Result<Placed, Refusal>> {
    if (!this.market.find(request.instrument)) return refused(invalid('/instrument', `${request.instrument} is not known`));
    await this.prepare(request.account, request.instrument);
    const done = await this.enqueue(request.account, async (state): Promise<Result<Placed, Refusal>> => {
      const same = this.sameOrder(state, request);
      if (same) return same;
      if (this.link.broker === 'down') return refused(LINK_DOWN);
      const decided = decidePlacement(state, request, this.market, this.now());
      if (!decided.ok) {
        await this.noteRefusal(state, request, decided.refusal);
        return decided;
      }
      return accepted({ order: await this.commitOrder(state, decided.value), made: true });
    });
    return this.afterVenue(done, ({ order }) => order);
  }

  /** All checks of an order without sending it. The order in it is as it would be committed. */
  async preview(request: OrderRequest): Promise<Result<Placement, Refusal>> {
    if (!this.market.find(request.instrument)) return refused(invalid('/instrument', `${request.instrument} is not known`));
    await this.prepare(request.account, request.instrument);
    return decidePlacement(this.account(request.account), request, this.market, this.now());
  }

  async replace(orderId: string, account: string, change: OrderChange): Promise<Result<Order, Refusal>> {
    await this.prepare(account, (this.account(account).orders.get(orderId) as Order).instrument);
    const asked = await this.enqueue(account, async (state): Promise<Result<{ order: Order; requestId: string | null }, Refusal>> => {
      const order = state.orders.get(orderId) as Order;
      const repeated = this.sameChange(state, order, change);
      if (repeated) return repeated;
      if (this.link.broker === 'down') return refused(LINK_DOWN);
      const decided = decideReplace(state, order, change, this.market, this.now());
      if (!decided.ok) return decided;
      const requestId = `${orderId}/r-${randomUUID().slice(0, 8)}`;
      const pending = requestReplace(order, requestId, decided.value, this.now());
      const instrument = this.instrument(order.instrument);
      const named = change.clientOrderId === undefined ? null : { clientOrderId: change.clientOrderId, fingerprint: JSON.stringify([orderId, change]) };
      await this.ledger.commit(state, [
        this.ledger.draft(
          state,
          'user',
          order,
          `Change ${orderSentence({ ...order, ...decided.value }, instrument)}`,
          { kind: 'replace-requested', orderId, requestId, terms: decided.value, change: named },
          historyLine(pending, 'pending-replace', null, null),
        ),
      ]);
      void this.broker.call('command', { kind: 'replace', sentAt: this.now(), orderId, requestId, terms: decided.value });
      return accepted({ order: state.orders.get(orderId) as Order, requestId });
    });
    return this.afterRequest(asked, orderId, account);
  }

  async cancel(orderId: string, account: string, reasonCode: ReasonCode = 'user'): Promise<Result<Order, Refusal>> {
    const asked = await this.enqueue(account, (state) => this.requestCancel(state, orderId, reasonCode));
    return this.afterRequest(asked, orderId, account);
  }

  /** Closes a position, or part of it, by a reducing order. */
  async closePosition(
    account: string,
    instrument: string,
    ask: { quantity?: string; percent?: string; clientOrderId?: string },
  ): Promise<Result<Placed, Refusal>> {
    await this.prepare(account, instrument);
    const clientOrderId = ask.clientOrderId ?? `close-${randomUUID()}`;
    const done = await this.enqueue(account, async (state): Promise<Result<Placed, Refusal>> => {
      const before = state.byClientOrderId.get(clientOrderId);
      const known = before === undefined ? undefined : state.orders.get(before);
      const mark = JSON.stringify(['close', instrument, ask]);
      if (known) return known.fingerprint === mark ? accepted({ order: known, made: false }) : refused(sameIdOtherContent(clientOrderId));
      if (this.link.broker === 'down') return refused(LINK_DOWN);
      const quote = this.market.view(instrument);
      const closing = closingRequest(state, this.instrument(instrument), { ...ask, clientOrderId }, quote);
      if (!closing.ok) return closing;
      const decided = decidePlacement(state, closing.value.request, this.market, this.now(), closing.value.pricing);
      if (!decided.ok) return decided;
      const { order } = decided.value;
      return accepted({ order: await this.commitOrder(state, { ...decided.value, order: { ...order, fingerprint: mark } }), made: true });
    });
    return this.afterVenue(done, ({ order }) => order);
  }

  /** Cancels working orders of an account: all, an instrument's, or one side of it. */
  async cancelMany(
    account: string,
    instrument: string | null,
    side: 'buy' | 'sell' | null,
    reasonCode: ReasonCode = 'user',
  ): Promise<Result<Omit<Flattened, 'closing'>, Refusal>> {
    if (this.link.broker === 'down') return refused(LINK_DOWN);
    const canceled: string[] = [];
    const failed: { orderId: string; detail: string }[] = [];
    await this.enqueue(account, async (state) => {
      for (const id of [...state.working]) {
        const order = state.orders.get(id) as Order;
        if (instrument !== null && order.instrument !== instrument) continue;
        if (side !== null && order.side !== side) continue;
        if (order.pendingCancel !== null || isFinished(order)) continue;
        const asked = await this.requestCancel(state, id, reasonCode);
        if (asked.ok) canceled.push(id);
        else failed.push({ orderId: id, detail: 'detail' in asked.refusal ? asked.refusal.detail : 'refused' });
      }
      return accepted(null);
    });
    await this.waitForVenue();
    const state = this.account(account);
    return accepted({ canceled: canceled.map((id) => state.orders.get(id) as Order), refused: failed });
  }

  /** Cancels first, then closes. Nothing to do gives empty lists. */
  async flatten(account: string, instrument: string | null): Promise<Result<Flattened, Refusal>> {
    const canceled = await this.cancelMany(account, instrument, null, 'flatten');
    if (!canceled.ok) return canceled;
    const closing: Order[] = [];
    const failed = [...canceled.value.refused];
    const open = Object.values(this.account(account).book.positions).filter(
      (position) => position.quantity !== 0 && (instrument === null || position.instrument === instrument),
    );
    for (const position of open.sort((a, b) => (a.instrument < b.instrument ? -1 : 1))) {
      const closed = await this.closePosition(account, position.instrument, {});
      if (closed.ok) closing.push(closed.value.order);
      else failed.push({ orderId: position.instrument, detail: refusalText(closed.refusal) });
    }
    return accepted({ canceled: canceled.value.canceled, closing, refused: failed });
  }

  async advance(to: number): Promise<VenueClock> {
    this.clock = await this.broker.call('advance', { to });
    return this.afterClock();
  }

  async setSpeed(speed: number): Promise<VenueClock> {
    this.clock = await this.broker.call('speed', { speed });
    return this.afterClock();
  }

  /** Drops or restores a link. Answers when what was missed is applied. */
  async setLink(wish: { broker?: 'up' | 'down' | undefined; data?: 'up' | 'down' | undefined }): Promise<LinkState> {
    const before = this.link;
    this.link = await this.broker.call('link', wish);
    if (this.link.broker !== before.broker || this.link.data !== before.data) {
      const words = `Broker link ${this.link.broker}, market data ${this.link.data}.`;
      await this.ledger.note(null, 'desk', words, { kind: 'link', broker: this.link.broker, data: this.link.data });
    }
    if (this.link.broker === 'up' && before.broker === 'down') await this.reconcile();
    this.feed.tellLink();
    return this.link;
  }

  ask: BrokerLink['call'] = (call, ask) => this.broker.call(call, ask);

  entries(query: Parameters<JournalStore['query']>[0]): Promise<Entry[]> {
    return this.ledger.query(query);
  }

  get lastSeq(): number {
    return this.ledger.lastSeq;
  }

  private async afterClock(): Promise<VenueClock> {
    await this.settled();
    this.market.time = Math.max(this.market.time, this.clock.time);
    this.feed.tellClock();
    return this.clock;
  }

  private async prepare(account: string, instrument: string): Promise<void> {
    await this.market.ensure([instrument]);
    await this.ensureMarks([account]);
  }

  /** Makes sure that everything the accounts hold or trade has a mark. */
  async ensureMarks(accounts: readonly string[]): Promise<void> {
    const needed = new Set<string>();
    for (const id of accounts) {
      const state = this.account(id);
      for (const position of Object.values(state.book.positions)) needed.add(position.instrument);
      for (const order of state.working) needed.add(state.orders.get(order)?.instrument ?? '');
      for (const wallet of state.book.wallets) if (wallet.asset !== 'EUR') needed.add(`${wallet.asset}-EUR.VSPR`);
    }
    await this.market.ensure([...needed].filter((id) => this.market.find(id)));
  }

  private async enqueue<T>(account: string, work: (state: AccountState) => Promise<Result<T, Refusal>>): Promise<Result<T, Refusal>> {
    const queue = this.queues.get(account);
    if (!queue) throw new Error(`unknown account ${account}`);
    try {
      return await queue.run(() => work(this.account(account)));
    } catch (error) {
      if (error instanceof JournalUnavailable) return refused(LOG_DOWN);
      throw error;
    }
  }

  private sameOrder(state: AccountState, request: OrderRequest): Result<Placed, Refusal> | null {
    const id = state.byClientOrderId.get(request.clientOrderId);
    const order = id === undefined ? undefined : state.orders.get(id);
    if (!order) return state.changes.has(request.clientOrderId) ? refused(sameIdOtherContent(request.clientOrderId)) : null;
    return order.fingerprint === fingerprint(request) ? accepted({ order, made: false }) : refused(sameIdOtherContent(request.clientOrderId));
  }

  private sameChange(state: AccountState, order: Order, change: OrderChange): Result<{ order: Order; requestId: null }, Refusal> | null {
    if (change.clientOrderId === undefined) return null;
    const before = state.changes.get(change.clientOrderId);
    if (!before) return state.byClientOrderId.has(change.clientOrderId) ? refused(sameIdOtherContent(change.clientOrderId)) : null;
    const same = before.fingerprint === JSON.stringify([order.id, change]);
    return same ? accepted({ order, requestId: null }) : refused(sameIdOtherContent(change.clientOrderId));
  }

  /** The intent is committed before it is sent: what is acknowledged is never lost. */
  private async commitOrder(state: AccountState, { order, instrument }: Placement): Promise<Order> {
    const fresh = requestedOrder(order, order);
    await this.ledger.commit(state, [
      this.ledger.draft(
        state,
        'user',
        fresh,
        orderSentence(fresh, instrument),
        { kind: 'order-requested', order: fresh },
        historyLine(fresh, 'pending-new', null, null),
      ),
    ]);
    void this.broker.call('command', { kind: 'new', sentAt: this.now(), order: fresh });
    return state.orders.get(fresh.id) as Order;
  }

  private async requestCancel(
    state: AccountState,
    orderId: string,
    reasonCode: ReasonCode,
  ): Promise<Result<{ order: Order; requestId: string | null }, Refusal>> {
    const order = state.orders.get(orderId) as Order;
    if (order.pendingCancel !== null) return accepted({ order, requestId: null });
    const stands = changeable(order, 'cancelled');
    if (stands) return refused(stands);
    if (this.link.broker === 'down') return refused(LINK_DOWN);
    const requestId = `${orderId}/c-${randomUUID().slice(0, 8)}`;
    const pending = requestCancel(order, requestId, this.now());
    const instrument = this.instrument(order.instrument);
    await this.ledger.commit(state, [
      this.ledger.draft(
        state,
        'user',
        order,
        `Cancel ${formatQuantity(instrument, order.quantity)} ${order.instrument}.`,
        { kind: 'cancel-requested', orderId, requestId, reasonCode },
        historyLine(pending, 'pending-cancel', null, null),
      ),
    ]);
    void this.broker.call('command', { kind: 'cancel', sentAt: this.now(), orderId, requestId, reasonCode });
    return accepted({ order: state.orders.get(orderId) as Order, requestId });
  }

  private async waitForVenue(): Promise<void> {
    if (!this.settings.waitsForVenue) return;
    // Commands are answered in order: when this is, all sent before have been, and their reports delivered.
    await this.broker.call('clock', null);
    await this.settled();
  }

  private async afterVenue<T extends { order: Order }>(done: Result<T, Refusal>, orderOf: (value: T) => Order): Promise<Result<T, Refusal>> {
    if (!done.ok) return done;
    await this.waitForVenue();
    const { account, id } = orderOf(done.value);
    return accepted({ ...done.value, order: this.account(account).orders.get(id) as Order });
  }

  /** The order after a cancel or replace; where the call waits, a refusal by the venue is told as such. */
  private async afterRequest(
    asked: Result<{ order: Order; requestId: string | null }, Refusal>,
    orderId: string,
    account: string,
  ): Promise<Result<Order, Refusal>> {
    if (!asked.ok) return asked;
    await this.waitForVenue();
    const order = this.account(account).orders.get(orderId) as Order;
    const { requestId } = asked.value;
    if (requestId !== null && this.settings.waitsForVenue && this.refusedRequests.delete(requestId))
      return refused({ kind: 'venue-rejected', detail: order.reason ?? 'The venue refused it; the order is as before.' });
    return accepted(order);
  }

  /** Requests that the venue refused while a call waits for them. */
  private readonly refusedRequests = new Set<string>();

  private async noteRefusal(state: AccountState, request: OrderRequest, refusal: Refusal): Promise<void> {
    const text = `Refused: ${request.side} ${request.quantity} ${request.instrument}. ${refusalText(refusal)}`;
    const draft = this.ledger.draft(state, 'user', null, text, { kind: 'order-refused', request, refusal }, null);
    await this.ledger.commit(state, [{ ...draft, instrument: request.instrument }]);
  }

  /** Hands each account its reports, in its queue. */
  private dispatch(reports: readonly BrokerReport[]): void {
    for (const [account, queue] of this.queues) {
      const mine = reports.filter((report) => report.kind === 'day-turn' || report.account === account);
      if (mine.length > 0) void queue.run(() => this.applyReports(this.account(account), mine));
    }
  }

  private async applyReports(state: AccountState, reports: readonly BrokerReport[]): Promise<void> {
    const drafts = draftReports(state, reports, (id) => this.instrument(id));
    if (this.settings.waitsForVenue)
      for (const report of reports) if (report.kind === 'order' && report.report.kind === 'cancel-rejected') this.refusedRequests.add(report.report.requestId);
    for (;;) {
      try {
        await this.ledger.commit(state, drafts);
        return;
      } catch (error) {
        if (!(error instanceof JournalUnavailable)) throw error;
        // The broker has said it: it is true whether the log takes it now or later.
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
    }
  }

  /** Asks the broker for what was missed, re-sends what it does not know, and reports what differs. */
  private async reconcile(): Promise<void> {
    await this.reports.beginAfter(Math.min(...[...this.accounts.values()].map((state) => state.lastReport)));
    await this.settled();
    const theirs = await this.broker.call('reconcile', null);
    const known = new Map(theirs.orders.map((order) => [order.id, order]));
    for (const [account, state] of this.accounts) await this.enqueue(account, () => this.resend(state, known));
    await this.waitForVenue();
    for (const book of theirs.books) {
      const state = this.accounts.get(book.account);
      if (state && state.lastReport <= theirs.lastSeq) await this.compare(state, book);
    }
    await this.market.followWanted();
  }

  private async resend(state: AccountState, known: ReadonlyMap<string, { handled: readonly string[] }>): Promise<Result<null, Refusal>> {
    for (const id of [...state.working]) {
      const order = state.orders.get(id) as Order;
      const there = known.get(id);
      const sentAt = order.updatedAt;
      const instrument = this.instrument(order.instrument);
      if (!there && orderState(order) !== 'rejected') {
        await this.noteResent(state, order, `Sent again, the broker did not know it: ${orderSentence(order, instrument)}`, 'order');
        void this.broker.call('command', { kind: 'new', sentAt, order: requestedOrder(order, order) });
      }
      if (order.pendingReplace && !there?.handled.includes(order.pendingReplace.requestId)) {
        await this.noteResent(state, order, `Change sent again: ${order.id}.`, 'replace');
        void this.broker.call('command', { kind: 'replace', sentAt, orderId: id, ...order.pendingReplace });
      }
      if (order.pendingCancel !== null && !there?.handled.includes(order.pendingCancel)) {
        await this.noteResent(state, order, `Cancel sent again: ${order.id}.`, 'cancel');
        void this.broker.call('command', { kind: 'cancel', sentAt, orderId: id, requestId: order.pendingCancel, reasonCode: 'user' });
      }
    }
    return accepted(null);
  }

  private async noteResent(state: AccountState, order: Order, text: string, what: string): Promise<void> {
    await this.ledger.commit(state, [this.ledger.draft(state, 'desk', order, text, { kind: 'resent', orderId: order.id, what }, null)]);
  }

  private async compare(state: AccountState, theirs: AccountState['book']): Promise<void> {
    for (const { what, here, broker } of differences(state.book, theirs))
      await this.ledger.note(state, 'desk', `${state.terms.id}: ${what} is ${here} here and ${broker} at the broker.`, {
        kind: 'difference',
        what,
        here,
        broker,
      });
  }

  /** For the feed: the quote of an instrument, if it is known. */
  quoteOf(id: string): Quote | undefined {
    return this.market.quote(id);
  }
}

const sameIdOtherContent = (id: string): Refusal => ({
  kind: 'conflict',
  detail: `The client order id ${id} was used before with other content. Use a new one.`,
});

/** A refusal in one line of words. */
export function refusalText(refusal: Refusal): string {
  return refusal.kind === 'validation' ? refusal.errors.map((error) => `${error.path.slice(1)}: ${error.message}`).join('; ') : refusal.detail;
}
