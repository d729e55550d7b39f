import { DataTypes, Op, type Model, type ModelStatic, type Sequelize } from 'sequelize';

const NAMES_A_STATEMENT = 1000;

/** What the market said at moments that a review looks back at, by name; what it says is the desk's business. */
export class ReviewStore {
  private readonly facts: ModelStatic<Model>;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(database: Sequelize) {
    const columns = { name: { type: DataTypes.STRING, primaryKey: true }, value: DataTypes.TEXT };
    this.facts = database.define('review_facts', columns, { timestamps: false, freezeTableName: true });
  }

  /** What is known under these names. */
  async find(names: readonly string[]): Promise<Map<string, string>> {
    const found = new Map<string, string>();
    for (let at = 0; at < names.length; at += NAMES_A_STATEMENT) {
      const where = { name: { [Op.in]: names.slice(at, at + NAMES_A_STATEMENT) } };
      const rows = (await this.facts.findAll({ where, raw: true })) as unknown as { name: string; value: string }[];
      for (const { name, value } of rows) found.set(name, value);
    }
    return found;
  }

  put(facts: readonly { readonly name: string; readonly value: string }[]): Promise<void> {
    const done = this.turn.then(async () => void (await this.facts.bulkCreate([...facts], { updateOnDuplicate: ['value'] })));
    this.turn = done.catch(() => undefined);
    return done;
  }
}
