import { VENUE_IDS, type Instrument, type VenueId } from '../core/instrument/index.ts';
import {
  barStart,
  markInHalves,
  nextDayTurn,
  nextIntradayEnd,
  tradingDay,
  type Bar,
  type DayFigures,
  type Interval,
  type SavedPlace,
} from '../core/market/index.ts';
import type { BrokerCommand, BrokerReport } from '../core/desk/index.ts';
import type { AccountTerms } from '../core/portfolio/index.ts';
import { Broker } from './broker.ts';
import type { HeldAccount, HeldOrder } from './held.ts';
import { Listing, type SavedListing } from './listing.ts';
import type { Recorder } from './recorder.ts';
import type { Glance } from '../core/scan/index.ts';
import type { Armed, DepthView, Headline, MarketUpdate, Print, StreamItem } from './messages.ts';
import type { OfferedIssue } from './new-issues.ts';
import type { MarketSource } from './source.ts';

/** All that outlives the process, in the parts that change. */
export interface SavedExchange {
  time: number;
  taken: number;
  orders: HeldOrder[];
  accounts: HeldAccount[];
  listings: Record<string, SavedListing>;
  /** Where orders stand in the books. */
  places: SavedPlace[];
}

/** What changed since the last commit; null removes a part. */
export interface ExchangeChanges {
  time: number;
  taken: number;
  orders: Record<string, HeldOrder | null>;
  accounts: HeldAccount[];
  listings: Record<string, SavedListing | null>;
  places: Record<string, SavedPlace | null>;
  reports: BrokerReport[];
}

const DEPTH_LEVELS = 100;
const EVENTS_A_MS = 1024;
/** Prints that wait for somebody to hear them; what is more is not told, and said so. */
const MOST_PRINTS = 20_000;
/** Prints that wait before a desk is told of them, even while time runs on. */
const MANY_PRINTS = 2000;

/**
 * The venues and the broker on one clock. Time moves only by {@link run}; whatever happens is gathered and
 * given out by {@link takeChanges} (to be stored) and {@link takeUpdate} (to be shown).
 */
export class Exchange {
  time: number;
  readonly broker: Broker;
  readonly source: MarketSource;
  readonly instruments: ReadonlyMap<string, Instrument>;
  private readonly listings = new Map<string, Listing>();
  private readonly saved: Map<string, SavedListing>;
  private readonly savedPlaces: Map<string, SavedPlace>;
  private readonly wire: { due: number; command: BrokerCommand }[] = [];
  private readonly latency: number;
  private turns: Record<VenueId, number>;
  private intradayEnds: Record<VenueId, number | null>;
  private watched = new Set<string>();
  private depths = new Set<string>();
  /** When the desk wants to be told of the time. */
  private wakeAt: number | null = null;
  /** Events of this very millisecond so far. */
  private inMoment = 0;
  private dirty = new Set<string>();
  private unsaved = new Set<string>();
  private readonly armed = new Set<string>();
  private stream: StreamItem[] = [];
  private readonly missed = new Set<string>();
  private prints: Print[] = [];
  private news: Headline[] = [];
  private readonly recorder: Recorder | null;

  constructor(
    instruments: ReadonlyMap<string, Instrument>,
    accounts: readonly AccountTerms[],
    source: MarketSource,
    latency: number,
    saved: SavedExchange | null,
    notBefore: number,
    issues: readonly OfferedIssue[] = [],
    recorder: Recorder | null = null,
  ) {
    this.recorder = recorder;
    this.instruments = instruments;
    this.source = source;
    this.latency = latency;
    this.time = Math.max(saved?.time ?? source.start, source.kind === 'demo' ? notBefore : 0);
    this.saved = new Map(Object.entries(saved?.listings ?? {}));
    this.savedPlaces = new Map((saved?.places ?? []).map((place) => [place.id, place]));
    this.broker = new Broker(instruments, accounts, issues, { listing: (id) => this.listing(id) }, (report) => this.stream.push({ kind: 'report', report }));
    source.seek(this.time, saved?.taken ?? 0);
    this.turns = Object.fromEntries(VENUE_IDS.map((venue) => [venue, nextDayTurn(venue, this.time)])) as Record<VenueId, number>;
    this.intradayEnds = Object.fromEntries(VENUE_IDS.map((venue) => [venue, nextIntradayEnd(venue, this.time)])) as Record<VenueId, number | null>;
    if (saved) this.broker.load(saved.orders, saved.accounts);
    if (source.kind === 'tape') for (const id of instruments.keys()) this.listing(id);
    for (const id of this.broker.needed()) this.listing(id);
    for (const id of recorder?.ids ?? []) this.listing(id);
  }

