import type { Sequelize } from 'sequelize';
import type { OrderState } from '../../src/core/orders/index.ts';
import type { AskedRow, EntryQuery, FillQuery, FillRow, LogRow, OrderQuery, OrderRow, ProjectedBatch, StoredSnapshot } from '../../src/desk/store.ts';
import { openDatabase } from '../../src/store/database.ts';
import { DeskStore as SqlDeskStore } from '../../src/store/desk/desk-store.ts';
import { DESK_MIGRATIONS, TABLE_MIGRATIONS } from '../../src/store/desk/migrations.ts';
import { dropFolder, newFolder } from './server.ts';
import { MemoryDeskStore, StoreFailed, type Fault } from './stores.ts';

const FILES = ['desk.sqlite', 'tables.sqlite'] as const;
const ALL = Number.MAX_SAFE_INTEGER;
const opened: { readonly databases: readonly Sequelize[]; readonly folder: string }[] = [];

async function struck(fault: Fault, write: () => Promise<unknown>): Promise<void> {
  if (fault === 'lost') throw new StoreFailed('the disk said no');
  await write();
  if (fault === 'unanswered') throw new StoreFailed('the answer was lost');
}

/** The program's own store over SQLite, with the fault points of the one in memory; `rows` says what the log holds. */
export class DiskDeskStore extends MemoryDeskStore {
  private readonly disk: SqlDeskStore<OrderState>;
  private readonly databases: readonly Sequelize[];

  private constructor(databases: readonly Sequelize[]) {
    super();
    this.databases = databases;
    const [log, tables] = databases as [Sequelize, Sequelize];
    this.disk = new SqlDeskStore<OrderState>(log, tables);
  }

  static async open(folder = newFolder()): Promise<DiskDeskStore> {
    const databases = [await openDatabase(folder, FILES[0], DESK_MIGRATIONS), await openDatabase(folder, FILES[1], TABLE_MIGRATIONS, 'NORMAL')];
    opened.push({ databases, folder });
    const store = new DiskDeskStore(databases);
    store.rows = await store.disk.readAfter(0, ALL);
    return store;
  }

  /** What the files hold once they are copied: what is written afterwards does not get there. */
  override async fork(): Promise<MemoryDeskStore> {
    const folder = newFolder();
    for (const [i, file] of FILES.entries()) await this.databases[i]?.query(`VACUUM INTO '${folder}/${file}'`);
    return DiskDeskStore.open(folder);
  }

  override append(rows: readonly LogRow[]): Promise<void> {
    return struck(this.fault('append'), async () => {
      await this.disk.append(rows);
      this.rows.push(...rows);
    });
  }

  override last(): Promise<{ seq: number; hash: string }> {
    return this.silent() ? Promise.reject(new StoreFailed('the store does not answer')) : this.disk.last();
  }

  override saveSnapshot(snapshot: StoredSnapshot): Promise<void> {
    return struck(this.fault('snapshot'), () => this.disk.saveSnapshot(snapshot));
  }

  override project(batch: ProjectedBatch): Promise<void> {
    return struck(this.fault('project'), () => this.disk.project(batch));
  }

  override readAfter = (seq: number, limit: number): Promise<LogRow[]> => this.disk.readAfter(seq, limit);
  override entries = (query: EntryQuery): Promise<LogRow[]> => this.disk.entries(query);
  override snapshots = (): Promise<StoredSnapshot[]> => this.disk.snapshots();
  override watermark = (): Promise<{ seq: number; hash: string }> => this.disk.watermark();
  override clearTables = (): Promise<void> => this.disk.clearTables();
  override order = (id: string): Promise<OrderRow | null> => this.disk.order(id);
  override orders = (query: OrderQuery): Promise<OrderRow[]> => this.disk.orders(query);
  override fills = (query: FillQuery): Promise<FillRow[]> => this.disk.fills(query);
  override asked = (account: string, clientOrderId: string): Promise<AskedRow | null> => this.disk.asked(account, clientOrderId);
  override askedAfter = (account: string, clientOrderId: string, limit: number): Promise<string[]> => this.disk.askedAfter(account, clientOrderId, limit);
}

/** Closes every store on a disk that was opened, and drops its files. To be called after each test. */
export async function endDisks(): Promise<void> {
  for (const { databases, folder } of opened.splice(0)) {
    for (const database of databases) await database.close();
    dropFolder(folder);
  }
}
