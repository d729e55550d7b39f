import { fromText, toText } from '../core/exact-text.ts';
import { completeOrder, isFinished, orderState } from '../core/orders/index.ts';
import type { Asked, Entry, Fill, Touched, Working } from '../core/desk/index.ts';
import { NameFilter } from './name-filter.ts';
import type { AskedRow, DeskStore, FillQuery, FillRow, OrderQuery, OrderRow } from './store.ts';

/** Tables follow the log after this long at most, in machine time, or when they are asked. */
const FOLLOW_MS = 200;
const MOST_WAITING = 1000;
/** Client order ids of before are read in pieces, beside what the desk does. */
const NAMES_AT_ONCE = 500;

type StoredWorking = Omit<Working, 'claims'>;

const orderRow = ({ order, madeBy, askedBy, turnover }: Working): OrderRow => {
  const done = isFinished(order) && order.pendingCancel === null && order.pendingReplace === null;
  const value: StoredWorking = { order, madeBy, askedBy, turnover };
  const { id, account, instrument, group } = order;
  return { id, seq: madeBy, account, instrument, state: orderState(order), done, groupId: group?.id ?? null, value: toText(value) };
};

const workingOf = (row: OrderRow): Working => {
  const { order, ...rest } = fromText(row.value) as StoredWorking;
  return { order: completeOrder(order), claims: [], ...rest };
};

const key = (account: string, clientOrderId: string): string => `${account}\n${clientOrderId}`;

/** The tables could not be brought up to the newest entry: what they would say is old. */
export class TablesBehind extends Error {
  override readonly name = 'TablesBehind';
}

/**
 * Keeps the tables of orders, fills and client order ids behind the log. What they have not got yet is kept here,
 * so that what is asked by name is always answered as of the newest entry; lists first bring the tables up.
 */
export class Projector {
  private orders = new Map<string, Working>();
  private fills: FillRow[] = [];
  private readonly asked = new Map<string, AskedRow>();
  /** Client order ids that may have been used: all of them, once what was used before the start has been read. */
  private readonly names = new NameFilter();
  private namesKnown = false;
  private readingNames: Promise<void> = Promise.resolve();
  private stopped = false;
  private upTo = 0;
  private hash = '';
  private written = 0;
  private writing: Promise<void> = Promise.resolve();
  private timer: NodeJS.Timeout | null = null;
  private readonly store: DeskStore;

  constructor(store: DeskStore) {
    this.store = store;
  }

  /** Finds how far the tables go; those of another log than this are made anew. */
  async open(): Promise<number> {
    const { seq, hash } = await this.store.watermark();
    const [there] = seq === 0 ? [] : await this.store.readAfter(seq - 1, 1);
    const same = seq === 0 || (there?.seq === seq && there.hash === hash);
    if (!same) await this.store.clearTables();
    this.written = same ? seq : 0;
    this.upTo = this.written;
    return this.written;
  }

  /** Reads the client order ids of before. Until they are known, and where they can't be read, the store is asked about each. */
  readNames(accounts: readonly string[]): void {
    this.readingNames = this.addNames(accounts).catch(() => undefined);
  }

  private async addNames(accounts: readonly string[]): Promise<void> {
    for (const account of accounts) {
      for (let names = ['']; names.length > 0 && !this.stopped;) {
        names = await this.store.askedAfter(account, names.at(-1) as string, NAMES_AT_ONCE);
        for (const name of names) this.names.add(key(account, name));
      }
    }
    this.namesKnown = !this.stopped;
  }

  /** An entry was folded and changed this. */
  take({ seq, hash, account }: Pick<Entry, 'seq' | 'hash' | 'account'>, { orders, fills, asked }: Touched): void {
    if (seq <= this.written) return;
    this.upTo = seq;
    this.hash = hash;
    if (account === null) return;
    for (const working of orders) this.orders.set(working.order.id, working);
    for (const fill of fills) this.fills.push({ id: fill.id, seq: fill.seq, account, instrument: fill.instrument, orderId: fill.orderId, value: toText(fill) });
    if (asked) this.names.add(key(account, asked.asked.clientOrderId));
    if (asked) this.asked.set(key(account, asked.asked.clientOrderId), { account, orderId: asked.orderId, ...asked.asked });
    if (this.orders.size + this.fills.length > MOST_WAITING) this.followSoon(0);
    else this.followSoon(FOLLOW_MS);
  }

  /** Brings the tables up to the newest entry; rejects where they can't be written, and they are tried again later. */
  follow(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    const next = this.writing.then(() => this.write());
    this.writing = next.catch(() => this.followSoon(FOLLOW_MS));
    return next;
  }

  private followSoon(within: number): void {
    this.timer ??= setTimeout(() => void this.follow().catch(() => undefined), within);
  }

  async stop(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearTimeout(this.timer);
    await this.readingNames;
  }

  /** Up to which entry the tables are written. */
  get watermark(): number {
    return this.written;
  }

  private async write(): Promise<void> {
    if (this.upTo === this.written) return;
    const { upTo, hash } = this;
    const orders = [...this.orders.values()];
    const batch = { upTo, hash, orders: orders.map(orderRow), fills: this.fills.slice(), asked: [...this.asked.values()] };
    await this.store.project(batch);
    this.written = upTo;
    // What came meanwhile stays for the next time.
    for (const working of orders) if (this.orders.get(working.order.id) === working) this.orders.delete(working.order.id);
    this.fills = this.fills.slice(batch.fills.length);
    for (const row of batch.asked) if (this.asked.get(key(row.account, row.clientOrderId)) === row) this.asked.delete(key(row.account, row.clientOrderId));
    if (this.orders.size + this.fills.length > 0) this.followSoon(FOLLOW_MS);
  }

  private async caughtUp(): Promise<void> {
    try {
      await this.follow();
    } catch {
      throw new TablesBehind('The lists can’t be brought up to date just now.');
    }
  }

  async order(id: string): Promise<Working | null> {
    const waiting = this.orders.get(id);
    if (waiting) return waiting;
    const row = await this.store.order(id);
    return row && workingOf(row);
  }

  async askedFor(account: string, clientOrderId: string): Promise<{ orderId: string; asked: Asked } | null> {
    if (this.namesKnown && !this.names.maybeHas(key(account, clientOrderId))) return null;
    const row = this.asked.get(key(account, clientOrderId)) ?? (await this.store.asked(account, clientOrderId));
    return row && { orderId: row.orderId, asked: { clientOrderId, content: row.content } };
  }

  async listOrders(query: OrderQuery): Promise<Working[]> {
    await this.caughtUp();
    return (await this.store.orders(query)).map(workingOf);
  }

  async listFills(query: FillQuery): Promise<Fill[]> {
    await this.caughtUp();
    return (await this.store.fills(query)).map(({ value }) => fromText(value) as Fill);
  }
}
