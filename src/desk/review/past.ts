import { CashBook, Lots, statement, type ClosedLot, type LotMethod, type Movement, type Purpose, type StatementDay } from '../../core/backoffice/index.ts';
import type { SavedCash, SavedLots } from '../../core/backoffice/index.ts';
import { foldEntry, loadAccount, newAccountState, saveAccount } from '../../core/desk/index.ts';
import type { AccountState, Entry, SavedAccount, Touched, Working } from '../../core/desk/index.ts';
import { fromText, toText } from '../../core/exact-text.ts';
import type { BlockingRule } from '../../core/risk/index.ts';
import { tradingDay, type Day } from '../../core/market/index.ts';
import { completeOrder, isFinished } from '../../core/orders/index.ts';
import { type AccountTerms, type CurveFill, type Position, homeVenue } from '../../core/portfolio/index.ts';
import { RoundTrips, usedMore, type MeasuredUse, type MissedEntry, type RoundTrip, type SavedTrips, type TripMark } from '../../core/review/index.ts';
import type { Desk } from '../desk.ts';
import { TablesBehind } from '../projector.ts';
import { SerialQueue } from '../queue.ts';

/** The form of what is kept. What is of another one is made anew from the log. */
const PAST_VERSION = 2;
const ENTRIES_AT_ONCE = 400;
const ROWS_AT_ONCE = 1000;
/** How far the rows go is written down after so many entries; a start goes through those since again. */
const ENTRIES_A_MARK = 2000;
/** Orders that are over and are still remembered, for what may come late. */
const MOST_FINISHED = 300;
/** Rows that are read in one go: others have their turn between two. */
const READ_AT_ONCE = 1000;
const DAY_MS = 86_400_000;
/** More than a trading day can begin before its date or end after it. */
const MARGIN_DAYS = 5;

type Kind = 'trip' | 'missed' | 'moved' | 'stopped' | 'used' | LotMethod;

/** Something that an account's activity came to; `place` tells apart what came with one entry. */
export interface PastRow {
  readonly seq: number;
  readonly place: number;
  readonly account: string;
  readonly kind: string;
  readonly time: number;
  readonly name: string;
  readonly value: string;
}

export interface PastMark {
  readonly seq: number;
  readonly hash: string;
  readonly version: number;
  readonly value: string;
}

export interface PastQuery {
  readonly accounts: readonly string[];
  readonly kind: string;
  readonly name?: string;
  readonly from?: number;
  readonly before?: number;
  readonly newest?: number;
  /** What comes after a row, and no more than so many. */
  readonly after?: { readonly row: Pick<PastRow, 'seq' | 'place'> | null; readonly most: number };
}

export interface PastStore {
  mark(): Promise<PastMark | null>;
  put(rows: readonly PastRow[], mark: PastMark | null): Promise<void>;
  cutAfter(seq: number): Promise<void>;
  find(query: PastQuery): Promise<PastRow[]>;
}

/** Days to look at, both with; null where it has no beginning. */
export interface Days {
  readonly from: Day | null;
  readonly to: Day;
}

/** A rule that began to block, or refused what was asked. */
export interface Stopped {
  readonly account: string;
  readonly time: number;
  readonly rule: BlockingRule;
  readonly blocks: boolean;
  readonly text: string;
}

/** An account as its activity has made it so far, with what the entries to come need of those behind. */
class Followed {
  state: AccountState;
  readonly trips: RoundTrips;
  readonly lots: Lots;
  readonly cash: CashBook;
  /** What it held as the trading day of each began, and its fills since. */
  readonly day: { readonly start: Map<string, Position>; fills: CurveFill[] } = { start: new Map(), fills: [] };
  readonly finished = new Map<string, Working>();
  /** The largest use of each rule by an order of this trading day. */
  uses: DayUses = { day: 0, top: [] };
  private readonly terms: AccountTerms;
  private readonly desk: Pick<Desk, 'instrument'>;

  constructor(terms: AccountTerms, desk: Pick<Desk, 'instrument'>) {
    this.terms = terms;
    this.desk = desk;
    const instrumentOf = (id: string) => desk.instrument(id);
    this.state = newAccountState(terms);
    this.trips = new RoundTrips(instrumentOf);
    this.lots = new Lots(instrumentOf);
    this.cash = new CashBook(terms, instrumentOf);
  }

  save(): SavedFollowed {
    const { state, trips, lots, cash, day, finished, uses } = this;
    const kept = [...finished.values()].map(({ order, madeBy, askedBy, turnover }) => ({ order, madeBy, askedBy, turnover }));
    const today = { start: [...day.start], fills: day.fills };
    return { state: saveAccount(state), trips: trips.save(), lots: lots.save(), cash: cash.save(), day: today, finished: kept, uses };
  }

