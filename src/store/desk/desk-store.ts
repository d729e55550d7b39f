import {
  DataTypes,
  Op,
  type Model,
  type ModelAttributeColumnOptions,
  type ModelStatic,
  type QueryInterface,
  type Sequelize,
  type WhereOptions,
} from 'sequelize';
import { putRows } from '../rows.ts';

/** A line of the activity log as it is stored: what the desk means by its parts is the desk's business. */
export interface StoredEntry {
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

interface Page {
  readonly accounts: readonly string[];
  readonly instrument?: string;
  readonly orderIds?: readonly string[];
  readonly before?: number;
  readonly after?: number;
  readonly limit: number;
}

export interface StoredEntryQuery extends Page {
  readonly orderId?: string;
  readonly withHistory?: boolean;
}

export interface StoredOrder<State extends string> {
  readonly id: string;
  readonly seq: number;
  readonly account: string;
  readonly instrument: string;
  readonly state: State;
  readonly done: boolean;
  readonly groupId: string | null;
  readonly value: string;
}

export interface StoredOrderQuery<State extends string> extends Page {
  readonly groupId?: string;
  readonly state?: State;
  readonly done?: boolean;
}

export interface StoredFill {
  readonly id: string;
  readonly seq: number;
  readonly account: string;
  readonly instrument: string;
  readonly orderId: string;
  readonly value: string;
}

export interface StoredAsked {
  readonly account: string;
  readonly clientOrderId: string;
  readonly orderId: string;
  readonly content: string;
}

export interface StoredSnapshot {
  readonly account: string;
  readonly seq: number;
  readonly version: number;
  readonly state: string;
}

interface Batch<State extends string> {
  readonly upTo: number;
  readonly hash: string;
  readonly orders: readonly StoredOrder<State>[];
  readonly fills: readonly StoredFill[];
  readonly asked: readonly StoredAsked[];
}

const text = DataTypes.TEXT;
const whole = DataTypes.BIGINT;
/** Made anew for each column: a model writes into what it is given. */
const key = (): ModelAttributeColumnOptions => ({ type: DataTypes.STRING, primaryKey: true });
const NO_ENTRY = { seq: 0, hash: '0'.repeat(64) };
const TABLES = 'tables';
/** No statement carries more entries than this. */
const A_STATEMENT = 1500;

const pageBounds = ({ before, after }: Page): WhereOptions => {
  if (after !== undefined) return { seq: { [Op.gt]: after } };
  return before === undefined ? {} : { seq: { [Op.lt]: before } };
};

/** The activity log, its snapshots, and the tables behind it, in the desk's database. */
export class DeskStore<State extends string> {
  private readonly activity: ModelStatic<Model>;
  private readonly snapshotTable: ModelStatic<Model>;
  private readonly orderTable: ModelStatic<Model>;
  private readonly fillTable: ModelStatic<Model>;
  private readonly askedTable: ModelStatic<Model>;
  private readonly watermarks: ModelStatic<Model>;

  private readonly log: QueryInterface;
  private readonly tables: QueryInterface;

  /**
   * @param database with the log
   * @param tables what follows from the log
   */
  constructor(database: Sequelize, tables: Sequelize) {
    const define = (name: string, columns: Parameters<Sequelize['define']>[1], within = tables): ModelStatic<Model> =>
      within.define(name, columns, { timestamps: false, freezeTableName: true });
    this.log = database.getQueryInterface();
    this.tables = tables.getQueryInterface();
    const first = { seq: { type: DataTypes.INTEGER, primaryKey: true }, time: whole, account: text, by: text, kind: text, instrument: text };
    this.activity = define(
      'activity',
      { ...first, orderId: text, causedBy: whole, text, data: text, history: text, version: DataTypes.INTEGER, hash: text },
      database,
    );
    this.snapshotTable = define('snapshots', { account: key(), seq: whole, version: whole, state: text });
    this.orderTable = define('orders', {
      id: key(),
      seq: whole,
      account: text,
      instrument: text,
      state: text,
      done: DataTypes.BOOLEAN,
      groupId: text,
      value: text,
    });
    this.fillTable = define('fills', { id: key(), seq: whole, account: text, instrument: text, orderId: text, value: text });
    this.askedTable = define('asked', { account: key(), clientOrderId: key(), orderId: text, content: text });
    this.watermarks = define('watermarks', { name: key(), seq: whole, hash: text });
  }

  /** One multi-row INSERT, which is one commit. */
  async append(entries: readonly StoredEntry[]): Promise<void> {
    if (entries.length <= A_STATEMENT) return void (await this.log.bulkInsert('activity', [...entries]));
    await this.log.sequelize.transaction(async (transaction) => {
      for (let at = 0; at < entries.length; at += A_STATEMENT) await this.log.bulkInsert('activity', entries.slice(at, at + A_STATEMENT), { transaction });
    });
  }