  /** An instrument's listing, awake from now on. */
  listing(id: string): Listing {
    const found = this.listings.get(id);
    if (found) return found;
    const instrument = this.instruments.get(id);
    if (!instrument) throw new Error(`unknown instrument ${id}`);
    const listing = new Listing(instrument, this.time, this.source.ordersAt(id));
    this.source.wake(listing, this.time);
    const saved = this.saved.get(id);
    if (saved) {
      listing.load(saved, this.placesIn(id));
      this.source.printsOf(id).forEach((print, i) => {
        listing.prints.push({ ...print, seq: i + 1, instrument: id });
        listing.rolling?.add(print.time, print.price, print.price, print.quantity);
      });
      this.saved.delete(id);
    }
    this.listings.set(id, listing);
    this.recorder?.stands(this.time, listing);
    this.dirty.add(id);
    if (saved || this.source.kind === 'demo') this.broker.orders.mend(listing);
    return listing;
  }

  /** How the day of every instrument stands: as it is where it is awake, else by the minute. */
  survey(): DayFigures[] {
    const figures = new Map(this.source.survey(this.time, 0).map((one) => [one.instrument, one]));
    for (const listing of this.listings.values()) {
      const { day, instrument, book } = listing;
      const counted = figures.get(instrument.id);
      const same = (extreme: 'high' | 'low'): boolean => counted !== undefined && counted[extreme] === day[extreme];
      figures.set(instrument.id, {
        instrument: instrument.id,
        open: day.open,
        last: day.last,
        high: day.high,
        low: day.low,
        previousSettlement: listing.previousSettlement,
        volume: day.volume,
        usualVolume: counted?.usualVolume ?? null,
        highAt: same('high') ? (counted?.highAt ?? null) : day.lastTime,
        lowAt: same('low') ? (counted?.lowAt ?? null) : day.lastTime,
        halted: book.state === 'halted',
        asOf: this.time,
        live: true,
      });
    }
    return [...figures.values()];
  }

  /** What is known of an instrument now and of its day before, nobody woken; null where nothing is known of it yet. */
  look(id: string): Glance | null {
    const instrument = this.instruments.get(id);
    const quote = this.listings.get(id)?.quote(this.time) ?? this.source.glance(id, this.time);
    if (!instrument || !quote) return null;
    const price = 10 ** instrument.priceDecimals;
    const before = this.source.dayBefore(id, this.time);
    return {
      quote,
      previousHigh: before && before.high / price,
      previousLow: before && before.low / price,
      usualVolume: this.source.usualVolume(id),
    };
  }

  /** So many of an instrument's newest bars, nobody woken; from the one on that was live at a time, where one is given. */
  newestBars(instrument: Instrument, interval: Interval, count: number, since: number | null): Bar[] {
    if (since !== null && this.isQuiet(instrument, since)) return [];
    const from = since === null ? null : barStart(instrument.venue, interval, since);
    const request = { instrument: instrument.id, interval, from, to: null, limit: count };
    return this.source.bars(request, this.listings.get(instrument.id) ?? null, this.time);
  }

  /** Whether nothing was traded from a time on: then no bar has changed. */
  private isQuiet(instrument: Instrument, since: number): boolean {
    const awake = this.listings.get(instrument.id);
    if (!awake) return this.source.isQuiet(instrument, since, this.time);
    const last = awake.prints[awake.prints.length - 1];
    return last !== undefined && last.time < since;
  }

  isAwake(id: string): boolean {
    return this.listings.has(id);
  }

  /** The instruments that are awake. */
  awake(): string[] {
    return [...this.listings.keys()];
  }

  /** Sets whose quotes and whose depth are wanted; those of them that sleep are still to be woken, by {@link rouse}. */
  watch(instruments: readonly string[], depths: readonly string[]): void {
    this.watched = new Set(instruments.filter((id) => this.instruments.has(id)));
    this.depths = new Set(depths.filter((id) => this.instruments.has(id)));
    if (this.source.kind === 'tape') return;
    const needed = this.broker.needed();
    for (const id of [...this.listings.keys()])
      if (!this.armed.has(id) && !this.watched.has(id) && !this.depths.has(id) && !needed.has(id) && !this.recorder?.has(id)) {
        this.listings.delete(id);
        this.source.rest(id);
      }
  }

  /** All that is watched, awake or not. */
  get wanted(): ReadonlySet<string> {
    return new Set([...this.watched, ...this.depths]);
  }

