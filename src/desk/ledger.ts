import type { Instrument } from '../core/instrument/index.ts';
import type { Order } from '../core/orders/index.ts';
import type { Feed } from './feed.ts';
import { Journal, type Draft, type Entry, type EntryBy, type EntryData, type HistoryLine, type JournalStore } from './journal.ts';
import { foldEntry, loadAccount, saveAccounts, type AccountState } from './state.ts';

const ENTRIES_A_SNAPSHOT = 4000;
const READ_AT_ONCE = 2000;

/** What the desk keeps and how: its text form is the store's business. */
export interface DeskStore extends JournalStore {
  encode(value: unknown): string;
  decode(text: string): unknown;
}

/** What a ledger needs of the desk it keeps. */
export interface LedgerDesk {
  readonly accounts: Map<string, AccountState>;
  readonly feed: Feed;
  now(): number;
  instrument(id: string): Instrument;
}

/** The log and the accounts' states that follow from it: an entry is committed, then folded, then told. */
export class Ledger {
  private readonly store: DeskStore;
  private readonly desk: LedgerDesk;
  private readonly journal: Journal;
  private snapshotAt = 0;
  private unfolded = 0;

  constructor(store: DeskStore, desk: LedgerDesk) {
    this.store = store;
    this.desk = desk;
    this.journal = new Journal(store, (value) => store.encode(value));
  }

  get lastSeq(): number {
    return this.journal.lastSeq;
  }

  query(query: Parameters<JournalStore['query']>[0]): Promise<Entry[]> {
    return this.store.query(query);
  }

  /** An entry as it will be written. */
  draft(state: AccountState | null, by: EntryBy, order: Order | null, text: string, data: EntryData, history: HistoryLine | null): Draft {
    return {
      time: this.desk.now(),
      account: state?.terms.id ?? null,
      by,
      instrument: order?.instrument ?? null,
      orderId: order?.id ?? null,
      causedBy: null,
      text,
      data,
      history,
    };
  }

  /**
   * Writes an account's entries in one commit and applies them.
   *
   * @throws JournalUnavailable when they were not written; the state is as before
   */
  async commit(state: AccountState, drafts: readonly Draft[]): Promise<void> {
    await this.append(drafts, (entry) => this.apply(state, entry));
    if (this.journal.lastSeq - this.snapshotAt > ENTRIES_A_SNAPSHOT) await this.snapshot();
  }

  /** Writes a note that changes nothing but the log; without an account it is the desk's own. */
  async note(state: AccountState | null, by: EntryBy, text: string, data: EntryData): Promise<void> {
    await this.append([this.draft(state, by, null, text, data, null)], (entry) => {
      if (state) this.apply(state, entry);
      else this.desk.feed.tellEntry(null, entry, { order: null, fill: null, position: null });
    });
  }

  /** Rebuilds the accounts from the newest snapshot and the entries after it. */
  async rebuild(): Promise<void> {
    const { accounts, feed } = this.desk;
    await this.journal.open();
    const snapshot = await this.store.latestSnapshot();
    if (snapshot) {
      for (const saved of this.store.decode(snapshot.text) as ReturnType<typeof saveAccounts>) {
        const terms = accounts.get(saved.id)?.terms;
        if (terms) accounts.set(saved.id, loadAccount(terms, saved));
      }
      this.snapshotAt = snapshot.seq;
    }
    feed.beginAt(this.snapshotAt);
    let seq = this.snapshotAt;
    for (;;) {
      const entries = await this.store.readAfter(seq, READ_AT_ONCE);
      for (const entry of entries) {
        const state = entry.account === null ? null : (accounts.get(entry.account) ?? null);
        if (state) this.apply(state, entry);
      }
      if (entries.length < READ_AT_ONCE) break;
      seq = entries[entries.length - 1]?.seq ?? seq;
    }
  }

  /** Stores the accounts as they are, unless an entry is written and not yet folded. */
  async snapshot(): Promise<void> {
    const seq = this.journal.lastSeq;
    if (seq === this.snapshotAt || this.unfolded > 0) return;
    this.snapshotAt = seq;
    await this.store.saveSnapshot(seq, this.store.encode(saveAccounts(this.desk.accounts.values())));
  }

  /** Appends, then folds: while any account is between the two, no snapshot is taken. */
  private async append(drafts: readonly Draft[], fold: (entry: Entry) => void): Promise<void> {
    this.unfolded++;
    try {
      for (const entry of await this.journal.append(drafts)) fold(entry);
    } finally {
      this.unfolded--;
    }
  }

  private apply(state: AccountState, entry: Entry): void {
    const touched = foldEntry(state, entry, (id) => this.desk.instrument(id));
    this.desk.feed.tellEntry(state, entry, touched);
  }
}
