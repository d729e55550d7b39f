import { access, constants, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { QueryTypes, Sequelize } from 'sequelize';
import type { InputMigrations } from 'umzug';
import type { QueryInterface } from 'sequelize';

/** The store can't be used, in words for the person who starts Kavix. */
export class StoreUnusable extends Error {}

export type Migration = { name: string; up: (params: { context: QueryInterface }) => Promise<unknown> };

/**
 * Opens a SQLite file with write-ahead log, checks it, and brings it up to date.
 *
 * @param synchronous NORMAL where what is lost with the machine's power can be made again
 * @throws StoreUnusable where the folder can't be written or the file is damaged; nothing is overwritten then
 */
export async function openDatabase(
  folder: string,
  file: string,
  migrations: readonly Migration[],
  synchronous: 'FULL' | 'NORMAL' = 'FULL',
): Promise<Sequelize> {
  try {
    await mkdir(folder, { recursive: true });
    await access(folder, constants.W_OK);
  } catch {
    throw new StoreUnusable(`The data folder ${folder} can't be written. Give it write access, or name another one in KAVIX_DATA.`);
  }
  const path = join(folder, file);
  const database = new Sequelize({ dialect: 'sqlite', storage: path, logging: false });
  try {
    await database.query('PRAGMA journal_mode = WAL');
    await database.query(`PRAGMA synchronous = ${synchronous}`);
    const check = await database.query<{ quick_check: string }>('PRAGMA quick_check', { type: QueryTypes.SELECT });
    if (check[0]?.quick_check !== 'ok') throw new Error(check[0]?.quick_check ?? 'unreadable');
    if (!(await isUpToDate(database, migrations))) await migrate(database, migrations);
  } catch (error) {
    await database.close().catch(() => undefined);
    throw new StoreUnusable(
      `The database ${path} is damaged (${(error as Error).message}). It was left as it is: put a copy back, or move it away to begin a new world.`,
    );
  }
  return database;
}

/** The table in which the migrations that were made are named. */
const MADE = 'SequelizeMeta';

async function isUpToDate(database: Sequelize, migrations: readonly Migration[]): Promise<boolean> {
  if (!(await database.getQueryInterface().tableExists(MADE))) return false;
  const made = new Set((await database.query<{ name: string }>(`SELECT name FROM ${MADE}`, { type: QueryTypes.SELECT })).map(({ name }) => name));
  return migrations.every(({ name }) => made.has(name));
}

/** Makes what is missing. The package is loaded only where it has something to do: it takes longer than all else here. */
async function migrate(database: Sequelize, migrations: readonly Migration[]): Promise<void> {
  const { SequelizeStorage, Umzug } = await import('umzug');
  await new Umzug({
    migrations: [...migrations] as InputMigrations<QueryInterface>,
    context: database.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize: database, tableName: MADE }),
    logger: undefined,
  }).up();
}
