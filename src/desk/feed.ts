import { addPrint, barStart, markInHalves, type Bar, type Quote } from '../core/market/index.ts';
import { markedInstruments, type AccountState, type Entry, type Fill, type Touched, type Working } from '../core/desk/index.ts';
import type { RunningPlan } from '../core/exits/index.ts';
import type { Instrument, Price } from '../core/instrument/index.ts';
import { isFinished, stopPriceOf, type Order } from '../core/orders/index.ts';
import { nextTurn } from '../core/risk/index.ts';
import { type Market, type Position, homeVenue } from '../core/portfolio/index.ts';
import type { DepthView, Headline, OrderStanding, Print } from '../venue/messages.ts';
import type { MarketData } from './market-data.ts';
import type { DeskLink, Prices, VenueClock } from './outside.ts';
import type { EntryQuery, FillQuery, OrderQuery } from './store.ts';
import { Hub, accountEvent, parseTopic, type AccountTopic, type Connection, type UserTopic } from './hub.ts';
import type { MarketListener } from './market-data.ts';
import {
  isoTime,
  presentBar,
  presentClock,
  presentDepth,
  presentEntry,
  presentFill,
  presentLink,
  presentNews,
  presentOrder,
  presentPlan,
  presentPosition,
  presentPrint,
  presentQuote,
  presentAccount,
  presentRisk,
} from './present/index.ts';

const FIGURES_MS = 250;
/** How often the queue in front of resting orders is looked at, and for how many of an account. */
const QUEUE_MS = 500;
const QUEUED = 100;
const CLOCK_MS = 250;
const EVENTS_AN_ENTRY = 1000;
const LISTED = 500;
const DEPTH_SHOWN = 100;

interface LiveBars {
  /** The finished bar before and the live one; fewer where there was no trade. */
  bars: Bar[];
}

/** What the feed shows of the desk. */
export interface FeedDesk extends Pick<Prices, 'depth' | 'prints' | 'bars' | 'news'> {
  readonly accounts: ReadonlyMap<string, AccountState>;
  readonly market: MarketData;
  readonly clock: VenueClock;
  readonly link: DeskLink;
  /** Market time now. */
  now(): number;
  ownTopic(topic: UserTopic, user: string): Promise<unknown>;
  marks(): Market;
  ensureMarks(accounts: readonly string[]): Promise<void>;
  account(id: string): AccountState;
  instrument(id: string): Instrument;
  entries(query: EntryQuery): Promise<Entry[]>;
  listOrders(query: OrderQuery): Promise<Working[]>;
  listFills(query: FillQuery): Promise<Fill[]>;
  standing(orderIds: readonly string[]): Promise<ReadonlyMap<string, OrderStanding>>;
}

/** Turns what happens at the desk into topics of the stream. */
export class Feed implements MarketListener {
  readonly hub: Hub;
  private readonly desk: FeedDesk;
  private readonly depths = new Map<string, DepthView>();
  private readonly bars = new Map<string, LiveBars>();
  private readonly marks = new Map<string, number | null>();
  private readonly moved = new Set<string>();
  /** Accounts with entries whose figures are not told yet. */
  private readonly changed = new Set<string>();
  private readonly heard = { venues: 0, broker: 0 };
  private clockToldAt = 0;
  /** When an account's blocks, locks and windows turn next, as last looked at. */
  private readonly turns = new Map<string, number | null>();
  /** Where working orders stand, as last looked at. */
  private readonly standings = new Map<string, OrderStanding>();
  private readonly timers: NodeJS.Timeout[];

  constructor(desk: FeedDesk) {
    this.desk = desk;
    this.hub = new Hub(
      () => this.beat(),
      () => void desk.market.followWanted(),
      (connection, topic) => void this.snapshot(connection, topic),
    );
    this.timers = [setInterval(() => this.tellFigures(), FIGURES_MS), setInterval(() => void this.tellQueues(), QUEUE_MS)];
  }

  stop(): void {
    for (const timer of this.timers) clearInterval(timer);
    this.hub.stop();
  }

  /** Events of entries up to here are not known any more. */
  beginAt(seq: number): void {
    this.hub.forgotten = seq * EVENTS_AN_ENTRY;
  }

  /** Instruments whose market the desk itself needs: what accounts are valued by, and working orders. */
  heldInstruments(): Set<string> {
    const held = new Set<string>();
    for (const state of this.desk.accounts.values()) {
      for (const id of this.valuedBy(state)) held.add(id);
      for (const instrument of state.byInstrument.keys()) held.add(instrument);
    }
    return held;
  }