  /** Whether something that is watched still sleeps. */
  get hasAsleep(): boolean {
    for (const id of this.wanted) if (!this.listings.has(id)) return true;
    return false;
  }

  /**
   * Wakes instruments that sleep, one after the other, until `pause` says that others want to be heard.
   *
   * @returns true when all are awake
   */
  rouse(ids: Iterable<string>, pause: () => boolean): boolean {
    for (const id of ids) {
      if (this.listings.has(id)) continue;
      if (pause()) return false;
      this.listing(id);
    }
    return true;
  }

  /** Requests on their way to the broker: they arrive together, one latency after they were sent. */
  send(commands: readonly BrokerCommand[]): void {
    for (const command of commands)
      if (this.latency === 0) this.arrive(command);
      else this.wire.push({ due: Math.max(this.time, command.sentAt + this.latency), command });
  }

  /** When the first request on its way arrives; null where none is. */
  get nextArrival(): number | null {
    return this.wire[0]?.due ?? null;
  }

  /** From now on each row of these markets goes to the desk, in order among the reports, and a moment is told. */
  arm({ instruments, wakeAt }: Armed): void {
    this.armed.clear();
    for (const id of instruments) if (this.instruments.has(id)) this.armed.add(id);
    for (const id of this.armed) this.listing(id);
    this.wakeAt = wakeAt;
  }

  /** The number of the market's newest event: on a tape its row, where it is made its moment and place in that. */
  get number(): number {
    return this.source.kind === 'tape' ? this.source.taken : this.time * EVENTS_A_MS + Math.min(this.inMoment, EVENTS_A_MS - 1);
  }

  /** When something next happens, or null. */
  nextTime(): number | null {
    const times = [
      this.source.next(),
      this.broker.orders.nextEnd(),
      this.wakeAt,
      this.nextArrival,
      ...Object.values(this.turns),
      ...Object.values(this.intradayEnds),
    ];
    return times.reduce((least, time) => (time !== null && (least === null || time < least) ? time : least), null);
  }

  /**
   * Lets time pass up to and including `to`. Stops early, at a whole event, when `pause` says so.
   *
   * @returns true when `to` is reached
   */
  run(to: number, pause: () => boolean = () => false): boolean {
    for (let next = this.nextTime(); next !== null && next <= to; next = this.nextTime()) {
      this.inMoment = next > this.time ? 0 : this.inMoment + 1;
      this.time = Math.max(this.time, next);
      this.step();
      if (pause()) return false;
    }
    this.time = Math.max(this.time, to);
    return true;
  }

  /**
   * What is to be stored; the reports in it may be told only once it is.
   *
   * @param withBooks also the books, which grow with the orders in them. Those stored earlier are mended from
   *   the orders when they are loaded, so a live market stores them once a second only.
   */
  takeChanges(withBooks = true): ExchangeChanges {
    const changed: ExchangeChanges = {
      time: this.time,
      taken: this.source.taken,
      orders: Object.fromEntries([...this.broker.orders.changed].map((id) => [id, this.broker.orders.all.get(id) ?? null])),
      accounts: [...this.broker.customers.changed].map((id) => this.broker.customers.accounts.get(id) as HeldAccount),
      ...(withBooks ? this.booksToSave() : { listings: {}, places: {} }),
      reports: this.stream.flatMap((item) => (item.kind === 'report' ? [item.report] : [])),
    };
    this.broker.orders.changed.clear();
    this.broker.customers.changed.clear();
    return changed;
  }

  /** What the desk has not been told yet. */
  get untold(): readonly StreamItem[] {
    return this.stream;
  }

  get hasManyPrints(): boolean {
    return this.prints.length >= MANY_PRINTS;
  }

  /** Takes what the desk is to be told, once it is stored. */
  takeStream(): StreamItem[] {
    const taken = this.stream;
    this.stream = [];
    return taken;
  }

  /** The newest market data of what is watched. */
  takeUpdate(): MarketUpdate {
    const update: MarketUpdate = {
      time: this.time,
      quotes: [...this.dirty].filter((id) => this.listings.has(id)).map((id) => (this.listings.get(id) as Listing).quote(this.time)),
      depths: [...this.dirty].filter((id) => this.depths.has(id)).map((id) => this.depth(id, DEPTH_LEVELS)),
      prints: this.prints,
      news: this.news,
      missed: [...this.missed],
    };
    this.dirty = new Set();
    this.prints = [];
    this.news = [];
    this.missed.clear();
    return update;
  }

  /** Everything watched counts as changed: for those who come back after missing some. */
  touchAll(): void {
    for (const id of this.listings.keys()) this.dirty.add(id);
  }

