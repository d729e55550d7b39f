import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize';

/** What the market said at moments that a review looks back at, by name; what it says is the desk's business. */
export class ReviewStore {
  private readonly facts: ModelStatic<Model>;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(database: Sequelize) {
    const columns = { name: { type: DataTypes.STRING, primaryKey: true }, value: DataTypes.TEXT };
    this.facts = database.define('review_facts', columns, { timestamps: false, freezeTableName: true });
  }

  async load(): Promise<Map<string, string>> {
    const found = (await this.facts.findAll({ raw: true })) as unknown as { name: string; value: string }[];
    return new Map(found.map(({ name, value }) => [name, value]));
  }

  put(facts: readonly { readonly name: string; readonly value: string }[]): Promise<void> {
    const done = this.turn.then(async () => void (await this.facts.bulkCreate([...facts], { updateOnDuplicate: ['value'] })));
    this.turn = done.catch(() => undefined);
    return done;
  }
}