  private valuedBy(state: AccountState): Set<string> {
    return markedInstruments(state, (id) => this.desk.instrument(id));
  }

  wanted(): { quotes: Iterable<string>; depths: Iterable<string> } {
    const quotes = this.heldInstruments();
    const depths = new Set<string>();
    for (const name of this.hub.followed()) {
      const topic = parseTopic(name);
      if (!topic || !('instrument' in topic)) continue;
      quotes.add(topic.instrument);
      if (topic.kind === 'depth') depths.add(topic.instrument);
    }
    return { quotes, depths };
  }

  /** The venues were heard, and the broker was. */
  alive(): void {
    if (this.desk.link.data === 'up') this.heard.venues = Date.now();
  }

  brokerAlive(): void {
    if (this.desk.link.broker !== 'down') this.heard.broker = Date.now();
  }

  /** Where a following or trailing order stood when it was last looked at. */
  standingOf(orderId: string): Price | null {
    return this.standings.get(orderId)?.price ?? null;
  }

  missed(instruments: readonly string[]): void {
    for (const instrument of instruments)
      for (const connection of this.hub.followersOf(`trades:${instrument}`)) {
        this.hub.reset(connection, `trades:${instrument}`);
        void this.snapshot(connection, `trades:${instrument}`);
      }
  }

  quote(quote: Quote): void {
    const { instrument } = quote;
    this.hub.change(`quote:${instrument}`, () => JSON.stringify(presentQuote(this.desk.instrument(instrument), quote)));
    const mark = markInHalves(quote);
    if (this.marks.get(instrument) !== mark) {
      this.marks.set(instrument, mark);
      this.moved.add(instrument);
    }
  }

  depth(depth: DepthView): void {
    this.depths.set(depth.instrument, depth);
    this.hub.change(`depth:${depth.instrument}`, () => JSON.stringify(this.depthOf(depth)));
  }

  prints(instrument: string, prints: readonly Print[]): void {
    const spec = this.desk.instrument(instrument);
    const topic = `trades:${instrument}`;
    if (this.hub.isFollowed(topic))
      this.hub.prints(
        topic,
        prints.map((print) => JSON.stringify(presentPrint(spec, print))),
      );
    for (const [name, live] of this.bars) {
      const bars = parseTopic(name);
      if (bars?.kind !== 'bars' || bars.instrument !== instrument) continue;
      if (!this.hub.isFollowed(name)) {
        this.bars.delete(name);
        continue;
      }
      for (const print of prints) addPrint(live.bars, barStart(spec.venue, bars.interval, print.time), print.price, print.quantity);
      live.bars = live.bars.slice(-2);
      this.hub.change(name, () => this.barsText(instrument, live));
    }
  }

  news(headlines: readonly Headline[]): void {
    this.hub.prints(
      'news',
      headlines.map((headline) => JSON.stringify(presentNews(headline))),
    );
  }

  time(_time: number): void {
    const now = performance.now();
    if (now - this.clockToldAt < CLOCK_MS) return;
    this.clockToldAt = now;
    this.tellClock();
  }

  tellClock(): void {
    this.hub.change('clock', () => JSON.stringify(presentClock(this.desk.clock)));
  }

  tellLink(): void {
    this.hub.change('link', () => this.linkText());
  }

  /** Everything an entry changed, numbered so that it can be told again. */
  tellEntry(state: AccountState | null, entry: Entry, touched: Touched): void {
    let id = entry.seq * EVENTS_AN_ENTRY;
    const account = state?.terms.id ?? null;
    if (account !== null) this.changed.add(account);
    const tell = (topic: AccountTopic, data: () => unknown): void => this.hub.tell(accountEvent(id++, topic, account, data));
    // What stands by itself is put in words for a listener; what moves on is told as it is now.
    const tellNow = (topic: AccountTopic, data: unknown): void => tell(topic, () => data);
    for (const { order } of touched.orders) tell('orders', this.orderOf(order));
    for (const fill of touched.fills) tell('fills', () => presentFill(this.desk.instrument(fill.instrument), fill));
    for (const id of state ? positionsTouched(state, touched) : []) {
      const position = state?.book.positions[id];
      if (state && position) tellNow('positions', this.positionOf(state, position));
    }
    if (state && touched.risk) tellNow('risk', this.riskOf(state));
    for (const plan of state ? touched.plans : []) if (state) tellNow('plans', this.planOf(state, plan));
    tell('activity', () => presentEntry(entry));
    if (touched.orders.length + touched.positions.length > 0) this.desk.market.follow(entry.instrument);
  }

