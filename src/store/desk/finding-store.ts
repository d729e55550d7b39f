import { DataTypes, Op, type Model, type ModelAttributeColumnOptions, type ModelStatic, type Sequelize, type Transaction } from 'sequelize';

/** What is kept of something by its id; what it says is the desk's business. */
interface Kept {
  readonly id: string;
  readonly user: string;
}
interface Fired {
  readonly seq: number;
  readonly alert: string;
  readonly user: string;
}
interface Run {
  readonly user: string;
  readonly scan: string | null;
  readonly at: number;
}

interface Change<A, F, W> {
  readonly alerts?: readonly A[];
  readonly firings?: readonly F[];
  readonly waiting?: readonly W[];
  readonly marks?: Readonly<Record<string, number>>;
}

/** Alerts, orders that wait for a condition, and results of scans. A change is whole or not at all. */
export class FindingStore<A extends Kept, F extends Fired, W extends Kept, R extends Run & { readonly id: string }> {
  private readonly database: Sequelize;
  private readonly things: ModelStatic<Model>;
  private readonly firings: ModelStatic<Model>;
  private readonly runsTable: ModelStatic<Model>;
  private readonly marks: ModelStatic<Model>;
  private turn: Promise<unknown> = Promise.resolve();
  private readonly mostRuns: number;

  constructor(database: Sequelize, mostRuns: number) {
    this.database = database;
    this.mostRuns = mostRuns;
    const options = { timestamps: false, freezeTableName: true };
    const key = (): ModelAttributeColumnOptions => ({ type: DataTypes.STRING, primaryKey: true });
    this.things = database.define('watched', { kind: key(), id: key(), user: DataTypes.STRING, value: DataTypes.TEXT }, options);
    this.firings = database.define(
      'firings',
      { seq: { type: DataTypes.INTEGER, primaryKey: true }, alert: DataTypes.STRING, user: DataTypes.STRING, value: DataTypes.TEXT },
      options,
    );
    const number = { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true };
    this.runsTable = database.define('scan_runs', { number, user: DataTypes.STRING, scan: DataTypes.STRING, value: DataTypes.TEXT }, options);
    this.marks = database.define('finding_marks', { name: key(), value: DataTypes.BIGINT }, options);
  }

  async load(): Promise<{ alerts: A[]; firings: F[]; waiting: W[]; marks: Record<string, number> }> {
    const [things, firings, marks] = await Promise.all([
      this.things.findAll({ raw: true }) as unknown as Promise<{ kind: string; value: string }[]>,
      this.firings.findAll({ order: [['seq', 'ASC']], raw: true }) as unknown as Promise<{ value: string }[]>,
      this.marks.findAll({ raw: true }) as unknown as Promise<{ name: string; value: number }[]>,
    ]);
    const of = <T>(kind: string): T[] => things.filter((one) => one.kind === kind).map(({ value }) => JSON.parse(value) as T);
    return {
      alerts: of<A>('alert'),
      firings: firings.map(({ value }) => JSON.parse(value) as F),
      waiting: of<W>('waiting'),
      marks: Object.fromEntries(marks.map(({ name, value }) => [name, value])),
    };
  }

  commit(change: Change<A, F, W>): Promise<void> {
    return this.inTurn(() => this.database.transaction((transaction) => this.write(change, transaction)));
  }

  private async write({ alerts = [], firings = [], waiting = [], marks = {} }: Change<A, F, W>, transaction: Transaction): Promise<void> {
    const things = [...alerts.map((one) => ({ kind: 'alert', one })), ...waiting.map((one) => ({ kind: 'waiting', one }))];
    const rows = things.map(({ kind, one }) => ({ kind, id: one.id, user: one.user, value: JSON.stringify(one) }));
    if (rows.length > 0) await this.things.bulkCreate(rows, { updateOnDuplicate: ['value'], transaction });
    const fired = firings.map((one) => ({ seq: one.seq, alert: one.alert, user: one.user, value: JSON.stringify(one) }));
    if (fired.length > 0) await this.firings.bulkCreate(fired, { transaction });
    for (const [name, value] of Object.entries(marks)) await this.marks.upsert({ name, value }, { transaction });
  }

  dropAlert(id: string): Promise<void> {
    return this.inTurn(async () => {
      await this.things.destroy({ where: { kind: 'alert', id } });
      await this.firings.destroy({ where: { alert: id } });
    });
  }

  addRun(run: Omit<R, 'id'>, change: Change<A, F, W> = {}): Promise<R> {
    return this.inTurn(async () => {
      const { user, scan } = run as unknown as Run;
      const made = await this.database.transaction(async (transaction) => {
        await this.write(change, transaction);
        return this.runsTable.create({ user, scan, value: JSON.stringify(run) }, { transaction });
      });
      const number = made.get('number') as number;
      const old = await this.runsTable.findAll({
        where: { user, scan },
        attributes: ['number'],
        order: [['number', 'DESC']],
        offset: this.mostRuns,
        limit: 1,
        raw: true,
      });
      const oldest = (old[0] as unknown as { number: number } | undefined)?.number;
      if (oldest !== undefined) await this.runsTable.destroy({ where: { user, scan, number: { [Op.lte]: oldest } } });
      return { ...run, id: `run-${number}` } as unknown as R;
    });
  }

  async runs(user: string, scan: string, limit: number): Promise<R[]> {
    await this.turn;
    const found = (await this.runsTable.findAll({ where: { user, scan }, order: [['number', 'DESC']], limit, raw: true })) as unknown as {
      number: number;
      value: string;
    }[];
    return found.reverse().map(({ number, value }) => ({ ...(JSON.parse(value) as R), id: `run-${number}` }));
  }

  dropRuns(user: string, scan: string): Promise<void> {
    return this.inTurn(async () => void (await this.runsTable.destroy({ where: { user, scan } })));
  }

  /** One connection has one transaction at a time. */
  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }
}
