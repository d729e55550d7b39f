import { fromText, toText } from '../core/exact-text.ts';
import {
  foldEntry,
  loadAccount,
  saveAccount,
  type AccountState,
  type Draft,
  type Entry,
  type SavedAccount,
  type Touched,
  type Working,
} from '../core/desk/index.ts';
import type { Instrument } from '../core/instrument/index.ts';
import { RULE_NAMES, isIntact, newRiskState, ruleText, type RuleChange, type RuleName } from '../core/risk/index.ts';
import { FIRST_HASH, Journal, entryOf, rowHash, type Appended } from './journal.ts';
import { Projector } from './projector.ts';
import type { DeskStore, EntryQuery, LogRow } from './store.ts';
import { SNAPSHOT_VERSION, upgradeRow } from './upgrade.ts';

const ENTRIES_A_SNAPSHOT = 4000;
const READ_AT_ONCE = 2000;
/** Orders written into a snapshot before others get a turn. */
const ORDERS_AT_ONCE = 400;

/** The log was changed by something else than Kavix. */
export class LogBroken extends Error {}

/** Tells of an entry that was written and folded; `state` is null for what belongs to no account. */
export type OnEntry = (state: AccountState | null, entry: Entry, touched: Touched) => void;

const UNTOUCHED: Touched = { orders: [], fills: [], positions: [], asked: null, plans: [], risk: false };

/** The log, the accounts' states that follow from it, and the tables behind it: an entry is committed, then folded, then told. */
export class Ledger {
  readonly tables: Projector;
  private readonly store: DeskStore;
  private readonly accounts: Map<string, AccountState>;
  private readonly instrumentOf: (id: string) => Instrument;
  private readonly onEntry: OnEntry;
  private readonly journal: Journal;
  private snapshotAt = 0;
  private snapping: Promise<void> | null = null;

  constructor(store: DeskStore, accounts: Map<string, AccountState>, instrumentOf: (id: string) => Instrument, onEntry: OnEntry) {
    this.store = store;
    this.accounts = accounts;
    this.instrumentOf = instrumentOf;
    this.onEntry = onEntry;
    this.journal = new Journal(store);
    this.tables = new Projector(store);
  }

  get lastSeq(): number {
    return this.journal.lastSeq;
  }

  async entries(query: EntryQuery): Promise<Entry[]> {
    return (await this.store.entries(query)).map((row) => entryOf(upgradeRow(row)));
  }

  async entriesAfter(seq: number, limit: number): Promise<Entry[]> {
    return (await this.store.readAfter(seq, limit)).map((row) => entryOf(upgradeRow(row)));
  }

  /** Writes entries in one commit. They change nothing yet: {@link apply} does. */
  append(drafts: readonly Draft[]): Promise<Appended> {
    return this.journal.append(drafts);
  }

  /** Writes drafts, however long it takes to know that they are kept; null where they are not. */
  async written(drafts: readonly Draft[]): Promise<readonly Entry[] | null> {
    const appended = await this.append(drafts);
    return appended.kind === 'kept' ? appended.entries : appended.kind === 'uncertain' ? appended.settled : null;
  }

  /** Applies written entries and tells of them. `past` are orders among them that no longer worked before. */
  apply(entries: readonly Entry[], past: ReadonlyMap<string, Working>): void {
    const ended = new Map(past);
    for (const entry of entries) this.onEntry(...this.fold(entry, ended));
    if (this.journal.lastSeq - this.snapshotAt > ENTRIES_A_SNAPSHOT) void this.snapshot();
  }

  /** Folds an entry into its account and the tables; `past` takes the orders it touched, as later entries can be about one that it ends. */
  private fold(entry: Entry, past: Map<string, Working>): [AccountState | null, Entry, Touched] {
    const state = entry.account === null ? null : (this.accounts.get(entry.account) ?? null);
    const touched = state ? foldEntry(state, entry, { instrument: this.instrumentOf, past: (id) => past.get(id) ?? null }) : UNTOUCHED;
    for (const working of touched.orders) past.set(working.order.id, working);
    this.tables.take(entry, touched);
    return [state, entry, touched];
  }

