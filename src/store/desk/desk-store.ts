import { QueryTypes, type Sequelize } from 'sequelize';
import { fromJson, toJson } from '../json.ts';

/** A line of the activity log as it is stored: what the desk means by its parts is the desk's business. */
export interface StoredEntry {
  readonly seq: number;
  readonly time: number;
  readonly account: string | null;
  readonly by: string;
  readonly instrument: string | null;
  readonly orderId: string | null;
  readonly causedBy: number | null;
  readonly text: string;
  readonly data: { readonly kind: string };
  readonly history: unknown;
  readonly hash: string;
}

export interface StoredEntryQuery {
  readonly accounts: readonly string[];
  readonly orderId?: string;
  readonly instrument?: string;
  readonly before?: number;
  readonly after?: number;
  readonly limit: number;
}

const COLUMNS = ['seq', 'time', 'account', 'by', 'kind', 'instrument', 'orderId', 'causedBy', 'text', 'data', 'history', 'hash'] as const;
const LIST = COLUMNS.map((column) => `"${column}"`).join(',');
const NO_ENTRY = { seq: 0, hash: '0'.repeat(64) };

type Row = Record<(typeof COLUMNS)[number], string | number | null>;

/** The activity log and its snapshots in the desk's SQLite file. */
export class DeskStore<E extends StoredEntry> {
  private readonly database: Sequelize;

  constructor(database: Sequelize) {
    this.database = database;
  }

  encode(value: unknown): string {
    return toJson(value);
  }

  decode(text: string): unknown {
    return fromJson(text);
  }

  /** One multi-row INSERT, which is one commit. */
  async append(entries: readonly E[]): Promise<void> {
    const rows = entries.map((entry) => [
      entry.seq,
      entry.time,
      entry.account,
      entry.by,
      entry.data.kind,
      entry.instrument,
      entry.orderId,
      entry.causedBy,
      entry.text,
      toJson(entry.data),
      entry.history === null ? null : toJson(entry.history),
      entry.hash,
    ]);
    const marks = rows.map(() => `(${COLUMNS.map(() => '?').join(',')})`).join(',');
    await this.database.query(`INSERT INTO activity (${LIST}) VALUES ${marks}`, { replacements: rows.flat() });
  }

  async readAfter(seq: number, limit: number): Promise<E[]> {
    return this.select('seq > ? ORDER BY seq LIMIT ?', [seq, limit]);
  }

  async last(): Promise<{ seq: number; hash: string }> {
    const [row] = await this.database.query<{ seq: number; hash: string }>('SELECT seq, hash FROM activity ORDER BY seq DESC LIMIT 1', {
      type: QueryTypes.SELECT,
    });
    return row ?? NO_ENTRY;
  }

  /** Entries of the accounts (and those of none), oldest first: after a number, before one, or the newest. */
  async query({ accounts, orderId, instrument, before, after, limit }: StoredEntryQuery): Promise<E[]> {
    const where: string[] = [`(account IS NULL OR account IN (${accounts.map(() => '?').join(',') || 'NULL'}))`];
    const values: (string | number)[] = [...accounts];
    const need = (condition: string, value: string | number | undefined): void => {
      if (value === undefined) return;
      where.push(condition);
      values.push(value);
    };
    need('orderId = ?', orderId);
    need('instrument = ?', instrument);
    need('seq < ?', before);
    need('seq > ?', after);
    const rows = await this.select(`${where.join(' AND ')} ORDER BY seq ${after === undefined ? 'DESC' : 'ASC'} LIMIT ?`, [...values, limit]);
    return after === undefined ? rows.reverse() : rows;
  }

  async saveSnapshot(seq: number, text: string): Promise<void> {
    await this.database.query('INSERT OR REPLACE INTO snapshots (seq, state) VALUES (?, ?)', { replacements: [seq, text] });
    await this.database.query('DELETE FROM snapshots WHERE seq < ?', { replacements: [seq] });
  }

  async latestSnapshot(): Promise<{ seq: number; text: string } | null> {
    const [row] = await this.database.query<{ seq: number; text: string }>('SELECT seq, state AS text FROM snapshots ORDER BY seq DESC LIMIT 1', {
      type: QueryTypes.SELECT,
    });
    return row ?? null;
  }

  private async select(where: string, replacements: (string | number)[]): Promise<E[]> {
    const rows = await this.database.query<Row>(`SELECT ${LIST} FROM activity WHERE ${where}`, { type: QueryTypes.SELECT, replacements });
    return rows.map(
      ({ kind: _kind, data, history, ...rest }) =>
        ({ ...rest, data: fromJson(String(data)), history: history === null ? null : fromJson(String(history)) }) as unknown as E,
    );
  }
}
