import { createHash } from 'node:crypto';
import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize';

interface Row {
  readonly name: string;
  readonly document: string;
  readonly updatedAt: number;
}

type Expected = { readonly revision: string } | 'nothing' | 'anything';
type Put = { readonly kind: 'made' | 'replaced'; readonly revision: string } | { readonly kind: 'conflict'; readonly revision: string | null };

/** A document's revision follows from its content: saving the same again is no other one. */
const revisionOf = (text: string): string => createHash('sha256').update(text).digest('base64url').slice(0, 16);

/** Users' own documents as JSON, one row each. */
export class SavedStore {
  private readonly saved: ModelStatic<Model>;
  private turn: Promise<unknown> = Promise.resolve();

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

  async get(user: string, kind: string, name: string): Promise<{ name: string; document: unknown; revision: string; updatedAt: number } | null> {
    const row = await this.row(user, kind, name);
    return row && { name: row.name, updatedAt: row.updatedAt, revision: revisionOf(row.document), document: JSON.parse(row.document) as unknown };
  }

  /** Changes come one after the other, so that what was looked at is what is changed. */
  put(user: string, kind: string, name: string, document: unknown, now: number, expected: Expected): Promise<Put> {
    const done = this.turn.then(async (): Promise<Put> => {
      const before = await this.row(user, kind, name);
      const revision = before && revisionOf(before.document);
      const fits = expected === 'anything' || (expected === 'nothing' ? before === null : revision === expected.revision);
      if (!fits) return { kind: 'conflict', revision };
      const text = JSON.stringify(document);
      await this.saved.upsert({ user, kind, name, document: text, updatedAt: now });
      return { kind: before === null ? 'made' : 'replaced', revision: revisionOf(text) };
    });
    this.turn = done.catch(() => undefined);
    return done;
  }

  private async row(user: string, kind: string, name: string): Promise<Row | null> {
    return (await this.saved.findOne({ where: { user, kind, name }, raw: true })) as unknown as Row | null;
  }

  async drop(user: string, kind: string, name: string): Promise<boolean> {
    return (await this.saved.destroy({ where: { user, kind, name } })) > 0;
  }
}