  /** The snapshot of a topic for one connection. */
  async snapshot(connection: Connection, name: string): Promise<void> {
    const topic = parseTopic(name);
    if (!topic) return;
    let data: string;
    try {
      data = JSON.stringify(await this.snapshotOf(connection, name, topic));
    } catch {
      // The venue or the store has stopped: whoever follows comes back and asks again.
      connection.end();
      return;
    }
    if (connection.topics.has(name)) this.hub.snapshot(connection, name, data);
  }

  private async snapshotOf(connection: Connection, name: string, topic: NonNullable<ReturnType<typeof parseTopic>>): Promise<unknown> {
    const { desk } = this;
    switch (topic.kind) {
      case 'quote': {
        await desk.market.ensure([topic.instrument]);
        const quote = desk.market.quote(topic.instrument);
        return quote ? presentQuote(desk.instrument(topic.instrument), quote) : null;
      }
      case 'depth': {
        await desk.market.ensure([topic.instrument]);
        return this.depthOf(await desk.depth(topic.instrument, DEPTH_SHOWN));
      }
      case 'trades': {
        const { items } = await desk.prints({ instrument: topic.instrument, before: null, after: null, limit: 200 });
        return items.map((print) => presentPrint(desk.instrument(topic.instrument), print));
      }
      case 'bars': {
        const { items } = await desk.bars({ instrument: topic.instrument, interval: topic.interval, from: null, to: null, limit: 2 });
        const live = { bars: items };
        this.bars.set(name, live);
        return JSON.parse(this.barsText(topic.instrument, live)) as unknown;
      }
      case 'news': {
        const { items } = await desk.news({ instrument: null, before: null, after: null, limit: 100 });
        return items.map(presentNews);
      }
      case 'clock':
        return presentClock(desk.clock);
      case 'link':
        return JSON.parse(this.linkText()) as unknown;
      case 'orders':
        return this.recentOrders(this.of(connection, topic.account));
      case 'fills': {
        const accounts = this.of(connection, topic.account).map((state) => state.terms.id);
        return (await desk.listFills({ accounts, limit: LISTED })).map((fill) => presentFill(desk.instrument(fill.instrument), fill));
      }
      case 'positions':
        return this.of(connection, topic.account).flatMap((state) => positionsOf(state).map((position) => this.positionOf(state, position)));
      case 'activity': {
        const accounts = this.of(connection, topic.account).map((state) => state.terms.id);
        return (await desk.entries({ accounts, limit: 100 })).map(presentEntry);
      }
      case 'plans':
        return this.of(connection, topic.account).flatMap((state) => [...state.plans.values()].map((plan) => this.planOf(state, plan)));
      case 'accounts':
        await desk.ensureMarks(connection.accounts);
        return this.of(connection, topic.account).map((state) => presentAccount(state, desk.market));
      case 'risk':
        return this.of(connection, topic.account).map((state) => this.riskOf(state));
      case 'alerts':
      case 'baskets':
      case 'scan':
        return desk.ownTopic(topic, connection.user);
      default:
        return topic satisfies never;
    }
  }

  private of(connection: Connection, account: string | null): AccountState[] {
    return connection.accounts.filter((id) => account === null || id === account).map((id) => this.desk.account(id));
  }

  /** Figures of positions whose mark moved, of the day they are part of, and of accounts that moved with either or by an entry. */
  private tellFigures(): void {
    for (const [account, state] of this.desk.accounts) {
      const turned = this.turned(account, state);
      if (!turned && this.moved.size + this.changed.size === 0) continue;
      const moved = positionsOf(state).filter(({ instrument, quantity }) => quantity !== 0 && this.moved.has(instrument));
      for (const position of moved)
        this.hub.tellFigures(
          'positions',
          account,
          once(() => this.positionOf(state, position)),
        );
      if (turned || moved.length > 0)
        this.hub.tellFigures(
          'risk',
          account,
          once(() => this.riskOf(state)),
        );
      if (this.changed.has(account) || [...this.valuedBy(state)].some((id) => this.moved.has(id)))
        this.hub.tellFigures(
          'accounts',
          account,
          once(() => presentAccount(state, this.desk.market)),
        );
    }
    this.moved.clear();
    this.changed.clear();
  }

  /** Whether a block, a lock or a window began or ended since this was asked: time alone does that, without an entry. */
  private turned(account: string, { risk, terms }: AccountState): boolean {
    const known = this.turns.get(account);
    const next = nextTurn(risk, homeVenue(terms), this.desk.now());
    this.turns.set(account, next);
    return known !== undefined && known !== next;
  }

