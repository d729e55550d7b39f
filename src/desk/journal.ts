import { createHash } from 'node:crypto';
import { causeOf, type Draft, type Entry } from '../core/desk/index.ts';
import { fromText, toText } from '../core/exact-text.ts';
import type { DeskStore, LogRow } from './store.ts';

/** The form of the entries that are written now; older ones are brought up by the steps of `upgrade.ts`. */
export const ENTRY_VERSION = 3;

export const FIRST_HASH = '0'.repeat(64);

/** SHA-256 over a row's cells and the hash of the row before. */
export function rowHash(before: string, row: Omit<LogRow, 'hash'>): string {
  const { seq, time, account, by, kind, instrument, orderId, causedBy, text, data, history, version } = row;
  return createHash('sha256')
    .update(before + JSON.stringify([seq, time, account, by, kind, instrument, orderId, causedBy, text, data, history, version]))
    .digest('hex');
}

export const entryOf = (row: LogRow): Entry =>
  ({
    seq: row.seq,
    time: row.time,
    account: row.account,
    by: row.by,
    instrument: row.instrument,
    orderId: row.orderId,
    causedBy: row.causedBy,
    text: row.text,
    data: fromText(row.data),
    history: row.history === null ? null : fromText(row.history),
    hash: row.hash,
  }) as Entry;

/** What became of an append. */
export type Appended =
  | { readonly kind: 'kept'; readonly entries: readonly Entry[] }
  | { readonly kind: 'lost' }
  /** The store could not say whether it kept it; `settled` tells as soon as it can. */
  | { readonly kind: 'uncertain'; readonly settled: Promise<readonly Entry[] | null> };

interface Waiting {
  readonly drafts: readonly Draft[];
  readonly tell: (appended: Appended) => void;
}

const ASK_AGAIN_MS = 50;
/** No statement carries more entries than this. */
const MOST_AT_ONCE = 1500;

/**
 * Numbers entries and appends them, everything that waits in one commit (group commit).
 *
 * After a failed append the store is asked what it holds: an append whose answer was lost counts as done. While it
 * can't say, nothing else is appended.
 */
export class Journal {
  private seq = 0;
  private hash = FIRST_HASH;
  private waiting: Waiting[] = [];
  private running: Promise<void> | null = null;
  private readonly store: DeskStore;

  constructor(store: DeskStore) {
    this.store = store;
  }

  async open(): Promise<void> {
    ({ seq: this.seq, hash: this.hash } = await this.store.last());
  }

  get lastSeq(): number {
    return this.seq;
  }

  append(drafts: readonly Draft[]): Promise<Appended> {
    if (drafts.length === 0) return Promise.resolve({ kind: 'kept', entries: [] });
    return new Promise((tell) => {
      this.waiting.push({ drafts, tell });
      this.running ??= this.drain();
    });
  }

  private async drain(): Promise<void> {
    await Promise.resolve();
    while (this.waiting.length > 0) {
      const group: Waiting[] = [];
      for (let count = 0; this.waiting.length > 0;) {
        const next = this.waiting[0] as Waiting;
        if (group.length > 0 && count + next.drafts.length > MOST_AT_ONCE) break;
        count += next.drafts.length;
        group.push(this.waiting.shift() as Waiting);
      }
      await this.write(group);
    }
    this.running = null;
  }

  private async write(group: readonly Waiting[]): Promise<void> {
    const { rows, entries } = this.number(group);
    const outcome = await this.keep(rows);
    if (outcome !== 'unknown') {
      this.finish(group, rows, entries, outcome === 'kept', (one, mine) => one.tell(mine ? { kind: 'kept', entries: mine } : { kind: 'lost' }));
      return;
    }
    const settle: ((entries: readonly Entry[] | null) => void)[] = [];
    for (const one of group) one.tell({ kind: 'uncertain', settled: new Promise((resolve) => settle.push(resolve)) });
    let known: 'kept' | 'lost' | 'unknown' = 'unknown';
    while (known === 'unknown') {
      await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN_MS));
      known = await this.whatIsThere(rows);
    }
    let at = 0;
    this.finish(group, rows, entries, known === 'kept', (_one, mine) => settle[at++]?.(mine));
  }

  /** Goes on from what was kept, and tells each what became of its part. */
  private finish(
    group: readonly Waiting[],
    rows: readonly LogRow[],
    entries: readonly Entry[],
    kept: boolean,
    tell: (one: Waiting, mine: readonly Entry[] | null) => void,
  ): void {
    const last = rows[rows.length - 1] as LogRow;
    if (kept) {
      this.seq = last.seq;
      this.hash = last.hash;
    }
    let at = 0;
    for (const one of group) {
      const mine = entries.slice(at, (at += one.drafts.length));
      tell(one, kept ? mine : null);
    }
  }

  private number(group: readonly Waiting[]): { rows: LogRow[]; entries: Entry[] } {
    let { seq, hash } = this;
    const rows: LogRow[] = [];
    const entries: Entry[] = [];
    for (const { drafts } of group) {
      const first = seq + 1;
      for (const draft of drafts) {
        const causedBy = causeOf(draft, first);
        const { time, account, by, instrument, orderId, text, data, history } = draft;
        const cells = {
          seq: ++seq,
          time,
          account,
          by,
          kind: data.kind,
          instrument,
          orderId,
          causedBy,
          text,
          data: toText(data),
          history: history === null ? null : toText(history),
          version: ENTRY_VERSION,
        };
        hash = rowHash(hash, cells);
        rows.push({ hash, ...cells });
        entries.push({ seq, time, account, by, instrument, orderId, causedBy, text, data, history, hash });
      }
    }
    return { rows, entries };
  }

  private async keep(rows: readonly LogRow[]): Promise<'kept' | 'lost' | 'unknown'> {
    try {
      await this.store.append(rows);
      return 'kept';
    } catch {
      return this.whatIsThere(rows);
    }
  }

  private async whatIsThere(rows: readonly LogRow[]): Promise<'kept' | 'lost' | 'unknown'> {
    try {
      const { hash } = await this.store.last();
      return hash === rows[rows.length - 1]?.hash ? 'kept' : 'lost';
    } catch {
      return 'unknown';
    }
  }
}

/**
 * Begins an empty log with what happened before it was kept, all of it or nothing.
 *
 * @throws Error where the store can't keep it
 */
export async function writePast(store: DeskStore, past: readonly Draft[]): Promise<void> {
  const journal = new Journal(store);
  await journal.open();
  const appended = await journal.append(past);
  if (appended.kind !== 'kept') throw new Error('The past of the demo could not be written.');
}
