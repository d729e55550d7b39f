import { page } from '../core/page.ts';
import type { BrokerReport } from '../core/desk/index.ts';
import type { ExchangeChanges, Exchange } from './exchange.ts';
import { lookAt } from './look.ts';
import type { FromVenue, LinkState, ToVenue, VenueClock, VenueSettings } from './messages.ts';
import { cutSight, openSight, type Sight } from './sight.ts';

export interface SavedClock {
  readonly time: number;
  readonly taken: number;
  readonly speed: number;
  readonly link: LinkState;
}

/** Where the venue keeps what outlives it. A commit is whole or not at all. */
export interface ExchangeStore {
  commit(clock: SavedClock, changes: ExchangeChanges): Promise<void>;
  reportsAfter(account: string, seq: number, limit: number): Promise<BrokerReport[]>;
  forgetReports(account: string, upTo: number): Promise<void>;
  close(): Promise<void>;
}

const TICK_MS = 16;
/** Instruments whose day is counted in one tick: all of them about once a second. */
const SURVEYED_A_TICK = 20;
/** Counting a day from its beginning takes longer: then fewer are counted in a tick. */
const SURVEY_MS = 4;
const BEAT_MS = 500;
/** The stored time is never further behind than this, in market time. */
const STORED_WITHIN_MS = 900;
/** Without any event the desk still hears the time this often, in market time. */
const CLOCK_EVERY_MS = 200;
/** A machine that slept does not make the market leap. */
const LONGEST_TICK_MS = 1000;
/** Time runs for this long at most, in machine time, before others are heard. */
const SLICE_MS = 12;
/** Waking goes on for this long at most, and for one instrument at least, before others are heard. */
const WAKING_MS = 4;
/** So many instruments are woken without a pause. */
const FEW = 4;
/** What is told in one message. */
const MOST_ITEMS = 400;

/**
 * The venue's loop: takes messages, moves time, stores what happened, and only then tells it. Time moves in slices,
 * so that a long way of it keeps nobody waiting, and stands still after whatever the desk must answer first.
 */
export class VenueThread {
  link: LinkState;
  private speed: number;
  private turn: Promise<unknown> = Promise.resolve();
  private moving: Promise<unknown> = Promise.resolve();
  private storedAt = -Infinity;
  private booksStoredAt = -Infinity;
  private toldAt = -Infinity;
  private tickedAt = performance.now();
  /** Market time is whole milliseconds; what a tick cut off. */
  private fraction = 0;
  private readonly exchange: Exchange;
  private readonly store: ExchangeStore;
  private readonly settings: VenueSettings;
  private readonly tell: (message: FromVenue) => void;
  private stopped = false;
  private sight: Sight;
  /** The desk answers each event before the next one happens: on a manual clock, and wherever there is no latency. */
  private readonly waits: boolean;
  private tokens = 0;
  private readonly unanswered = new Set<number>();
  private quiet: (() => void)[] = [];
  /** Questions that wait until their instruments are awake, and whether waking goes on. */
  private readonly toRouse: { readonly instruments: readonly string[]; readonly resolve: () => void; readonly reject: (error: Error) => void }[] = [];
  private isRousing = false;
  /** The pause before the next tick; none while one goes on. */
  private nextTick: NodeJS.Timeout | undefined;

  constructor(exchange: Exchange, store: ExchangeStore, settings: VenueSettings, tell: (message: FromVenue) => void, saved: SavedClock | null) {
    this.exchange = exchange;
    this.store = store;
    this.settings = settings;
    this.tell = tell;
    this.waits = settings.clock === 'manual' || settings.latencyMs === 0;
    this.speed = saved?.speed ?? 1;
    const since = exchange.time;
    this.link = saved?.link ?? { broker: 'up', data: 'up', since, brokerSince: since, dataSince: since };
    this.sight = this.look();
  }

  private look(): Sight {
    return this.link.data === 'up' ? openSight(this.exchange) : cutSight(this.exchange, this.link.dataSince);
  }

