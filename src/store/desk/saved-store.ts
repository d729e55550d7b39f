import { QueryTypes, type Sequelize } from 'sequelize';

interface Row {
  name: string;
  document: string;
  updatedAt: number;
}

/** Users' own documents as JSON, one row each. */
export class SavedStore {
  private readonly database: Sequelize;

  constructor(database: Sequelize) {
    this.database = database;
  }

  list(user: string, kind: string): Promise<{ name: string; updatedAt: number }[]> {
    return this.select<Row>('SELECT name, updatedAt FROM saved WHERE user = ? AND kind = ? ORDER BY name', [user, kind]);
  }

  async get(user: string, kind: string, name: string): Promise<{ name: string; document: unknown; updatedAt: number } | null> {
    const [row] = await this.select<Row>('SELECT name, document, updatedAt FROM saved WHERE user = ? AND kind = ? AND name = ?', [user, kind, name]);
    return row ? { ...row, document: JSON.parse(row.document) as unknown } : null;
  }

  async put(user: string, kind: string, name: string, document: unknown, now: number): Promise<boolean> {
    const before = await this.select<Row>('SELECT name FROM saved WHERE user = ? AND kind = ? AND name = ?', [user, kind, name]);
    await this.database.query('INSERT OR REPLACE INTO saved (user, kind, name, document, updatedAt) VALUES (?,?,?,?,?)', {
      replacements: [user, kind, name, JSON.stringify(document), now],
    });
    return before.length === 0;
  }

  async drop(user: string, kind: string, name: string): Promise<boolean> {
    const before = await this.select<Row>('SELECT name FROM saved WHERE user = ? AND kind = ? AND name = ?', [user, kind, name]);
    await this.database.query('DELETE FROM saved WHERE user = ? AND kind = ? AND name = ?', { replacements: [user, kind, name] });
    return before.length > 0;
  }

  private select<T extends object>(sql: string, replacements: string[]): Promise<T[]> {
    return this.database.query<T>(sql, { type: QueryTypes.SELECT, replacements });
  }
}