  /**
   * Rebuilds the accounts from their newest snapshots and the entries after them, and checks the hash chain on the way.
   * An account of which an entry is not what was written takes closing orders only from then on.
   *
   * @throws LogBroken where entries are missing, or one can't be read any more
   */
  async rebuild(): Promise<void> {
    await this.journal.open();
    const watermark = await this.tables.open();
    const snapshots = (await this.store.snapshots()).filter(({ version }) => version === SNAPSHOT_VERSION);
    const from = new Map<string, number>();
    for (const { account, seq, state } of snapshots) {
      const terms = this.accounts.get(account)?.terms;
      if (!terms || seq > watermark) continue;
      this.accounts.set(account, loadAccount(terms, fromText(state) as SavedAccount, this.instrumentOf));
      from.set(account, seq);
    }
    const all = await Promise.all([...this.accounts.keys()].map((account) => this.firstAfter(account, from.get(account) ?? 0)));
    this.snapshotAt = Math.min(...all.map((seq) => seq - 1), watermark);
    const past = new Map<string, Working>();
    const edited = new Set<string>();
    let seq = this.snapshotAt;
    let hash = seq === 0 ? FIRST_HASH : ((await this.store.readAfter(seq - 1, 1))[0]?.hash ?? FIRST_HASH);
    for (;;) {
      const rows = await this.store.readAfter(seq, READ_AT_ONCE);
      for (const row of rows) {
        isNext(row.seq, seq + 1);
        const written = isTrue(row, hash);
        if (!written) for (const account of row.account === null ? this.accounts.keys() : [row.account]) edited.add(account);
        hash = row.hash;
        seq = row.seq;
        this.foldRow(row, past, written);
      }
      if (rows.length < READ_AT_ONCE) break;
      // A long log is not held in memory: the tables take it piece by piece.
      await this.tables.follow();
    }
    for (const [account, state] of this.accounts) if (edited.has(account) || !rulesAreTrue(state)) state.risk = { ...state.risk, broken: true };
    await this.tables.follow();
    this.tables.readNames([...this.accounts.keys()]);
  }

  private foldRow(row: LogRow, past: Map<string, Working>, written: boolean): void {
    try {
      this.fold(entryOf(upgradeRow(row)), past);
    } catch (error) {
      if (written) throw error;
      throw new LogBroken(`The activity log is damaged: entry ${row.seq} is not what was written, and can't be read any more.`);
    }
  }

  /** The first entry of an account that a snapshot does not hold; infinity where it holds them all, however long ago it was. */
  private async firstAfter(account: string, seq: number): Promise<number> {
    const [next] = await this.store.entries({ accounts: [account], after: seq, limit: 1 });
    return next?.seq ?? Infinity;
  }

  /** Writes the accounts' states, off everybody's way; where that fails nothing is lost, and it is tried again later. */
  snapshot(): Promise<void> {
    this.snapping ??= this.writeSnapshots()
      .catch(() => undefined)
      .finally(() => (this.snapping = null));
    return this.snapping;
  }

  private async writeSnapshots(): Promise<void> {
    const seq = this.journal.lastSeq;
    if (seq === this.snapshotAt) return;
    this.snapshotAt = seq;
    const saved = [...this.accounts.values()].map(saveAccount);
    await this.tables.follow();
    for (const account of saved) {
      if (account.lastEntry > this.tables.watermark) continue;
      const { working, ...rest } = account;
      const parts: string[] = [];
      for (let at = 0; at < working.length; at += ORDERS_AT_ONCE) {
        parts.push(toText(working.slice(at, at + ORDERS_AT_ONCE)).slice(1, -1));
        await new Promise((resolve) => setImmediate(resolve));
      }
      const state = `${toText(rest).slice(0, -1)},"working":[${parts.join(',')}]}`;
      await this.store.saveSnapshot({ account: account.account, seq: account.lastEntry, version: SNAPSHOT_VERSION, state });
    }
  }

  async close(): Promise<void> {
    await this.snapping;
    await this.snapshot();
    await this.tables.follow().catch(() => undefined);
    await this.tables.stop();
  }
}

/** Whether the rules are what the record of their changes says, and the record what was written. */
function rulesAreTrue({ terms, risk }: AccountState): boolean {
  const first = newRiskState(terms.rules).rules;
  return (
    isIntact(risk.changes) && RULE_NAMES.every((name) => lastSet(risk.changes, name, ruleText(name, first)) === JSON.stringify(ruleText(name, risk.rules)))
  );
}

function lastSet(changes: readonly RuleChange[], name: RuleName, first: unknown): string {
  const last = changes.filter(({ rule, kind }) => rule === name && kind === 'set').at(-1);
  return JSON.stringify(last ? last.new : first);
}

function isNext(seq: number, expected: number): void {
  if (seq !== expected) throw new LogBroken(`The activity log is damaged: entry ${expected} is missing.`);
}

/** Whether a row is what was written. Rows of the first form carried another hash: they are counted, and the chain goes on from theirs. */
const isTrue = (row: LogRow, before: string): boolean => row.version === 1 || rowHash(before, row) === row.hash;

/**
 * Checks the whole hash chain of a log.
 *
 * @returns how many entries it has
 * @throws LogBroken naming the first entry that is not what was written
 */
export async function verifyLog(store: DeskStore): Promise<number> {
  let seq = 0;
  let hash = FIRST_HASH;
  for (;;) {
    const rows = await store.readAfter(seq, READ_AT_ONCE);
    for (const row of rows) {
      isNext(row.seq, seq + 1);
      if (!isTrue(row, hash)) throw new LogBroken(`The activity log is damaged: entry ${row.seq} is not what was written.`);
      hash = row.hash;
      seq = row.seq;
    }
    if (rows.length < READ_AT_ONCE) break;
  }
  return seq;
}