  /** Quotes as they are, for those who begin to look. */
  quotes(ids: readonly string[]): MarketUpdate['quotes'] {
    return ids.map((id) => this.listing(id).quote(this.time));
  }

  depth(id: string, levels: number): DepthView {
    return this.listing(id).depth(this.time, levels);
  }

  private placesIn(instrument: string): SavedPlace[] {
    return [...this.broker.orders.in(instrument)].flatMap((id) => this.savedPlaces.get(id) ?? []);
  }

  private booksToSave(): Pick<ExchangeChanges, 'listings' | 'places'> {
    const listings: ExchangeChanges['listings'] = {};
    const places: ExchangeChanges['places'] = {};
    const needed = this.source.kind === 'tape' ? null : this.broker.needed();
    for (const id of this.unsaved) {
      const listing = this.listings.get(id);
      listings[id] = listing && (needed === null || needed.has(id)) ? listing.save() : null;
    }
    this.unsaved.clear();
    for (const { book } of this.listings.values()) for (const [id, place] of book.takeMoved()) places[id] = place;
    return { listings, places };
  }

  private step(): void {
    if (this.arriveDue() || this.turnDue() || this.expireDue() || this.intradayDue()) return;
    if (this.source.next() !== this.time && (this.source.next() ?? Infinity) > this.time) return;
    const event = this.source.take();
    if ('text' in event) {
      this.news.push(event);
      this.recorder?.happened({ time: this.time, instrument: event.instrument, news: event.text });
      return;
    }
    this.recorder?.happened({ time: this.time, instrument: event.instrument, market: event.event });
    const listing = this.listing(event.instrument);
    const printed = listing.printSeq;
    this.broker.market(listing, event.event, this.time);
    const print = listing.printSeq > printed ? (listing.prints[listing.prints.length - 1] as Print) : null;
    if (print) this.keepPrint(print);
    this.touch(event.instrument);
    if (this.armed.has(event.instrument)) this.tellRow(listing, print);
  }

  private tellRow(listing: Listing, print: Print | null): void {
    const { book, instrument } = listing;
    const quote = listing.quote(this.time);
    const { bid, ask } = quote;
    const traded = print?.price ?? null;
    const row = { time: this.time, instrument: instrument.id, state: book.state, traded, last: book.last, mark: markInHalves(quote), bid, ask };
    this.stream.push({ kind: 'price', row: { ...row, quote, quantity: print?.quantity ?? null, number: this.number } });
  }

  private keepPrint(print: Print): void {
    if (this.prints.length < MOST_PRINTS) {
      this.prints.push(print);
      return;
    }
    for (const { instrument } of this.prints) this.missed.add(instrument);
    this.missed.add(print.instrument);
    this.prints = [];
  }

  private touch(id: string): void {
    this.dirty.add(id);
    this.unsaved.add(id);
  }

  private arrive(command: BrokerCommand): void {
    this.broker.handle(command, this.time);
    for (const instrument of this.broker.instrumentsOf(command)) this.touch(instrument);
  }

  private arriveDue(): boolean {
    const first = this.wire[0];
    if (!first || first.due > this.time) return false;
    this.wire.shift();
    this.arrive(first.command);
    return true;
  }

  private turnDue(): boolean {
    const venue = VENUE_IDS.find((id) => this.turns[id] <= this.time);
    if (!venue) return false;
    this.turns[venue] = nextDayTurn(venue, this.time);
    const day = tradingDay(venue, this.time);
    for (const listing of this.listings.values())
      if (listing.instrument.venue === venue) {
        listing.turn(day);
        this.touch(listing.instrument.id);
      }
    this.broker.turnDay(venue, this.time);
    // With the day what things are valued at has changed.
    for (const id of this.armed) {
      const listing = this.listings.get(id);
      if (listing?.instrument.venue === venue) this.tellRow(listing, null);
    }
    return true;
  }

  private intradayDue(): boolean {
    const venue = VENUE_IDS.find((id) => (this.intradayEnds[id] ?? Infinity) <= this.time);
    if (!venue) return false;
    this.intradayEnds[venue] = nextIntradayEnd(venue, this.time);
    this.broker.closeIntraday(venue, this.time);
    return true;
  }

  private expireDue(): boolean {
    const due = this.broker.orders.nextEnd();
    if (due !== null && due <= this.time) {
      this.broker.expire(this.time);
      return true;
    }
    if (this.wakeAt === null || this.wakeAt > this.time) return false;
    this.wakeAt = null;
    this.stream.push({ kind: 'timer', time: this.time });
    return true;
  }
}
