import { DataTypes, type Model, type ModelAttributeColumnOptions, type ModelStatic, type Sequelize } from 'sequelize';

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
  readonly createdAt: number;
  readonly agent: string;
}

export interface StoredToken {
  readonly id: string;
  readonly user: string;
  readonly name: string;
  readonly hash: string;
  readonly createdAt: number;
  readonly expiresAt: number | null;
}

const text = DataTypes.TEXT;
const whole = DataTypes.BIGINT;
const key = (): ModelAttributeColumnOptions => ({ type: DataTypes.STRING, primaryKey: true });

/** Users, sessions and tokens. What is secret comes hashed. */
export class AccessStore {
  private readonly users: ModelStatic<Model>;
  private readonly sessions: ModelStatic<Model>;
  private readonly tokens: ModelStatic<Model>;

  constructor(database: Sequelize) {
    const define = (name: string, columns: Parameters<Sequelize['define']>[1]): ModelStatic<Model> =>
      database.define(name, columns, { timestamps: false, freezeTableName: true });
    this.users = define('users', { name: key(), password: text, secondStep: text, pendingSecondStep: text });
    this.sessions = define('sessions', { id: key(), user: text, csrf: text, expiresAt: whole, createdAt: whole, agent: text });
    this.tokens = define('tokens', { id: key(), user: text, name: text, hash: text, createdAt: whole, expiresAt: whole });
  }

  user(name: string): Promise<StoredUser | null> {
    return this.one(this.users, { name });
  }

  async saveUser(user: StoredUser): Promise<void> {
    await this.users.upsert({ ...user });
  }

  session(id: string): Promise<StoredSession | null> {
    return this.one(this.sessions, { id });
  }

  async sessionsOf(user: string): Promise<StoredSession[]> {
    return (await this.sessions.findAll({ where: { user }, order: [['createdAt', 'DESC']], raw: true })) as unknown as StoredSession[];
  }

  async saveSession(session: StoredSession): Promise<void> {
    await this.sessions.upsert({ ...session });
  }

  async dropSession(id: string): Promise<void> {
    await this.sessions.destroy({ where: { id } });
  }

  tokenByHash(hash: string): Promise<StoredToken | null> {
    return this.one(this.tokens, { hash });
  }

  async tokensOf(user: string): Promise<StoredToken[]> {
    const order: [string, string][] = [
      ['createdAt', 'ASC'],
      ['id', 'ASC'],
    ];
    return (await this.tokens.findAll({ where: { user }, order, raw: true })) as unknown as StoredToken[];
  }

  async saveToken(token: StoredToken): Promise<void> {
    await this.tokens.create({ ...token });
  }

  async dropToken(id: string): Promise<void> {
    await this.tokens.destroy({ where: { id } });
  }

  private async one<T>(table: ModelStatic<Model>, where: Readonly<Record<string, string>>): Promise<T | null> {
    return (await table.findOne({ where, raw: true })) as unknown as T | null;
  }
}
