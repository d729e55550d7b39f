import type { BrokerReport } from '../../src/core/desk/index.ts';
import { fromText, toText } from '../../src/core/exact-text.ts';
import type {
  AskedRow,
  DeskStore,
  EntryQuery,
  FillQuery,
  FillRow,
  LogRow,
  OrderQuery,
  OrderRow,
  PageQuery,
  ProjectedBatch,
  StoredSnapshot,
} from '../../src/desk/store.ts';
import type { SavedPlace } from '../../src/core/market/index.ts';
import type { HeldAccount, HeldOrder } from '../../src/venue/held.ts';
import type { ExchangeChanges, SavedExchange } from '../../src/venue/exchange.ts';
import type { SavedListing } from '../../src/venue/listing.ts';
import type { ExchangeStore, SavedClock } from '../../src/venue/thread.ts';

/** Where a fault strikes a write: before it (lost), or after it (done but not answered). */
export type Fault = 'lost' | 'unanswered' | null;

export class StoreFailed extends Error {}

/** Writes as a file would: nothing is shared with the living state, and a fault strikes before or after. */
async function written(fault: Fault, write: () => void): Promise<void> {
  await Promise.resolve();
  if (fault === 'lost') throw new StoreFailed('the disk said no');
  write();
  if (fault === 'unanswered') throw new StoreFailed('the answer was lost');
}

const copy = <T>(value: T): T => fromText(toText(value)) as T;

function pageOf<T extends { readonly seq: number }>(all: readonly T[], { before, after, limit }: PageQuery): T[] {
  const sorted = [...all].sort((a, b) => a.seq - b.seq);
  if (after !== undefined) return sorted.filter(({ seq }) => seq > after).slice(0, limit);
  return sorted.filter(({ seq }) => before === undefined || seq < before).slice(-limit);
}

/** The desk's store in memory, with true fault points. */
export class MemoryDeskStore implements DeskStore {
  rows: LogRow[] = [];
  private readonly orderRows = new Map<string, OrderRow>();
  private readonly fillRows = new Map<string, FillRow>();
  private readonly askedRows = new Map<string, AskedRow>();
  private readonly saved = new Map<string, StoredSnapshot>();
  private mark = { seq: 0, hash: '0'.repeat(64) };
  /** Decides, before each write, what happens to it. */
  fault: (what: 'append' | 'snapshot' | 'project') => Fault = () => null;
  /** Whether the store can say what it holds. */
  silent: () => boolean = () => false;

  /** What is on the disk now: what a dead program would still write does not get there. */
  fork(): MemoryDeskStore | Promise<MemoryDeskStore> {
    const other = new MemoryDeskStore();
    other.rows = [...this.rows];
    for (const [id, row] of this.orderRows) other.orderRows.set(id, row);
    for (const [id, row] of this.fillRows) other.fillRows.set(id, row);
    for (const [id, row] of this.askedRows) other.askedRows.set(id, row);
    for (const [id, row] of this.saved) other.saved.set(id, row);
    other.mark = this.mark;
    return other;
  }

  append(rows: readonly LogRow[]): Promise<void> {
    return written(this.fault('append'), () => this.rows.push(...rows));
  }

  async last(): Promise<{ seq: number; hash: string }> {
    await Promise.resolve();
    if (this.silent()) throw new StoreFailed('the store does not answer');
    return this.rows[this.rows.length - 1] ?? { seq: 0, hash: '0'.repeat(64) };
  }

  readAfter(seq: number, limit: number): Promise<LogRow[]> {
    return Promise.resolve(this.rows.filter((row) => row.seq > seq).slice(0, limit));
  }

  entries(query: EntryQuery): Promise<LogRow[]> {
    const { accounts, orderId, instrument, withHistory } = query;
    const mine = this.rows.filter(
      (row) =>
        (row.account === null || accounts.includes(row.account)) &&
        (orderId === undefined || row.orderId === orderId) &&
        (instrument === undefined || row.instrument === instrument) &&
        (!withHistory || row.history !== null),
    );
    return Promise.resolve(pageOf(mine, query));
  }

  saveSnapshot(snapshot: StoredSnapshot): Promise<void> {
    return written(this.fault('snapshot'), () => this.saved.set(snapshot.account, snapshot));
  }

  snapshots(): Promise<StoredSnapshot[]> {
    return Promise.resolve([...this.saved.values()]);
  }

  watermark(): Promise<{ seq: number; hash: string }> {
    return Promise.resolve(this.mark);
  }

  clearTables(): Promise<void> {
    for (const table of [this.orderRows, this.fillRows, this.askedRows, this.saved]) table.clear();
    this.mark = { seq: 0, hash: '0'.repeat(64) };
    return Promise.resolve();
  }

