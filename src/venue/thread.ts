import type { VenueStore } from '../store/venue/venue-store.ts';
import type { Exchange } from './exchange.ts';
import type { FromVenue, LinkState, ToVenue, VenueClock, VenueSettings } from './messages.ts';
import { cutSight, openSight, type Sight } from './sight.ts';
import { page } from '../core/page.ts';

export interface SavedClock {
  readonly time: number;
  readonly taken: number;
  readonly seq: number;
  readonly speed: number;
  readonly link: LinkState;
}

const TICK_MS = 16;
/** Instruments whose day is counted in one tick: all of them about once a second. */
const SURVEYED_A_TICK = 20;
const BEAT_MS = 500;
/** The stored time is never further behind than this, in market time. */
const STORED_WITHIN_MS = 900;
/** Without any event the desk still hears the time this often, in market time. */
const CLOCK_EVERY_MS = 200;
/** A machine that slept does not make the market leap. */
const LONGEST_TICK_MS = 1000;
/** While a long advance runs, what happened is stored at least this often, in reports. */
const REPORTS_A_COMMIT = 400;

/** The venue's loop: takes messages, moves time, stores what happened, and only then tells it. */
export class VenueThread {
  link: LinkState;
  private speed: number;
  private queue: Promise<void> = Promise.resolve();
  private storedAt = -Infinity;
  private booksStoredAt = -Infinity;
  private toldAt = -Infinity;
  private tickedAt = performance.now();
  /** Market time is whole milliseconds; what a tick cut off. */
  private fraction = 0;
  private readonly exchange: Exchange;
  private readonly store: VenueStore;
  private readonly settings: VenueSettings;
  private readonly tell: (message: FromVenue) => void;
  private stopped = false;
  private sight: Sight;

  constructor(exchange: Exchange, store: VenueStore, settings: VenueSettings, tell: (message: FromVenue) => void, saved: SavedClock | null) {
    this.exchange = exchange;
    this.store = store;
    this.settings = settings;
    this.tell = tell;
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
      this.tell({ kind: 'beat', time: this.exchange.time });
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

  /** Messages are dealt with one after the other, never while time moves. */
  receive(message: ToVenue): void {
    this.then(async () => {
      try {
        this.tell({ kind: 'answer', id: message.id, answer: await this.answer(message) });
      } catch (error) {
        this.tell({ kind: 'failed', id: message.id, message: (error as Error).stack ?? String(error) });
      }
    });
  }

  private then(work: () => Promise<void>): void {
    this.queue = this.queue.then(work).catch((error: Error) => {
      // A broken store or a bug: the venue must not go on as if it had kept its word.
      this.tell({ kind: 'unable', message: `The venue had to stop: ${error.stack ?? error.message}` });
      this.stopped = true;
    });
  }

  private tick(): void {
    if (this.stopped) return;
    this.then(async () => {
      const now = performance.now();
      const exact = Math.min(LONGEST_TICK_MS, now - this.tickedAt) * this.speed + this.fraction;
      const passed = Math.floor(exact);
      this.fraction = exact - passed;
      this.tickedAt = now;
      if (passed > 0) {
        this.exchange.run(this.exchange.time + passed);
        this.exchange.source.survey(this.exchange.time, SURVEYED_A_TICK);
        await this.publish();
      }
    });
    setTimeout(() => this.tick(), TICK_MS);
  }

  /** Stores and tells what has happened since. */
  private async publish(): Promise<void> {
    if (this.exchange.hasReports || this.exchange.time - this.storedAt >= STORED_WITHIN_MS || this.exchange.time < this.storedAt) await this.commit();
    this.tellMarket();
  }

  /** @param whole the books too, however lately they were stored */
  private async commit(whole = this.settings.clock === 'manual'): Promise<void> {
    const { time: now } = this.exchange;
    const withBooks = whole || now - this.booksStoredAt >= STORED_WITHIN_MS || now < this.booksStoredAt;
    if (withBooks) this.booksStoredAt = now;
    const changes = this.exchange.takeChanges(withBooks);
    const { time, taken, seq } = changes;
    const clock: SavedClock = { time, taken, seq, speed: this.speed, link: this.link };
    await this.store.commit({
      clock,
      orders: changes.orders.map((held) => ({ id: held.order.id, value: held })),
      books: changes.books,
      listings: changes.listings,
      reports: changes.reports,
    });
    this.storedAt = time;
    if (changes.reports.length > 0 && this.link.broker === 'up') this.tell({ kind: 'reports', reports: changes.reports });
  }

  /** What changed; while the prices are cut off only how late it is. */
  private tellMarket(): void {
    const { time } = this.exchange;
    const update = this.link.data === 'up' ? this.exchange.takeUpdate() : { time, quotes: [], depths: [], prints: [], news: [] };
    if (update.quotes.length + update.prints.length + update.news.length > 0 || update.time - this.toldAt >= CLOCK_EVERY_MS) {
      this.toldAt = update.time;
      this.tell({ kind: 'market', update });
    }
  }

  private async answer(message: ToVenue): Promise<unknown> {
    const { exchange, sight } = this;
    switch (message.call) {
      case 'snapshot':
        return { time: exchange.time, quotes: sight.quotes(message.ask.instruments), depths: [], prints: [], news: [] };
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
      case 'queue':
        return message.ask.orderIds.map((id) => {
          const held = exchange.broker.orders.get(id);
          return { id, ahead: held ? exchange.listing(held.order.instrument).book.aheadOf(id) : null };
        });
      case 'watch':
        exchange.watch(message.ask.instruments, message.ask.depths);
        this.tellMarket();
        return null;
      case 'advance': {
        const until = message.ask.to;
        let counted = exchange.broker.seq;
        while (!exchange.run(until, () => exchange.broker.seq - counted >= REPORTS_A_COMMIT)) {
          counted = exchange.broker.seq;
          await this.publish();
        }
        await this.commit();
        await this.publish();
        this.tickedAt = performance.now();
        return this.clock();
      }
      case 'speed':
        this.speed = message.ask.speed;
        this.tickedAt = performance.now();
        await this.commit(true);
        return this.clock();
      case 'clock':
        return this.clock();
      case 'link':
        return this.setLink(message.ask.broker, message.ask.data);
      case 'reconcile':
        return { time: exchange.time, orders: exchange.broker.known(), books: [...exchange.broker.books.values()], lastSeq: exchange.broker.seq };
      case 'resend':
        return this.store.reportsAfter(message.ask.after);
      case 'command':
        exchange.send(message.ask);
        await this.publish();
        return null;
      case 'stop':
        await this.commit(true);
        this.stopped = true;
        await this.store.close();
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
