import type { Entry } from '../../core/desk/index.ts';
import { fromText, toText } from '../../core/exact-text.ts';
import { asHalves, formatQuantity, type Halves, type Instrument, type Price } from '../../core/instrument/index.ts';
import { dayStart, nextTradingDay, tradingDay } from '../../core/market/index.ts';
import { divideHalfEven, minus, type Money } from '../../core/number/index.ts';
import type { Order } from '../../core/orders/index.ts';
import { euroSources, inEuro, type Market } from '../../core/portfolio/index.ts';
import { excursions, netOf, slippage, wouldHaveMade, type CountedTrip, type MissedEntry, type RoundTrip, type TripMark } from '../../core/review/index.ts';
import type { Desk } from '../desk.ts';
import type { Follower } from '../followers.ts';
import { SerialQueue } from '../queue.ts';
import { spanOf, type Days, type Past, type Stopped } from './past.ts';

/** What has just ended is looked at after this long, in machine time: while the market's trades are still kept. */
const LOOK_SOON_MS = 500;

export interface ReviewStore {
  find(names: readonly string[]): Promise<Map<string, string>>;
  put(facts: readonly { readonly name: string; readonly value: string }[]): Promise<void>;
}

/** What of a round trip only the market of its time tells. */
interface Seen {
  readonly mae: Money;
  readonly mfe: Money;
  readonly slippage: Money | null;
  readonly grossEur: Money;
  readonly netEur: Money;
}

/** A round trip with all that is known of it, as it counts. */
export interface ReviewedTrip extends CountedTrip {
  readonly trip: RoundTrip;
  readonly seen: Seen;
  readonly note: string | null;
}

/** What a missed entry would have made; null where nothing was traded. */
export interface ReviewedMiss {
  readonly missed: MissedEntry;
  readonly instrument: Instrument;
  readonly toClose: Money | null;
  readonly best: Money | null;
  readonly worst: Money | null;
}

const UNIT = 10n ** 8n;
/** What was seen of round trips is read so many at a time: others have their turn between two. */
const SEEN_AT_ONCE = 1000;

const countedOf = (trip: RoundTrip, seen: Seen, instrument: Instrument): ReviewedTrip => ({
  trip,
  seen,
  instrument,
  account: trip.account,
  setup: trip.setup,
  note: null,
  long: trip.long,
  closedAt: trip.closedAt,
  heldSeconds: Math.floor((trip.closedAt - trip.openedAt) / 1000),
  quantity: formatQuantity(instrument, trip.quantity),
  gross: seen.grossEur,
  fees: minus(seen.grossEur, seen.netEur),
  net: seen.netEur,
  r: trip.firstRisk === null || trip.firstRisk === 0n ? null : divideHalfEven(netOf(trip) * UNIT, trip.firstRisk),
});

/** The round trips of an account without the trader's marks, those marks, and both together. */
interface KnownTrips {
  readonly plain: readonly ReviewedTrip[];
  readonly marks: ReadonlyMap<string, TripMark>;
  readonly all: readonly ReviewedTrip[];
}

/** Those of several accounts in one row by the time they closed, and what of it was chosen lately. */
interface MergedTrips {
  readonly own: readonly (readonly ReviewedTrip[])[];
  readonly all: readonly ReviewedTrip[];
  readonly chosen: Map<string, readonly ReviewedTrip[]>;
}

/** So many choices are remembered of one row. */
const MOST_CHOICES = 16;

/** Those that may have closed on these days. */
function within(all: readonly ReviewedTrip[], days: Days | undefined): readonly ReviewedTrip[] {
  const { from = -Infinity, before = Infinity } = days ? spanOf(days) : {};
  return all.slice(firstFrom(all, from), firstFrom(all, before));
}

/** The place of the first that closed at a time or later. */
function firstFrom(trips: readonly ReviewedTrip[], time: number): number {
  let [low, high] = [0, trips.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((trips[middle] as ReviewedTrip).closedAt < time) low = middle + 1;
    else high = middle;
  }
  return low;
}

const marked = (plain: ReviewedTrip, mark: TripMark | undefined): ReviewedTrip =>
  mark ? { ...plain, setup: mark.setup === undefined ? plain.trip.setup : mark.setup, note: mark.note ?? null } : plain;

/**
 * What trading has made, told from the activity. What the market said at the time is kept as it is seen.
 */
export class Review implements Follower {
  readonly armed = { instruments: [], wakeAt: null };
  private readonly desk: Desk;
  private readonly store: ReviewStore;
  private readonly past: Past;
  /** What is not in its table yet. */
  private readonly unwritten = new Map<string, string>();
  private readonly seen = new WeakMap<RoundTrip, Seen>();
  /** Those of each account, as far as they were asked for. */
  private readonly known = new Map<string, KnownTrips>();
  /** Those of several accounts in one row, as they were last asked for. */
  private readonly merged = new Map<string, MergedTrips>();
  private readonly reading = new SerialQueue();
  /** What missed entries would have made, where their day is over: that stands. */
  private readonly misses = new Map<string, ReviewedMiss>();
  private soon: NodeJS.Timeout | null = null;