  async start(): Promise<void> {
    await this.commit();
    if (this.settings.clock === 'live') this.tick();
    const beat = (): void => {
      if (this.stopped) return;
      const { broker, time } = this.exchange;
      // What is not told yet, or can't be heard, nobody has lost.
      const told = this.link.broker === 'up' && this.exchange.untold.length === 0;
      const newest = told ? Object.fromEntries([...broker.customers.accounts].map(([id, { seq }]) => [id, seq])) : {};
      this.tell({ kind: 'beat', time, newest });
      setTimeout(beat, BEAT_MS);
    };
    beat();
  }

  clock(): VenueClock {
    const { source, time } = this.exchange;
    return {
      mode: this.settings.clock,
      market: source.kind,
      time,
      speed: this.settings.clock === 'manual' ? 0 : this.speed,
      tapeEndsAt: source.endsAt,
      ended: source.endsAt !== null && time >= source.endsAt,
    };
  }

  /** Messages are dealt with one after the other, never while a slice of time runs. */
  receive(message: ToVenue, tell: (message: FromVenue) => void = this.tell): void {
    if (message.call === 'resume') {
      this.unanswered.delete(message.token);
      if (this.unanswered.size === 0) for (const resolve of this.quiet.splice(0)) resolve();
      return;
    }
    void this.roused(message)
      .then(() => this.inTurn(() => this.answer(message)))
      .then(async (answer) => {
        // What takes time is waited for outside the turn, where others are heard.
        if (message.call === 'advance') await this.advance(message.ask.to);
        if (message.call === 'settled') await this.allQuiet();
        const later = message.call === 'advance' || message.call === 'settled';
        tell({ kind: 'answer', id: message.id, answer: later ? this.clock() : answer });
      })
      .catch((error: Error) => tell({ kind: 'failed', id: message.id, message: error.stack ?? String(error) }));
  }

