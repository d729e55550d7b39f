import { createHash } from 'node:crypto';
import type { Price, Quantity, VenueId } from '../core/instrument/index.ts';
import type { Money } from '../core/number/index.ts';
import type { Day } from '../core/market/index.ts';
import type { Order, OrderReport, OrderState, OrderTerms, ReasonCode } from '../core/orders/index.ts';

/** How an order stood after an entry, for its history. */
export interface HistoryLine {
  readonly version: number;
  readonly execType: string;
  readonly state: OrderState;
  readonly quantity: Quantity;
  readonly limitPrice: Price | null;
  readonly stopPrice: Price | null;
  readonly filledQuantity: Quantity;
  readonly remainingQuantity: Quantity;
  readonly fillId: string | null;
  readonly reason: string | null;
}

/** What an entry changes. State is the fold of these, and of nothing else. */
export type EntryData =
  | { readonly kind: 'order-requested'; readonly order: Order }
  | { readonly kind: 'order-opened'; readonly reportSeq: number; readonly order: Order }
  | {
      readonly kind: 'replace-requested';
      readonly orderId: string;
      readonly requestId: string;
      readonly terms: OrderTerms;
      /** The trader's own id of the change and what it asked, so that the same change again is known. */
      readonly change: { readonly clientOrderId: string; readonly fingerprint: string } | null;
    }
  | { readonly kind: 'cancel-requested'; readonly orderId: string; readonly requestId: string; readonly reasonCode: ReasonCode }
  | { readonly kind: 'order-report'; readonly reportSeq: number; readonly orderId: string; readonly report: OrderReport }
  | { readonly kind: 'position-settled'; readonly reportSeq: number; readonly instrument: string; readonly worth: Money }
  | {
      readonly kind: 'day-turn';
      readonly reportSeq: number;
      readonly venue: VenueId;
      readonly day: Day;
      readonly settlements: readonly { readonly instrument: string; readonly price: Price | null }[];
    }
  | { readonly kind: 'order-refused'; readonly request: unknown; readonly refusal: unknown }
  | { readonly kind: 'resent'; readonly orderId: string; readonly what: string }
  | { readonly kind: 'difference'; readonly what: string; readonly here: string; readonly broker: string }
  | { readonly kind: 'link'; readonly broker: 'up' | 'down'; readonly data: 'up' | 'down' }
  | { readonly kind: 'note'; readonly what: string };

export type EntryBy = 'user' | 'desk' | 'venue' | 'rule' | 'plan';

/** An entry before it is numbered. */
export interface Draft {
  readonly time: number;
  /** Null for what belongs to no account; everybody may read it. */
  readonly account: string | null;
  readonly by: EntryBy;
  readonly instrument: string | null;
  readonly orderId: string | null;
  readonly causedBy: number | null;
  readonly text: string;
  readonly data: EntryData;
  readonly history: HistoryLine | null;
}

/** A line of the append-only activity log; each hash covers the line and the hash before it. */
export interface Entry extends Draft {
  readonly seq: number;
  readonly hash: string;
}

export interface EntryQuery {
  readonly accounts: readonly string[];
  readonly orderId?: string;
  readonly instrument?: string;
  readonly before?: number;
  readonly after?: number;
  readonly limit: number;
}

/** Where entries are kept. An append is one commit, all or nothing. */
export interface JournalStore {
  append(entries: readonly Entry[]): Promise<void>;
  readAfter(seq: number, limit: number): Promise<Entry[]>;
  last(): Promise<{ seq: number; hash: string }>;
  query(query: EntryQuery): Promise<Entry[]>;
  saveSnapshot(seq: number, text: string): Promise<void>;
  latestSnapshot(): Promise<{ seq: number; text: string } | null>;
}

export const FIRST_HASH = '0'.repeat(64);

/** SHA-256 over the entry's text and the hash of the entry before. */
export function entryHash(before: string, entry: Omit<Entry, 'hash'>, encode: (value: unknown) => string): string {
  const { seq, time, account, by, instrument, orderId, causedBy, text, data, history } = entry;
  return createHash('sha256')
    .update(before)
    .update(encode([seq, time, account, by, instrument, orderId, causedBy, text, data, history]))
    .digest('hex');
}

/** The log could not be written, or it is not known whether it was. */
export class JournalUnavailable extends Error {}

interface Waiting {
  readonly drafts: readonly Draft[];
  readonly resolve: (entries: Entry[]) => void;
  readonly reject: (error: Error) => void;
}

/**
 * Numbers entries and appends them, everything that waits in one commit (group commit).
 *
 * After a failed append the store is asked what it holds: an append whose answer was lost counts as done.
 */
export class Journal {
  private seq = 0;
  private hash = FIRST_HASH;
  private waiting: Waiting[] = [];
  private running: Promise<void> | null = null;
  private readonly store: JournalStore;
  private readonly encode: (value: unknown) => string;

  constructor(store: JournalStore, encode: (value: unknown) => string) {
    this.store = store;
    this.encode = encode;
  }

  async open(): Promise<void> {
    ({ seq: this.seq, hash: this.hash } = await this.store.last());
  }

  get lastSeq(): number {
    return this.seq;
  }

  /** @throws JournalUnavailable where nothing was kept */
  append(drafts: readonly Draft[]): Promise<Entry[]> {
    if (drafts.length === 0) return Promise.resolve([]);
    return new Promise((resolve, reject) => {
      this.waiting.push({ drafts, resolve, reject });
      this.running ??= this.drain();
    });
  }

  private async drain(): Promise<void> {
    await Promise.resolve();
    while (this.waiting.length > 0) {
      const group = this.waiting;
      this.waiting = [];
      const numbered = this.number(group.flatMap((one) => one.drafts));
      const kept = await this.keep(numbered);
      if (kept) {
        const last = numbered[numbered.length - 1] as Entry;
        this.seq = last.seq;
        this.hash = last.hash;
      }
      let at = 0;
      for (const one of group) {
        const mine = numbered.slice(at, (at += one.drafts.length));
        if (kept) one.resolve(mine);
        else one.reject(new JournalUnavailable('The activity log could not be written; nothing was kept.'));
      }
    }
    this.running = null;
  }

  private number(drafts: readonly Draft[]): Entry[] {
    let { seq, hash } = this;
    return drafts.map((draft) => {
      const entry = { ...draft, seq: ++seq };
      hash = entryHash(hash, entry, this.encode);
      return { ...entry, hash };
    });
  }

  private async keep(entries: readonly Entry[]): Promise<boolean> {
    try {
      await this.store.append(entries);
      return true;
    } catch {
      const there = await this.store.last();
      return there.seq >= (entries[entries.length - 1]?.seq ?? Infinity);
    }
  }
}