  load({ state, trips, lots, cash, day, finished, uses }: SavedFollowed): void {
    this.uses = uses;
    this.state = loadAccount(this.terms, state, (id) => this.desk.instrument(id));
    this.trips.load(trips);
    this.lots.load(lots);
    this.cash.load(cash);
    for (const [id, position] of day.start) this.day.start.set(id, position);
    this.day.fills = [...day.fills];
    for (const one of finished) this.finished.set(one.order.id, { ...one, order: completeOrder(one.order), claims: [] });
  }

  /**
   * Takes the next entry.
   *
   * @param late the order that it is about, where that was over long ago
   */
  take(entry: Entry, late: Working | null): void {
    const { state } = this;
    const before = state.book;
    const touched = foldEntry(state, entry, { instrument: (id) => this.desk.instrument(id), past: (id) => this.finished.get(id) ?? late });
    this.followDay(entry, touched);
    this.trips.take(entry, touched, state);
    this.lots.take(entry, touched);
    this.cash.take(entry, touched, before, state);
    for (const working of touched.orders) if (isFinished(working.order)) this.remember(working);
  }

  /** What the order of an entry used more of than any before it on that day. */
  usedMost({ time, data, instrument }: Entry): MeasuredUse[] {
    const all = 'uses' in data ? (data.uses ?? []) : [];
    if (all.length === 0) return [];
    const day = tradingDay(homeVenue(this.terms), time);
    if (day !== this.uses.day) this.uses = { day, top: [] };
    const { top } = this.uses;
    const more = all
      .filter((use) => top.every((one) => one.rule !== use.rule || usedMore(use, one)))
      .map((use) => ({ ...use, instrument: use.rule === 'maxOrdersPerMinute' ? null : instrument }));
    this.uses = { day, top: [...top.filter(({ rule }) => !more.some((use) => use.rule === rule)), ...more] };
    return more;
  }

  private remember(working: Working): void {
    const { id } = working.order;
    this.finished.delete(id);
    this.finished.set(id, working);
    for (const old of this.finished.keys()) {
      if (this.finished.size <= MOST_FINISHED) return;
      this.finished.delete(old);
      this.trips.forget(old);
    }
  }

  /** A day begins with what is held at its turn; the fills of a venue are its day's alone. */
  private followDay({ data }: Entry, { orders, fills }: Touched): void {
    const { day } = this;
    for (const fill of fills) {
      const product = orders.find(({ order }) => order.id === fill.orderId)?.order.product ?? 'overnight';
      day.fills.push({ ...fill, product });
    }
    if (data.kind !== 'day-turn') return;
    const there = (id: string): boolean => this.desk.instrument(id).venue === data.venue;
    day.fills = day.fills.filter(({ instrument }) => !there(instrument));
    for (const id of [...day.start.keys()]) if (there(id)) day.start.delete(id);
    for (const position of Object.values(this.state.book.positions))
      if (position.quantity !== 0 && there(position.instrument)) day.start.set(position.instrument, position);
  }
}

interface DayUses {
  readonly day: Day;
  readonly top: readonly MeasuredUse[];
}

interface SavedFollowed {
  readonly state: SavedAccount;
  readonly trips: SavedTrips;
  readonly lots: SavedLots;
  readonly cash: SavedCash;
  readonly day: { readonly start: readonly (readonly [string, Position])[]; readonly fills: readonly CurveFill[] };
  readonly finished: readonly Omit<Working, 'claims'>[];
  readonly uses: DayUses;
}

/** The rule that began to block with an entry, or refused what was asked; null where none did. */
function stoppedBy(account: string, { time, text, data }: Entry, { risk }: AccountState): Stopped | null {
  if (data.kind === 'risk') {
    const began = (data.to.blocks ?? []).slice(risk.blocks.length)[0];
    return began ? { account, time, rule: began.rule, blocks: true, text } : null;
  }
  return data.kind === 'refused' && data.refusal.kind === 'risk-blocked' ? { account, time, rule: data.refusal.rule, blocks: false, text } : null;
}

/** @throws TablesBehind where the tables can't be read or written just now */
const stored = <T>(work: Promise<T>): Promise<T> =>
  work.catch(() => {
    throw new TablesBehind('What the accounts have been through can’t be brought up to date just now.');
  });

/** Of these an order is made: nothing was known of it before. */
const MAKES_ORDER: readonly string[] = ['order-requested', 'order-opened'];

/** When what belongs to days can have happened, with a margin on either side. */
export const spanOf = ({ from, to }: Days): { from?: number; before: number } => ({
  ...(from === null ? {} : { from: (from - MARGIN_DAYS) * DAY_MS }),
  before: (to + MARGIN_DAYS) * DAY_MS,
});