  /** A piece of work that nothing else happens beside. A broken store or a bug stops the venue: it must not go on as if it had kept its word. */
  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(() => {
      if (this.stopped) throw new Error('the venue has stopped');
      return work();
    });
    this.turn = done.catch((error: Error) => {
      if (!this.stopped) this.tell({ kind: 'unable', message: `The venue had to stop: ${error.stack ?? error.message}` });
      this.stopped = true;
    });
    return done;
  }

  /** Resolves when the desk has answered everything that it was told to answer. */
  private allQuiet(): Promise<void> {
    return this.unanswered.size === 0 ? Promise.resolve() : new Promise((resolve) => this.quiet.push(resolve));
  }

  /**
   * What a question needs awake before it is answered. A few are woken in the answer itself, and so are all where the
   * market stands still and nobody waits.
   */
  private roused(message: ToVenue): Promise<void> {
    const { instruments } = message.call === 'snapshot' ? message.ask : { instruments: [] };
    if (instruments.length <= FEW || this.settings.clock === 'manual') return Promise.resolve();
    return new Promise((resolve, reject) => {
      this.toRouse.push({ instruments, resolve, reject });
      this.rouse();
    });
  }

  /** Wakes instruments in slices, those that somebody waits for first: a hundred take seconds, in which orders must be heard. */
  private rouse(): void {
    if (this.isRousing) return;
    this.isRousing = true;
    void this.rouseAll();
  }

  /** Whether something is left is asked, and that it is over is said, in one moment: what is wanted meanwhile is never missed. */
  private async rouseAll(): Promise<void> {
    try {
      while (this.toRouse.length > 0 || this.exchange.hasAsleep) {
        const [asked] = this.toRouse;
        const awake = await this.inTurn(() => {
          const end = performance.now() + WAKING_MS;
          const done = this.exchange.rouse(asked?.instruments ?? this.exchange.wanted, () => performance.now() > end);
          this.tellMarket();
          return Promise.resolve(done);
        });
        if (awake && asked) this.toRouse.shift()?.resolve();
        await new Promise((resolve) => setImmediate(resolve));
      }
    } catch (error) {
      for (const { reject } of this.toRouse.splice(0)) reject(error as Error);
    } finally {
      this.isRousing = false;
    }
  }

  private tick(): void {
    if (this.stopped) return;
    const now = performance.now();
    const exact = Math.min(LONGEST_TICK_MS, now - this.tickedAt) * this.speed + this.fraction;
    const passed = Math.floor(exact);
    this.fraction = exact - passed;
    this.tickedAt = now;
    const moved = passed > 0 ? this.advance(this.exchange.time + passed, SURVEYED_A_TICK) : Promise.resolve();
    void moved.then(
      () => this.tickAgain(),
      () => undefined,
    );
  }

  /** The next tick comes after its pause, or when something on its way to the broker arrives. */
  private tickAgain(): void {
    clearTimeout(this.nextTick);
    const { nextArrival, time } = this.exchange;
    const arrives = nextArrival === null || this.speed === 0 ? TICK_MS : (nextArrival - time) / this.speed - (performance.now() - this.tickedAt);
    this.nextTick = setTimeout(
      () => {
        this.nextTick = undefined;
        this.tick();
      },
      Math.max(0, Math.min(TICK_MS, Math.ceil(arrives))),
    );
  }

  /** Lets time pass up to and including `to`, slice by slice; one such way after the other. */
  private advance(to: number, surveyed = 0): Promise<void> {
    const way = this.moving.then(async () => {
      for (let reached = false; !reached;) {
        await this.allQuiet();
        reached = await this.inTurn(async () => {
          const end = performance.now() + SLICE_MS;
          let steps = 0;
          const pause = (): boolean =>
            (this.waits && this.exchange.untold.length > 0) ||
            this.exchange.untold.length >= MOST_ITEMS ||
            this.exchange.hasManyPrints ||
            (++steps % 64 === 0 && performance.now() > end);
          const done = this.exchange.run(to, pause);
          for (const until = performance.now() + SURVEY_MS; surveyed > 0 && performance.now() < until; surveyed--)
            this.exchange.source.survey(this.exchange.time, 1);
          await this.publish();
          return done && this.unanswered.size === 0;
        });
        if (!reached) await new Promise((resolve) => setImmediate(resolve));
      }
      if (this.settings.clock === 'manual') await this.inTurn(() => this.commit());
    });
    this.moving = way.catch(() => undefined);
    return way;
  }

  /** Stores and tells what has happened since. */
  private async publish(): Promise<void> {
    const { exchange } = this;
    const reported = exchange.untold.some(({ kind }) => kind === 'report');
    if (reported || exchange.time - this.storedAt >= STORED_WITHIN_MS || exchange.time < this.storedAt) await this.commit();
    const items = exchange.takeStream();
    // While the broker's link is down nobody hears the reports; they are asked for later. Prices come by another line.
    const heard = items.filter(({ kind }) => kind === 'timer' || (kind === 'report' ? this.link.broker : this.link.data) === 'up');
    if (heard.length > 0) {
      const token = this.waits ? ++this.tokens : null;
      if (token !== null) this.unanswered.add(token);
      this.tell({ kind: 'stream', time: exchange.time, items: heard, token });
    }
    this.tellMarket();
  }

  /** @param whole the books too, however lately they were stored */
  private async commit(whole = false): Promise<void> {
    const { time: now } = this.exchange;
    const withBooks = whole || now - this.booksStoredAt >= STORED_WITHIN_MS || now < this.booksStoredAt || this.settings.clock === 'manual';
    if (withBooks) this.booksStoredAt = now;
    const changes = this.exchange.takeChanges(withBooks);
    const { time, taken } = changes;
    await this.store.commit({ time, taken, speed: this.speed, link: this.link }, changes);
    this.storedAt = time;
  }

  /** What changed; while the prices are cut off only how late it is. */
  private tellMarket(): void {
    const { time } = this.exchange;
    const update = this.link.data === 'up' ? this.exchange.takeUpdate() : { time, quotes: [], depths: [], prints: [], news: [], missed: [] };
    if (update.quotes.length + update.prints.length + update.news.length + update.missed.length > 0 || update.time - this.toldAt >= CLOCK_EVERY_MS) {
      this.toldAt = update.time;
      this.tell({ kind: 'market', update });
    }
  }

  private async answer(message: Exclude<ToVenue, { call: 'resume' }>): Promise<unknown> {
    const { exchange, sight } = this;
    switch (message.call) {
      case 'snapshot':
        return { time: exchange.time, quotes: sight.quotes(message.ask.instruments), depths: [], prints: [], news: [], missed: [] };
      case 'depth':
        return sight.depth(message.ask.instrument, message.ask.levels);
      case 'bars':
        return { items: sight.bars(message.ask), live: exchange.isAwake(message.ask.instrument) };
      case 'prints':
        return page(sight.prints(message.ask.instrument), message.ask);
      case 'news': {
        const { instrument } = message.ask;
        return page(
          sight.headlines().filter((headline) => instrument === null || headline.instrument === instrument),
          message.ask,
        );
      }
      case 'survey': {
        // A market that stands still counts all at once: nothing is held up by it.
        if (this.settings.clock === 'manual') exchange.source.survey(exchange.time, Infinity);
        return sight.survey();
      }
      case 'look': {
        if (this.settings.clock === 'manual') exchange.source.survey(exchange.time, Infinity);
        return lookAt(exchange, message.ask);
      }
      case 'tradesBetween':
        return sight.tradesBetween(message.ask);
      case 'tradesSince': {
        const { instrument, since } = message.ask;
        return sight.prints(instrument).flatMap(({ time, price }) => (time >= since ? [{ time, price }] : []));
      }
      case 'standing':
        return message.ask.orderIds.map((id) => exchange.broker.orders.standing(id));
      case 'watch':
        exchange.watch(message.ask.instruments, message.ask.depths);
        if (this.settings.clock === 'manual') exchange.rouse(exchange.wanted, () => false);
        else this.rouse();
        this.tellMarket();
        return null;
      case 'arm':
        exchange.arm(message.ask);
        return null;
      case 'commands':
        exchange.send(message.ask);
        await this.publish();
        if (this.nextTick) this.tickAgain();
        return null;
      case 'lodge':
        exchange.broker.customers.lodge(message.ask.account, message.ask.lodged);
        await this.commit();
        return null;
      case 'agree': {
        const seq = exchange.broker.customers.agree(message.ask.account, message.ask.line);
        await this.publish();
        return seq;
      }
      case 'newIssues':
        return exchange.broker.customers.newIssues(exchange.time);
      case 'status':
        return exchange.broker.status(message.ask.account);
      case 'reportsAfter':
        return this.store.reportsAfter(message.ask.account, message.ask.seq, message.ask.limit);
      case 'acknowledge':
        for (const { account, seq } of message.ask) {
          exchange.broker.acknowledge(account, seq);
          await this.store.forgetReports(account, seq);
        }
        return null;
      case 'speed':
        this.speed = message.ask.speed;
        this.tickedAt = performance.now();
        await this.commit(true);
        return this.clock();
      case 'clock':
        return this.clock();
      case 'link':
        return this.setLink(message.ask.broker, message.ask.data);
      case 'stop':
        await this.commit(true);
        this.stopped = true;
        await this.store.close();
        return null;
      case 'advance':
      case 'settled':
        return null;
      default:
        return message satisfies never;
    }
  }

  private async setLink(broker: 'up' | 'down' | undefined, data: 'up' | 'down' | undefined): Promise<LinkState> {
    const { time } = this.exchange;
    const before = this.link;
    const next = { ...before };
    if (broker && broker !== before.broker) Object.assign(next, { broker, brokerSince: time, since: time });
    if (data && data !== before.data) Object.assign(next, { data, dataSince: time, since: time });
    this.link = next;
    if (next.data !== before.data) this.sight = this.look();
    await this.commit();
    if (data === 'up' && before.data === 'down') {
      this.exchange.touchAll();
      this.tellMarket();
    }
    return next;
  }
}
