import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize';

interface Row {
  readonly name: string;
  readonly document: string;
  readonly updatedAt: number;
}

/** Users' own documents as JSON, one row each. */
export class SavedStore {
  private readonly saved: ModelStatic<Model>;

  constructor(database: Sequelize) {
    const columns = {
      user: { type: DataTypes.STRING, primaryKey: true },
      kind: { type: DataTypes.STRING, primaryKey: true },
      name: { type: DataTypes.STRING, primaryKey: true },
      document: DataTypes.TEXT,
      updatedAt: DataTypes.BIGINT,
    };
    this.saved = database.define('saved', columns, { timestamps: false, freezeTableName: true });
  }

  async list(user: string, kind: string): Promise<{ name: string; updatedAt: number }[]> {
    const found = await this.saved.findAll({ attributes: ['name', 'updatedAt'], where: { user, kind }, order: [['name', 'ASC']], raw: true });
    return found as unknown as Row[];
  }

  async get(user: string, kind: string, name: string): Promise<{ name: string; document: unknown; updatedAt: number } | null> {
    const row = (await this.saved.findOne({ where: { user, kind, name }, raw: true })) as unknown as Row | null;
    return row && { name: row.name, updatedAt: row.updatedAt, document: JSON.parse(row.document) as unknown };
  }

  async put(user: string, kind: string, name: string, document: unknown, now: number): Promise<boolean> {
    const before = await this.saved.count({ where: { user, kind, name } });
    await this.saved.upsert({ user, kind, name, document: JSON.stringify(document), updatedAt: now });
    return before === 0;
  }

  async drop(user: string, kind: string, name: string): Promise<boolean> {
    return (await this.saved.destroy({ where: { user, kind, name } })) > 0;
  }
}