  async readAfter(seq: number, limit: number): Promise<StoredEntry[]> {
    return this.rows(this.activity.findAll({ where: { seq: { [Op.gt]: seq } }, order: [['seq', 'ASC']], limit, raw: true }));
  }

  async last(): Promise<{ seq: number; hash: string }> {
    const [row] = await this.rows<StoredEntry>(this.activity.findAll({ attributes: ['seq', 'hash'], order: [['seq', 'DESC']], limit: 1, raw: true }));
    return row ?? NO_ENTRY;
  }

  /** Entries of the accounts, and those of none, oldest first: after a number, before one, or the newest. */
  async entries(query: StoredEntryQuery): Promise<StoredEntry[]> {
    const { accounts, orderId, instrument, withHistory } = query;
    const where: WhereOptions[] = [{ [Op.or]: [{ account: null }, { account: { [Op.in]: [...accounts] } }] }, pageBounds(query)];
    if (orderId !== undefined) where.push({ orderId });
    if (instrument !== undefined) where.push({ instrument });
    if (withHistory) where.push({ history: { [Op.ne]: null } });
    return this.page(this.activity, where, query);
  }

  async saveSnapshot(snapshot: StoredSnapshot): Promise<void> {
    await putRows(this.tables, 'snapshots', [snapshot], { key: ['account'], anew: ['seq', 'version', 'state'] });
  }

  snapshots(): Promise<StoredSnapshot[]> {
    return this.rows(this.snapshotTable.findAll({ raw: true }));
  }

  async watermark(): Promise<{ seq: number; hash: string }> {
    const [row] = await this.rows<{ seq: number; hash: string }>(this.watermarks.findAll({ where: { name: TABLES }, raw: true }));
    return row ?? NO_ENTRY;
  }

  async clearTables(): Promise<void> {
    for (const table of [this.watermarks, this.snapshotTable, this.orderTable, this.fillTable, this.askedTable]) await table.destroy({ where: {} });
  }

  /** The mark is set last: what was written without it is written again, to the same effect. */
  async project({ upTo, hash, orders, fills, asked }: Batch<State>): Promise<void> {
    const { tables } = this;
    await putRows(tables, 'orders', orders, { key: ['id'], anew: ['state', 'done', 'groupId', 'value'] });
    await putRows(tables, 'fills', fills, 'left');
    await putRows(tables, 'asked', asked, 'left');
    await putRows(tables, 'watermarks', [{ name: TABLES, seq: upTo, hash }], { key: ['name'], anew: ['seq', 'hash'] });
  }

  async order(id: string): Promise<StoredOrder<State> | null> {
    const [row] = await this.rows<StoredOrder<State>>(this.orderTable.findAll({ where: { id }, raw: true }));
    return row ?? null;
  }

  async orders(query: StoredOrderQuery<State>): Promise<StoredOrder<State>[]> {
    const { accounts, instrument, state, done, groupId } = query;
    const where: WhereOptions[] = [{ account: { [Op.in]: [...accounts] } }, pageBounds(query)];
    if (instrument !== undefined) where.push({ instrument });
    if (state !== undefined) where.push({ state });
    if (done !== undefined) where.push({ done });
    if (groupId !== undefined) where.push({ groupId });
    return this.page(this.orderTable, where, query);
  }

  async fills(query: Page): Promise<StoredFill[]> {
    const { accounts, instrument, orderIds } = query;
    const where: WhereOptions[] = [{ account: { [Op.in]: [...accounts] } }, pageBounds(query)];
    if (instrument !== undefined) where.push({ instrument });
    if (orderIds !== undefined) where.push({ orderId: { [Op.in]: [...orderIds] } });
    return this.page(this.fillTable, where, query);
  }

  async asked(account: string, clientOrderId: string): Promise<StoredAsked | null> {
    const [row] = await this.rows<StoredAsked>(this.askedTable.findAll({ where: { account, clientOrderId }, raw: true }));
    return row ?? null;
  }

  async askedAfter(account: string, clientOrderId: string, limit: number): Promise<string[]> {
    const where = { account, clientOrderId: { [Op.gt]: clientOrderId } };
    const found = this.askedTable.findAll({ attributes: ['clientOrderId'], where, order: ['clientOrderId'], limit, raw: true });
    return (await this.rows<Pick<StoredAsked, 'clientOrderId'>>(found)).map((row) => row.clientOrderId);
  }

  private async page<T>(table: ModelStatic<Model>, where: WhereOptions[], { after, limit }: Page): Promise<T[]> {
    const onwards = after !== undefined;
    const rows = await this.rows<T>(
      table.findAll({ where: { [Op.and]: where }, order: [['seq', onwards ? 'ASC' : 'DESC']], ...(Number.isFinite(limit) ? { limit } : {}), raw: true }),
    );
    return onwards ? rows : rows.reverse();
  }

  private async rows<T>(found: Promise<Model[]>): Promise<T[]> {
    return (await found) as unknown as T[];
  }
}
