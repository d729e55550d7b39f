import { QueryTypes, type Sequelize } from 'sequelize';

export interface StoredUser {
  readonly name: string;
  readonly password: string;
  readonly secondStep: string | null;
  readonly pendingSecondStep: string | null;
}

export interface StoredSession {
  readonly id: string;
  readonly user: string;
  readonly csrf: string;
  readonly expiresAt: number;
}

export interface StoredToken {
  readonly id: string;
  readonly user: string;
  readonly name: string;
  readonly hash: string;
  readonly createdAt: number;
  readonly expiresAt: number | null;
}

/** Users, sessions and tokens. What is secret comes hashed. */
export class AccessStore {
  private readonly database: Sequelize;

  constructor(database: Sequelize) {
    this.database = database;
  }

  user(name: string): Promise<StoredUser | null> {
    return this.one('SELECT * FROM users WHERE name = ?', [name]);
  }

  async saveUser(user: StoredUser): Promise<void> {
    await this.run('INSERT OR REPLACE INTO users (name, password, secondStep, pendingSecondStep) VALUES (?,?,?,?)', [
      user.name,
      user.password,
      user.secondStep,
      user.pendingSecondStep,
    ]);
  }

  session(id: string): Promise<StoredSession | null> {
    return this.one('SELECT * FROM sessions WHERE id = ?', [id]);
  }

  async saveSession(session: StoredSession): Promise<void> {
    await this.run('INSERT OR REPLACE INTO sessions (id, user, csrf, expiresAt) VALUES (?,?,?,?)', [session.id, session.user, session.csrf, session.expiresAt]);
  }

  async dropSession(id: string): Promise<void> {
    await this.run('DELETE FROM sessions WHERE id = ?', [id]);
  }

  tokenByHash(hash: string): Promise<StoredToken | null> {
    return this.one('SELECT * FROM tokens WHERE hash = ?', [hash]);
  }

  tokensOf(user: string): Promise<StoredToken[]> {
    return this.database.query<StoredToken>('SELECT * FROM tokens WHERE user = ? ORDER BY createdAt, id', { type: QueryTypes.SELECT, replacements: [user] });
  }

  async saveToken(token: StoredToken): Promise<void> {
    await this.run('INSERT INTO tokens (id, user, name, hash, createdAt, expiresAt) VALUES (?,?,?,?,?,?)', [
      token.id,
      token.user,
      token.name,
      token.hash,
      token.createdAt,
      token.expiresAt,
    ]);
  }

  async dropToken(id: string): Promise<void> {
    await this.run('DELETE FROM tokens WHERE id = ?', [id]);
  }

  private async one<T extends object>(sql: string, replacements: string[]): Promise<T | null> {
    const rows = await this.database.query<T>(sql, { type: QueryTypes.SELECT, replacements });
    return rows[0] ?? null;
  }

  private async run(sql: string, replacements: (string | number | null)[]): Promise<void> {
    await this.database.query(sql, { replacements });
  }
}
