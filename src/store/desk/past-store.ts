import { DataTypes, Op, type Model, type ModelStatic, type QueryInterface, type Sequelize, type WhereOptions } from 'sequelize';
import { putRows } from '../rows.ts';

/** Something that an account's activity came to, by the entry it came with and its place among what came with that. */
interface PastRow {
  readonly seq: number;
  readonly place: number;
  readonly account: string;
  readonly kind: string;
  readonly time: number;
  readonly name: string;
  readonly value: string;
}

/** How far the rows go, and what the entries after that need of those before. */
interface PastMark {
  readonly seq: number;
  readonly hash: string;
  readonly version: number;
  readonly value: string;
}

interface PastQuery {
  readonly accounts: readonly string[];
  readonly kind: string;
  readonly name?: string;
  readonly from?: number;
  readonly before?: number;
  /** So many of the newest alone. */
  readonly newest?: number;
  /** What comes after a row, and no more than so many. */
  readonly after?: { readonly row: Pick<PastRow, 'seq' | 'place'> | null; readonly most: number };
}

const MARK = 'past';
/** Others have their turn between two statements. */
const ROWS_A_STATEMENT = 250;

/** What accounts have been through, in the file of what can be made again from the log. */
export class PastStore {
  private readonly rows: ModelStatic<Model>;
  private readonly marks: ModelStatic<Model>;
  private readonly tables: QueryInterface;

  constructor(tables: Sequelize) {
    this.tables = tables.getQueryInterface();
    const { INTEGER, TEXT, BIGINT, STRING } = DataTypes;
    const define = (name: string, columns: Parameters<Sequelize['define']>[1]): ModelStatic<Model> =>
      tables.define(name, columns, { timestamps: false, freezeTableName: true });
    const place = { type: INTEGER, primaryKey: true };
    this.rows = define('past', { seq: place, place: { ...place }, account: TEXT, kind: TEXT, time: BIGINT, name: TEXT, value: TEXT });
    this.marks = define('past_mark', { name: { type: STRING, primaryKey: true }, seq: BIGINT, hash: TEXT, version: BIGINT, value: TEXT });
  }

  async mark(): Promise<PastMark | null> {
    const [found] = (await this.marks.findAll({ where: { name: MARK }, raw: true })) as unknown as PastMark[];
    return found ?? null;
  }

  /** Rows first, then how far they go: what was written without its mark is taken out again by {@link cutAfter}. */
  async put(rows: readonly PastRow[], mark: PastMark | null): Promise<void> {
    for (let at = 0; at < rows.length; at += ROWS_A_STATEMENT) await putRows(this.tables, 'past', rows.slice(at, at + ROWS_A_STATEMENT), 'left');
    if (mark) await putRows(this.tables, 'past_mark', [{ name: MARK, ...mark }], { key: ['name'], anew: ['seq', 'hash', 'version', 'value'] });
  }

  /** Takes out whatever came after an entry; with 0 all, and the mark. */
  async cutAfter(seq: number): Promise<void> {
    await this.rows.destroy({ where: { seq: { [Op.gt]: seq } } });
    if (seq === 0) await this.marks.destroy({ where: {} });
  }

  /** What accounts came to, in the order it did. */
  async find({ accounts, kind, name, from, before, newest, after }: PastQuery): Promise<PastRow[]> {
    const where: WhereOptions[] = [{ account: { [Op.in]: [...accounts] } }, { kind }];
    if (name !== undefined) where.push({ name });
    if (from !== undefined) where.push({ time: { [Op.gte]: from } });
    if (before !== undefined) where.push({ time: { [Op.lt]: before } });
    const last = after?.row;
    if (last) where.push({ [Op.or]: [{ seq: { [Op.gt]: last.seq } }, { seq: last.seq, place: { [Op.gt]: last.place } }] });
    const most = newest ?? after?.most;
    const way = newest === undefined ? 'ASC' : 'DESC';
    const found = (await this.rows.findAll({
      where: { [Op.and]: where },
      order: [
        ['seq', way],
        ['place', way],
      ],
      ...(most === undefined ? {} : { limit: most }),
      raw: true,
    })) as unknown as PastRow[];
    return newest === undefined ? found : found.reverse();
  }
}