const placeName = (asset: string, purpose: Purpose): string => `${asset} ${purpose}`;

/**
 * What accounts have been through: round trips, missed entries, closed lots, movements of money, what rules stopped.
 * A projection of the activity, brought up to the newest entry whenever somebody asks; it is kept in tables, and only
 * what is not over is in memory.
 */
export class Past {
  private readonly desk: Pick<Desk, 'accounts' | 'instrument' | 'entriesAfter' | 'workingOrPast'>;
  private readonly store: PastStore;
  private readonly queue = new SerialQueue();
  private accounts = new Map<string, Followed>();
  private opened: Promise<void> | null = null;
  private upTo = 0;
  private hash = '';
  private markedAt = 0;
  /** What is not written yet. */
  private rows: PastRow[] = [];
  /** Round trips that ended since somebody last asked for those. */
  private fresh: RoundTrip[] = [];
  /** The round trips of accounts that were asked for, as far as they are read: they only grow. */
  private readonly read = new Map<string, { readonly trips: RoundTrip[]; last: PastRow | null }>();
  private readonly reading = new SerialQueue();

  constructor(desk: Past['desk'], store: PastStore) {
    this.desk = desk;
    this.store = store;
  }

  /** An account as it is now, and its day. */
  async of(account: string): Promise<Pick<Followed, 'state' | 'day'> & { readonly marks: ReadonlyMap<string, TripMark> }> {
    await this.upToNow();
    const { state, day, trips } = this.followed(account);
    return { state, day, marks: trips.marks };
  }

  /** The round trips of an account that are over, as they ended: a list that only grows. */
  async trips(account: string): Promise<readonly RoundTrip[]> {
    await this.upToNow();
    return this.reading.run(() => this.readOn(account));
  }

  /** The round trip that goes on in an instrument; null while it is flat. */
  async going(account: string, instrument: string): Promise<ReturnType<RoundTrips['going']>> {
    await this.upToNow();
    return this.followed(account).trips.going(instrument);
  }

  async trip(id: string, accounts: readonly string[]): Promise<RoundTrip | null> {
    const [row] = await this.find(accounts, 'trip', undefined, id);
    const read = row && this.read.get(row.account)?.trips.find((trip) => trip.id === id);
    return read ?? (row ? (fromText(row.value) as RoundTrip) : null);
  }

  /** Reads the round trips of an account that are not read yet. */
  private async readOn(account: string): Promise<readonly RoundTrip[]> {
    const read = this.read.get(account) ?? { trips: [], last: null };
    this.read.set(account, read);
    for (let more = true; more;) {
      const rows = await stored(this.store.find({ accounts: [account], kind: 'trip', after: { row: read.last, most: READ_AT_ONCE } }));
      for (const row of rows) read.trips.push(fromText(row.value) as RoundTrip);
      read.last = rows[rows.length - 1] ?? read.last;
      more = rows.length === READ_AT_ONCE;
    }
    return read.trips;
  }

  /** Those that ended since this was last asked; after a start those since what was kept. */
  async newTrips(): Promise<RoundTrip[]> {
    await this.upToNow();
    return this.fresh.splice(0);
  }

  async missed(accounts: readonly string[], days?: Days): Promise<MissedEntry[]> {
    return (await this.find(accounts, 'missed', days)).map(({ value }) => fromText(value) as MissedEntry);
  }

  async stopped(accounts: readonly string[], days?: Days): Promise<Stopped[]> {
    return (await this.find(accounts, 'stopped', days)).map(({ value }) => fromText(value) as Stopped);
  }

  /** By how much orders used the rules that each is measured by, wherever one used more than those before it on its day. */
  async used(account: string, days: Days): Promise<(MeasuredUse & { readonly time: number })[]> {
    return (await this.find([account], 'used', days)).map(({ time, value }) => ({ ...(fromText(value) as MeasuredUse), time }));
  }

  async closedLots(account: string, method: LotMethod, days: Days): Promise<ClosedLot[]> {
    return (await this.find([account], method, days)).map(({ value }) => fromText(value) as ClosedLot);
  }

  /** What moved on these days in one place. */
  async statement(account: string, days: readonly Day[], asset: string, purpose: Purpose): Promise<StatementDay[]> {
    const [first, last] = [days[0], days[days.length - 1]];
    if (first === undefined || last === undefined) return [];
    const name = placeName(asset, purpose);
    const near = (await this.find([account], 'moved', { from: first, to: last }, name)).map(({ value }) => fromText(value) as Movement);
    const { terms } = this.followed(account).state;
    const isBefore = (one: Movement): boolean => tradingDay(homeVenue(terms), one.time) < first;
    const before = near.findLast(isBefore) ?? (await this.lastMoved(account, name, (first - MARGIN_DAYS) * DAY_MS));
    const opening = before?.after ?? this.followed(account).cash.openedWith(asset, purpose);
    return statement(
      terms,
      days,
      near.filter((one) => !isBefore(one)),
      opening,
    );
  }

