import { QueryTypes, type Sequelize } from 'sequelize';
import type { AccountBook } from '../../core/portfolio/index.ts';
import { openDatabase } from '../database.ts';
import { fromJson, toJson } from '../json.ts';
import { VENUE_MIGRATIONS } from './migrations.ts';

/** The venue's own parts, as far as the store is concerned: texts by key. */
export interface StoredParts {
  readonly clock: unknown;
  readonly orders: unknown[];
  readonly books: AccountBook[];
  readonly listings: Record<string, unknown>;
}

export interface PartsToStore {
  readonly clock: unknown;
  readonly orders: readonly { readonly id: string; readonly value: unknown }[];
  readonly books: readonly AccountBook[];
  readonly listings: Readonly<Record<string, unknown>>;
  readonly reports: readonly { readonly seq: number }[];
}

/** Sorts as its number does. */
const reportKey = (seq: number): string => `report:${String(seq).padStart(12, '0')}`;

/** The venue's SQLite file: its newest state by key, and every report it ever told. */
export class VenueStore {
  private readonly database: Sequelize;

  private constructor(database: Sequelize) {
    this.database = database;
  }

  static async open(folder: string): Promise<VenueStore> {
    return new VenueStore(await openDatabase(folder, 'venue.sqlite', VENUE_MIGRATIONS));
  }

  async load(): Promise<StoredParts | null> {
    const rows = await this.database.query<{ key: string; value: string | null }>(
      "SELECT key, value FROM state WHERE value IS NOT NULL AND NOT (key > 'report:' AND key < 'report;')",
      { type: QueryTypes.SELECT },
    );
    const parts = { clock: null as unknown, orders: [] as unknown[], books: [] as AccountBook[], listings: {} as Record<string, unknown> };
    for (const { key, value } of rows) {
      const read = fromJson(value ?? 'null');
      const [kind, id = ''] = key.split(':');
      if (kind === 'clock') parts.clock = read;
      else if (kind === 'order') parts.orders.push(read);
      else if (kind === 'book') parts.books.push(read as AccountBook);
      else if (kind === 'listing') parts.listings[id] = read;
    }
    return parts.clock === null ? null : parts;
  }

  /** Stores the changes in one statement, which is one commit. */
  async commit(parts: PartsToStore): Promise<void> {
    const rows: [string, string | null][] = [['clock:', toJson(parts.clock)]];
    for (const { id, value } of parts.orders) rows.push([`order:${id}`, toJson(value)]);
    for (const book of parts.books) rows.push([`book:${book.account}`, toJson(book)]);
    for (const [id, listing] of Object.entries(parts.listings)) rows.push([`listing:${id}`, listing === null ? null : toJson(listing)]);
    for (const report of parts.reports) rows.push([reportKey(report.seq), toJson(report)]);
    const marks = rows.map(() => '(?,?)').join(',');
    await this.database.query(`INSERT OR REPLACE INTO state (key, value) VALUES ${marks}`, { replacements: rows.flat() });
  }

  async reportsAfter(seq: number): Promise<unknown[]> {
    const rows = await this.database.query<{ value: string }>(`SELECT value FROM state WHERE key > ? AND key < 'report;' ORDER BY key`, {
      type: QueryTypes.SELECT,
      replacements: [reportKey(seq)],
    });
    return rows.map((row) => fromJson(row.value));
  }

  async close(): Promise<void> {
    await this.database.close();
  }
}