  project({ upTo, hash, orders, fills, asked }: ProjectedBatch): Promise<void> {
    return written(this.fault('project'), () => {
      for (const row of orders) this.orderRows.set(row.id, row);
      for (const row of fills) if (!this.fillRows.has(row.id)) this.fillRows.set(row.id, row);
      for (const row of asked) if (!this.askedRows.has(`${row.account} ${row.clientOrderId}`)) this.askedRows.set(`${row.account} ${row.clientOrderId}`, row);
      this.mark = { seq: upTo, hash };
    });
  }

  order(id: string): Promise<OrderRow | null> {
    return Promise.resolve(this.orderRows.get(id) ?? null);
  }

  orders(query: OrderQuery): Promise<OrderRow[]> {
    const { accounts, instrument, state, done, groupId } = query;
    const mine = [...this.orderRows.values()].filter(
      (row) =>
        accounts.includes(row.account) &&
        (instrument === undefined || row.instrument === instrument) &&
        (state === undefined || row.state === state) &&
        (done === undefined || row.done === done) &&
        (groupId === undefined || row.groupId === groupId),
    );
    return Promise.resolve(pageOf(mine, query));
  }

  fills(query: FillQuery): Promise<FillRow[]> {
    const mine = [...this.fillRows.values()].filter(
      (row) =>
        query.accounts.includes(row.account) &&
        (query.instrument === undefined || row.instrument === query.instrument) &&
        (query.orderIds?.includes(row.orderId) ?? true),
    );
    return Promise.resolve(pageOf(mine, query));
  }

  askedAfter(account: string, clientOrderId: string, limit: number): Promise<string[]> {
    const mine = [...this.askedRows.values()].filter((row) => row.account === account).map((row) => row.clientOrderId);
    const after = mine.filter((name) => name > clientOrderId).sort((a, b) => (a < b ? -1 : 1));
    return Promise.resolve(after.slice(0, limit));
  }

  asked(account: string, clientOrderId: string): Promise<AskedRow | null> {
    return Promise.resolve(this.askedRows.get(`${account} ${clientOrderId}`) ?? null);
  }
}

/** The venue's store in memory. What was committed is what a new venue begins with. */
export class MemoryVenueStore implements ExchangeStore {
  clock: SavedClock | null = null;
  private readonly orders = new Map<string, HeldOrder>();
  private readonly accounts = new Map<string, HeldAccount>();
  private readonly listings = new Map<string, SavedListing>();
  private readonly places = new Map<string, SavedPlace>();
  private readonly reports = new Map<string, BrokerReport[]>();
  fault: () => Fault = () => null;

  fork(): MemoryVenueStore {
    const other = new MemoryVenueStore();
    other.clock = this.clock;
    for (const [id, row] of this.orders) other.orders.set(id, row);
    for (const [id, row] of this.accounts) other.accounts.set(id, row);
    for (const [id, row] of this.listings) other.listings.set(id, row);
    for (const [id, row] of this.places) other.places.set(id, row);
    for (const [id, row] of this.reports) other.reports.set(id, row);
    return other;
  }

  commit(clock: SavedClock, changes: ExchangeChanges): Promise<void> {
    return written(this.fault(), () => {
      this.clock = clock;
      for (const [id, order] of Object.entries(changes.orders)) {
        if (order) this.orders.set(id, copy(order));
        else this.orders.delete(id);
      }
      for (const account of changes.accounts) this.accounts.set(account.book.account, copy(account));
      for (const [id, listing] of Object.entries(changes.listings)) {
        if (listing) this.listings.set(id, copy(listing));
        else this.listings.delete(id);
      }
      for (const [id, place] of Object.entries(changes.places)) {
        if (place) this.places.set(id, copy(place));
        else this.places.delete(id);
      }
      for (const report of changes.reports) this.reports.set(report.account, [...(this.reports.get(report.account) ?? []), copy(report)]);
    });
  }

  /** What a venue that starts again begins with; null for a new world. */
  load(): SavedExchange | null {
    if (!this.clock) return null;
    const { time, taken } = this.clock;
    const [orders, accounts, places] = [this.orders, this.accounts, this.places].map((parts) => [...parts.values()]) as [
      HeldOrder[],
      HeldAccount[],
      SavedPlace[],
    ];
    return copy({ time, taken, orders, accounts, listings: Object.fromEntries(this.listings), places });
  }

  reportsAfter(account: string, seq: number, limit: number): Promise<BrokerReport[]> {
    return Promise.resolve((this.reports.get(account) ?? []).filter((report) => report.seq > seq).slice(0, limit));
  }

  forgetReports(account: string, upTo: number): Promise<void> {
    this.reports.set(
      account,
      (this.reports.get(account) ?? []).filter((report) => report.seq > upTo),
    );
    return Promise.resolve();
  }

  close(): Promise<void> {
    return Promise.resolve();
  }
}