  private async lastMoved(account: string, name: string, before: number): Promise<Movement | null> {
    const [row] = await stored(this.store.find({ accounts: [account], kind: 'moved', name, before, newest: 1 }));
    return row ? (fromText(row.value) as Movement) : null;
  }

  settled(): Promise<unknown> {
    return this.queue.idle();
  }

  /** Writes down how far it has come, so that the next start need not go through it again. */
  async close(): Promise<void> {
    await this.queue.run(async () => {
      await this.follow();
      if (this.upTo > this.markedAt) await this.write(true);
    });
  }

  private followed(account: string): Followed {
    const found = this.accounts.get(account);
    if (!found) throw new Error(`unknown account ${account}`);
    return found;
  }

  private async find(accounts: readonly string[], kind: Kind, days?: Days, name?: string): Promise<PastRow[]> {
    await this.upToNow();
    return stored(this.store.find({ accounts, kind, ...(name === undefined ? {} : { name }), ...(days ? spanOf(days) : {}) }));
  }

  private upToNow(): Promise<void> {
    return this.queue.run(() => this.follow());
  }

  private async follow(): Promise<void> {
    await (this.opened ??= this.open().catch((error: Error) => {
      this.opened = null;
      throw error;
    }));
    for (let more = true; more;) {
      const entries = await this.desk.entriesAfter(this.upTo, ENTRIES_AT_ONCE);
      for (const entry of entries) await this.take(entry);
      more = entries.length === ENTRIES_AT_ONCE;
      if (this.rows.length >= (more ? ROWS_AT_ONCE : 1)) await this.write(this.upTo - this.markedAt >= ENTRIES_A_MARK);
    }
  }

  /** Goes on from what was kept of this same log, else from its beginning. */
  private async open(): Promise<void> {
    this.accounts = new Map([...this.desk.accounts].map(([id, { terms }]) => [id, new Followed(terms, this.desk)]));
    const mark = await stored(this.store.mark());
    const [there] = mark ? await this.desk.entriesAfter(mark.seq - 1, 1) : [];
    const isSame = mark !== null && mark.version === PAST_VERSION && there?.seq === mark.seq && there.hash === mark.hash;
    await stored(this.store.cutAfter(isSame ? mark.seq : 0));
    this.upTo = this.markedAt = isSame ? mark.seq : 0;
    this.hash = isSame ? mark.hash : '';
    this.rows = [];
    this.read.clear();
    if (isSame) for (const saved of fromText(mark.value) as SavedFollowed[]) this.accounts.get(saved.state.account)?.load(saved);
  }

  private async take(entry: Entry): Promise<void> {
    const followed = entry.account === null ? undefined : this.accounts.get(entry.account);
    if (followed && entry.account !== null) {
      const { state, finished, trips, lots, cash } = followed;
      const { orderId, account } = entry;
      const isLate = orderId !== null && !MAKES_ORDER.includes(entry.data.kind) && !state.working.has(orderId) && !finished.has(orderId);
      const late = isLate ? await this.desk.workingOrPast(orderId, account) : null;
      let place = 0;
      const row = (kind: Kind, name: string, value: unknown): void => {
        this.rows.push({ seq: entry.seq, place: place++, account, kind, time: entry.time, name, value: toText(value) });
      };
      const stop = stoppedBy(account, entry, state);
      followed.take(entry, late);
      if (stop) row('stopped', stop.rule, stop);
      for (const use of followed.usedMost(entry)) row('used', use.rule, use);
      for (const trip of trips.closed.splice(0)) {
        row('trip', trip.id, trip);
        this.fresh.push(trip);
      }
      for (const missed of trips.missed.splice(0)) row('missed', missed.orderId, missed);
      for (const method of ['fifo', 'average'] as const) for (const lot of lots.closed[method].splice(0)) row(method, lot.instrument, lot);
      for (const moved of cash.movements.splice(0)) row('moved', placeName(moved.asset, moved.purpose), moved);
    }
    this.upTo = entry.seq;
    this.hash = entry.hash;
  }

  private async write(withMark: boolean): Promise<void> {
    const rows = this.rows.slice();
    const { upTo: seq, hash } = this;
    const value = (): string => toText([...this.accounts.values()].map((one) => one.save()));
    await stored(this.store.put(rows, withMark ? { seq, hash, version: PAST_VERSION, value: value() } : null));
    this.rows = this.rows.slice(rows.length);
    if (withMark) this.markedAt = seq;
  }
}