  constructor(desk: Desk, past: Past, store: ReviewStore) {
    this.desk = desk;
    this.past = past;
    this.store = store;
  }

  open(): void {
    this.desk.followedBy(this);
    this.lookSoon();
  }

  /** Keeps what a market order met when it was asked, and what a base asset was worth when it was made or lost. */
  entry({ data }: Entry): void {
    if (data.kind === 'order-requested' || data.kind === 'order-opened') this.keepAsked(data.order);
    if (data.kind === 'order-report' && data.report.kind === 'trade') this.lookSoon();
  }

  heard(): Promise<void> {
    return Promise.resolve();
  }

  news(): void {
    // Headlines make nothing.
  }

  linked(): Promise<void> {
    return Promise.resolve();
  }

  settled(): Promise<unknown> {
    return this.past.settled();
  }

  snapshot(): Promise<null> {
    return Promise.resolve(null);
  }

  awaits(): boolean {
    return false;
  }

  stop(): void {
    if (this.soon) clearTimeout(this.soon);
  }

  /** The round trips of these accounts that are over, by the time they closed; with days at least those that closed then. */
  async trips(accounts: readonly string[], days?: Days): Promise<readonly ReviewedTrip[]> {
    return within((await this.mergedOf(accounts)).all, days);
  }

  /**
   * Those of them that are wanted. What was chosen lately is known: a page asks for one choice in several ways.
   *
   * @param name of the choice: the same for the same accounts, days and wants alone
   */
  async chosen(accounts: readonly string[], days: Days, name: string, wanted: (trip: ReviewedTrip) => boolean): Promise<readonly ReviewedTrip[]> {
    const { all, chosen } = await this.mergedOf(accounts);
    let found = chosen.get(name);
    if (found) return found;
    for (const oldest of chosen.keys()) {
      if (chosen.size < MOST_CHOICES) break;
      chosen.delete(oldest);
    }
    chosen.set(name, (found = within(all, days).filter(wanted)));
    return found;
  }

  private async mergedOf(accounts: readonly string[]): Promise<MergedTrips> {
    const own: (readonly ReviewedTrip[])[] = [];
    for (const account of accounts) own.push(await this.reading.run(() => this.reviewedOf(account)));
    const name = accounts.join(' ');
    const known = this.merged.get(name);
    if (known?.own.every((one, i) => one === own[i])) return known;
    const merged = { own, all: own.flat().sort((a, b) => a.closedAt - b.closedAt), chosen: new Map<string, readonly ReviewedTrip[]>() };
    this.merged.set(name, merged);
    return merged;
  }

  /** The round trip of one of these accounts; null where there is none such. */
  async trip(id: string, accounts: readonly string[]): Promise<ReviewedTrip | null> {
    const trip = await this.past.trip(id, accounts);
    if (!trip) return null;
    const [seen] = await this.seenOf([trip]);
    const { marks } = await this.past.of(trip.account);
    return marked(countedOf(trip, seen as Seen, this.desk.instrument(trip.instrument)), marks.get(trip.id));
  }

  /** By how much opening orders used the rules that each is measured by. */
  used(account: string, days: Days): ReturnType<Past['used']> {
    return this.past.used(account, days);
  }

  /** When rules of these accounts stopped or refused something, oldest first. */
  async stopped(accounts: readonly string[], days?: Days): Promise<Stopped[]> {
    return (await this.past.stopped(accounts, days)).sort((a, b) => a.time - b.time);
  }

  /** The entries these accounts missed, in the order they ended. */
  async missed(accounts: readonly string[], days: Days, wanted: (missed: MissedEntry) => boolean): Promise<ReviewedMiss[]> {
    const found = (await this.past.missed(accounts, days)).filter(wanted);
    const all = await Promise.all(found.map((missed) => this.reviewedMiss(missed)));
    return all.sort((a, b) => a.missed.endedAt - b.missed.endedAt);
  }

  private lookSoon(): void {
    if (this.soon) return;
    this.soon = setTimeout(() => {
      this.soon = null;
      // What could not be read now is read when it is asked for.
      this.lookAtAll().catch(() => undefined);
    }, LOOK_SOON_MS);
    this.soon.unref();
  }

  /** One after the other: whoever asks something of the market meanwhile has his turn. */
  private async lookAtAll(): Promise<void> {
    for (const trip of await this.past.newTrips()) await this.seenOf([trip]);
  }

  private keepAsked({ id, instrument, side, terms }: Order): void {
    const quote = terms.type === 'market' ? this.desk.quoteOf(instrument) : undefined;
    const price = side === 'buy' ? quote?.ask : quote?.bid;
    if (price !== undefined && price !== null) this.keep(`asked ${id}`, price);
  }

  private keep(name: string, value: unknown): void {
    const text = toText(value);
    this.unwritten.set(name, text);
    const written = (): void => void (this.unwritten.get(name) === text && this.unwritten.delete(name));
    this.store.put([{ name, value: text }]).then(written, () => undefined);
  }

