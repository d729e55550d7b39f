import { DataTypes, Op, type ModelStatic, type Model, type ModelAttributeColumnOptions, type Sequelize } from 'sequelize';
import type { BrokerReport } from '../../core/desk/index.ts';
import { openDatabase } from '../database.ts';
import { putRows } from '../rows.ts';
import { fromText, toText } from '../../core/exact-text.ts';
import { VENUE_MIGRATIONS } from './migrations.ts';

/** The venue's state as it is stored: what its parts mean is the venue's business. */
export interface StoredVenue<Clock, Order, Account, Listing, Place> {
  readonly clock: Clock;
  readonly orders: Order[];
  readonly accounts: Account[];
  readonly listings: Record<string, Listing>;
  readonly places: Place[];
}

/** What a commit changes; null drops a part. */
export interface VenueChanges<Order, Account, Listing, Place> {
  readonly orders: Readonly<Record<string, Order | null>>;
  readonly accounts: readonly Account[];
  readonly listings: Readonly<Record<string, Listing | null>>;
  readonly places: Readonly<Record<string, Place | null>>;
  readonly reports: readonly BrokerReport[];
}

interface PartRow {
  readonly kind: string;
  readonly name: string;
  readonly value: string;
}

const REPORT = 'report';
const NUMBER_DIGITS = 12;
/** Sorts as its number does. */
const reportName = (account: string, seq: number): string => `${account} ${String(seq).padStart(NUMBER_DIGITS, '0')}`;

/** The venue's SQLite file: its newest state by parts, and the reports that the desk may still ask for. */
export class VenueStore<Clock, Order, Account extends { readonly book: { readonly account: string } }, Listing, Place> {
  private readonly database: Sequelize;
  private readonly parts: ModelStatic<Model>;
  /** Names of parts that are gone and may still be stored, by kind. */
  private readonly gone = new Map<string, Set<string>>();
  private dropping: Promise<void> = Promise.resolve();

  private constructor(database: Sequelize) {
    this.database = database;
    const key = (): ModelAttributeColumnOptions => ({ type: DataTypes.STRING, primaryKey: true });
    this.parts = database.define('parts', { kind: key(), name: key(), value: DataTypes.TEXT }, { timestamps: false, freezeTableName: true });
  }

  static async open<C, O, A extends { readonly book: { readonly account: string } }, L, P>(folder: string): Promise<VenueStore<C, O, A, L, P>> {
    return new VenueStore<C, O, A, L, P>(await openDatabase(folder, 'venue.sqlite', VENUE_MIGRATIONS));
  }

  async load(): Promise<StoredVenue<Clock, Order, Account, Listing, Place> | null> {
    const rows = (await this.parts.findAll({ where: { kind: { [Op.ne]: REPORT } }, raw: true })) as unknown as PartRow[];
    const of = (kind: string): PartRow[] => rows.filter((row) => row.kind === kind);
    const clock = of('clock')[0];
    if (!clock) return null;
    const values = <T>(kind: string): T[] => of(kind).map(({ value }) => fromText(value) as T);
    return {
      clock: fromText(clock.value) as Clock,
      orders: values<Order>('order'),
      accounts: values<Account>('account'),
      listings: Object.fromEntries(of('listing').map(({ name, value }) => [name, fromText(value) as Listing])),
      places: values<Place>('place'),
    };
  }

  /**
   * Stores the changes in one statement, which is one commit. What is gone is dropped after it, and nobody waits for that:
   * a part too many is dropped at the next commit.
   */
  async commit(clock: Clock, { orders, accounts, listings, places, reports }: VenueChanges<Order, Account, Listing, Place>): Promise<void> {
    await this.dropping;
    const rows: PartRow[] = [{ kind: 'clock', name: '', value: toText(clock) }];
    const put = (kind: string, name: string, value: unknown): void => {
      const gone = this.gone.get(kind) ?? new Set();
      this.gone.set(kind, gone);
      if (value === null) gone.add(name);
      else {
        gone.delete(name);
        rows.push({ kind, name, value: toText(value) });
      }
    };
    for (const [id, order] of Object.entries(orders)) put('order', id, order);
    for (const account of accounts) put('account', account.book.account, account);
    for (const [id, listing] of Object.entries(listings)) put('listing', id, listing);
    for (const [id, place] of Object.entries(places)) put('place', id, place);
    for (const report of reports) put(REPORT, reportName(report.account, report.seq), report);
    await putRows(this.database.getQueryInterface(), 'parts', rows, { key: ['kind', 'name'], anew: ['value'] });
    this.dropping = this.drop();
  }

  /** Drops what is gone; what can't be dropped now stays noted. */
  private async drop(): Promise<void> {
    for (const [kind, gone] of this.gone) {
      if (gone.size === 0) continue;
      const dropped = await this.parts.destroy({ where: { kind, name: { [Op.in]: [...gone] } } }).catch(() => null);
      if (dropped !== null) gone.clear();
    }
  }

  async reportsAfter(account: string, seq: number, limit: number): Promise<BrokerReport[]> {
    const name = { [Op.gt]: reportName(account, seq), [Op.lt]: `${account}!` };
    const rows = await this.parts.findAll({ where: { kind: REPORT, name }, order: [['name', 'ASC']], limit, raw: true });
    return (rows as unknown as PartRow[]).map(({ value }) => fromText(value) as BrokerReport);
  }

  async forgetReports(account: string, upTo: number): Promise<void> {
    await this.parts.destroy({ where: { kind: REPORT, name: { [Op.gte]: reportName(account, 0), [Op.lte]: reportName(account, upTo) } } });
  }

  async close(): Promise<void> {
    await this.dropping;
    await this.database.close();
  }
}
