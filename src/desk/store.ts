import type { OrderState } from '../core/orders/index.ts';

/** A line of the activity log as it is written: what is exact stands as text, so that its hash can be checked from the row alone. */
export interface LogRow {
  readonly seq: number;
  readonly time: number;
  readonly account: string | null;
  readonly by: string;
  readonly kind: string;
  readonly instrument: string | null;
  readonly orderId: string | null;
  readonly causedBy: number | null;
  readonly text: string;
  readonly data: string;
  readonly history: string | null;
  readonly version: number;
  readonly hash: string;
}

export interface PageQuery {
  readonly before?: number;
  readonly after?: number;
  readonly limit: number;
}

export interface EntryQuery extends PageQuery {
  readonly accounts: readonly string[];
  readonly orderId?: string;
  readonly instrument?: string;
  readonly withHistory?: boolean;
}

export interface StoredSnapshot {
  readonly account: string;
  readonly seq: number;
  readonly version: number;
  readonly state: string;
}

/** An order in its table; `seq` is the entry that made it, `value` the order as text. */
export interface OrderRow {
  readonly id: string;
  readonly seq: number;
  readonly account: string;
  readonly instrument: string;
  readonly state: OrderState;
  readonly done: boolean;
  readonly groupId: string | null;
  readonly value: string;
}

export interface FillRow {
  readonly id: string;
  readonly seq: number;
  readonly account: string;
  readonly instrument: string;
  readonly orderId: string;
  readonly value: string;
}

/** What a client order id was used for. */
export interface AskedRow {
  readonly account: string;
  readonly clientOrderId: string;
  readonly orderId: string;
  readonly content: string;
}

export interface OrderQuery extends PageQuery {
  readonly accounts: readonly string[];
  readonly instrument?: string;
  readonly state?: OrderState;
  readonly done?: boolean;
  readonly groupId?: string;
}

export interface FillQuery extends PageQuery {
  readonly accounts: readonly string[];
  readonly instrument?: string;
  /** Of these orders only. */
  readonly orderIds?: readonly string[];
}

/** What the tables gain up to an entry. Writing it twice changes nothing. */
export interface ProjectedBatch {
  readonly upTo: number;
  /** The hash of that entry: tables that follow from another log are known by it. */
  readonly hash: string;
  readonly orders: readonly OrderRow[];
  readonly fills: readonly FillRow[];
  readonly asked: readonly AskedRow[];
}

/** Where the desk keeps its log, its snapshots, and the tables that follow from the log. Pages are oldest first. */
export interface DeskStore {
  /** One commit, all or nothing. */
  append(rows: readonly LogRow[]): Promise<void>;
  last(): Promise<{ readonly seq: number; readonly hash: string }>;
  readAfter(seq: number, limit: number): Promise<LogRow[]>;
  entries(query: EntryQuery): Promise<LogRow[]>;
  saveSnapshot(snapshot: StoredSnapshot): Promise<void>;
  snapshots(): Promise<StoredSnapshot[]>;
  /** Up to which entry the tables go. */
  watermark(): Promise<{ readonly seq: number; readonly hash: string }>;
  /** Forgets the tables and snapshots: they are made again from the log. */
  clearTables(): Promise<void>;
  project(batch: ProjectedBatch): Promise<void>;
  order(id: string): Promise<OrderRow | null>;
  orders(query: OrderQuery): Promise<OrderRow[]>;
  fills(query: FillQuery): Promise<FillRow[]>;
  asked(account: string, clientOrderId: string): Promise<AskedRow | null>;
  /** Client order ids used in an account: the next ones after a given one, in an order of the store's own. The empty text begins. */
  askedAfter(account: string, clientOrderId: string, limit: number): Promise<string[]>;
}