  private orderOf(order: Order): () => unknown {
    if (isFinished(order)) this.standings.delete(order.id);
    const standing = this.standings.get(order.id) ?? null;
    return () => presentOrder(this.desk.instrument(order.instrument), order, standing);
  }

  /** Tells the accounts that somebody follows how their orders' queues moved. */
  private async tellQueues(): Promise<void> {
    for (const [account, state] of this.desk.accounts) {
      if (state.working.size === 0 || (!this.hub.isFollowed('orders') && !this.hub.isFollowed(`orders:${account}`))) continue;
      const moves = [...state.working.values()].filter(({ order }) => order.terms.type !== 'market' && order.terms.type !== 'stop').slice(-QUEUED);
      const standings = await this.desk.standing(moves.map(({ order }) => order.id)).catch(() => new Map<string, OrderStanding>());
      for (const [id, standing] of standings) {
        const order = state.working.get(id)?.order;
        const before = this.standings.get(id);
        if (!order || isFinished(order) || (before?.ahead === standing.ahead && before.price === standing.price)) continue;
        this.standings.set(id, standing);
        this.hub.tellFigures('orders', account, () => JSON.stringify(this.orderOf(order)()));
      }
    }
  }

  private riskOf(state: AccountState): unknown {
    return presentRisk(state, this.desk.marks(), this.desk.now(), (id) => this.standingOf(id));
  }

  private planOf(state: AccountState, plan: RunningPlan): unknown {
    return presentPlan(state, plan, this.desk.instrument(plan.instrument), (id) => this.standingOf(id));
  }

  private depthOf(depth: DepthView): unknown {
    const limits = this.desk.market.quote(depth.instrument)?.priceLimits ?? { lower: null, upper: null };
    return presentDepth(this.desk.instrument(depth.instrument), depth, DEPTH_SHOWN, limits);
  }

  /** The live bar, and the one before it under `before`, which may have been completed between two writes. */
  private barsText(instrument: string, live: LiveBars): string {
    const spec = this.desk.instrument(instrument);
    const bar = live.bars[live.bars.length - 1];
    const before = live.bars[live.bars.length - 2];
    return JSON.stringify(bar ? { ...presentBar(spec, bar), before: before ? presentBar(spec, before) : null } : null);
  }

  private linkText(): string {
    return JSON.stringify(presentLink(this.desk.link));
  }

  private positionOf(state: AccountState, position: Position): unknown {
    return presentPosition(state, position, this.desk.market, (id) => this.standingOf(id));
  }

  /** Working orders and the newest of the others, oldest first, each where it stands. */
  private async recentOrders(states: readonly AccountState[]): Promise<unknown[]> {
    const accounts = states.map((state) => state.terms.id);
    const done = await this.desk.listOrders({ accounts, done: true, limit: LISTED });
    const working = states.flatMap((state) => [...state.working.values()]);
    const alive = new Set(working.map(({ order }) => order.id));
    const all = [...done.filter(({ order }) => !alive.has(order.id)), ...working].sort((a, b) => a.madeBy - b.madeBy);
    const standings = await this.desk.standing(working.slice(-LISTED).map(({ order }) => order.id));
    return all.map(({ order }) => presentOrder(this.desk.instrument(order.instrument), order, standings.get(order.id) ?? null));
  }

  private beat(): string {
    const { venues, broker } = this.heard;
    const at = isoTime(venues);
    return JSON.stringify({ now: isoTime(Date.now()), venues: { HALM: at, QUAY: at, VSPR: at }, broker: isoTime(broker) });
  }
}

/** Made and written once, however many windows it is told to; not at all where nobody follows. */
function once(make: () => unknown): () => string {
  let text: string | null = null;
  return () => (text ??= JSON.stringify(make()));
}

/** Positions that an entry changed, and those whose risk it did: a stop that comes, moves or goes is told with its position. */
function positionsTouched(state: AccountState, { orders, positions, plans }: Touched): ReadonlySet<string> {
  const stops = orders.flatMap(({ order: { instrument, terms } }) =>
    (stopPriceOf(terms) !== null || terms.type === 'trailing-stop') && (state.book.positions[instrument]?.quantity ?? 0) !== 0 ? [instrument] : [],
  );
  return new Set([...positions, ...stops, ...plans.map(({ instrument }) => instrument)]);
}

/** Open positions, and flat ones with a fill today. */
export const positionsOf = (state: AccountState): Position[] =>
  Object.values(state.book.positions).filter((position) => position.quantity !== 0 || position.filledToday);
