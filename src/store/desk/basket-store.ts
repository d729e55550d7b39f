import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize';

/** Runs of baskets, one row each; what a run says is the desk's business. */
export class BasketStore<R extends { readonly id: string; readonly user: string }> {
  private readonly runs: ModelStatic<Model>;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(database: Sequelize) {
    const columns = { id: { type: DataTypes.STRING, primaryKey: true }, user: DataTypes.STRING, value: DataTypes.TEXT };
    this.runs = database.define('basket_runs', columns, { timestamps: false, freezeTableName: true });
  }

  async load(): Promise<R[]> {
    const found = (await this.runs.findAll({ raw: true })) as unknown as { value: string }[];
    return found.map(({ value }) => JSON.parse(value) as R);
  }

  put(run: R): Promise<void> {
    const done = this.turn.then(async () => void (await this.runs.upsert({ id: run.id, user: run.user, value: JSON.stringify(run) })));
    this.turn = done.catch(() => undefined);
    return done;
  }
}