  private async kept<T>(names: readonly string[]): Promise<Map<string, T>> {
    const found = await this.store.find(names.filter((name) => !this.unwritten.has(name)));
    for (const name of names) {
      const text = this.unwritten.get(name);
      if (text !== undefined) found.set(name, text);
    }
    return new Map([...found].map(([name, text]) => [name, fromText(text) as T]));
  }

  /** All of an account by the time they closed, with the trader's marks. */
  private async reviewedOf(account: string): Promise<readonly ReviewedTrip[]> {
    const { marks } = await this.past.of(account);
    const trips = await this.past.trips(account);
    const known = this.known.get(account) ?? { plain: [], marks: new Map(), all: [] };
    const { length } = known.plain;
    if (trips.length === length && marks.size === known.marks.size && [...marks].every(([id, mark]) => known.marks.get(id) === mark)) return known.all;
    const now = new Map(marks);
    const fresh = trips.slice(length);
    const seen = await this.seenOf(fresh);
    const plain = [...known.plain, ...fresh.map((trip, i) => countedOf(trip, seen[i] as Seen, this.desk.instrument(trip.instrument)))];
    const all = plain.map((one) => marked(one, now.get(one.trip.id)));
    this.known.set(account, { plain, marks: now, all });
    return all;
  }

  /** What the market said of each of them: as it was kept, else as it says now, which is kept. */
  private async seenOf(trips: readonly RoundTrip[]): Promise<Seen[]> {
    const nameOf = ({ account, id }: RoundTrip): string => `trip ${account} ${id}`;
    const unseen = trips.filter((trip) => !this.seen.has(trip));
    for (let at = 0; at < unseen.length; at += SEEN_AT_ONCE) {
      const some = unseen.slice(at, at + SEEN_AT_ONCE);
      const kept = await this.kept<Seen>(some.map(nameOf));
      for (const trip of some) {
        const name = nameOf(trip);
        let seen = kept.get(name);
        if (!seen) this.keep(name, (seen = await this.look(this.desk.instrument(trip.instrument), trip)));
        this.seen.set(trip, seen);
      }
    }
    return trips.map((trip) => this.seen.get(trip) as Seen);
  }

  private async look(instrument: Instrument, trip: RoundTrip): Promise<Seen> {
    const trades = await this.desk.tradesBetween(trip.instrument, trip.openedAt, trip.closedAt);
    const { mae, mfe } = excursions(instrument, trip, trades);
    const market = await this.euroAt(instrument, trip.closedAt);
    const euro = (sum: Money): Money => inEuro(sum, instrument.settlesIn, market);
    const named = (order: string): string => `asked ${order}`;
    const asked = await this.kept<Price>(trip.fills.filter(({ intended }) => intended === null).map(({ orderId }) => named(orderId)));
    const slipped = slippage(instrument, trip, (order) => asked.get(named(order)) ?? null);
    return { mae, mfe, slippage: slipped, grossEur: euro(trip.gross), netEur: euro(netOf(trip)) };
  }

  /** A sum in what an instrument settles in, in EUR as of a time. */
  async inEuroAt(instrument: Instrument, sum: Money, time: number): Promise<Money> {
    return inEuro(sum, instrument.settlesIn, await this.euroAt(instrument, time));
  }

  /** The market as far as it says what a base asset was worth at a time: the last trade of that trading day, else as it is now. */
  private async euroAt(instrument: Instrument, time: number): Promise<Market> {
    const now = this.desk.marks();
    if (instrument.settlesIn === 'EUR') return now;
    const then = new Map<string, Halves>();
    for (const id of euroSources(instrument.settlesIn)) {
      const { venue } = this.desk.instrument(id);
      const trades = await this.desk.tradesBetween(id, dayStart(venue, tradingDay(venue, time)), time);
      const last = trades[trades.length - 1];
      if (last) then.set(id, asHalves(last.price * 2));
    }
    if (!euroSources(instrument.settlesIn).some((id) => then.has(id))) await this.desk.market.ensure(euroSources(instrument.settlesIn));
    return { instrument: (id) => now.instrument(id), mark: (id) => then.get(id) ?? now.mark(id) };
  }

  private async reviewedMiss(missed: MissedEntry): Promise<ReviewedMiss> {
    const known = this.misses.get(missed.orderId);
    if (known) return known;
    const instrument = this.desk.instrument(missed.instrument);
    const { venue } = instrument;
    const day = tradingDay(venue, missed.endedAt);
    const close = dayStart(venue, nextTradingDay(venue, day)) - 1;
    const isOver = this.desk.now() > close;
    const whole = await this.desk.tradesBetween(missed.instrument, dayStart(venue, day), close);
    const made = (price: Price): Money => wouldHaveMade(instrument, missed, price);
    const after = whole.filter(({ time }) => time >= missed.from).map(({ price }) => made(price));
    const last = whole[whole.length - 1];
    const pick = (better: (a: Money, b: Money) => boolean): Money | null =>
      after.length === 0 ? null : after.reduce((found, one) => (better(one, found) ? one : found));
    const found = { missed, instrument, toClose: last ? made(last.price) : null, best: pick((a, b) => a > b), worst: pick((a, b) => a < b) };
    if (isOver && last) this.misses.set(missed.orderId, found);
    return found;
  }
}
