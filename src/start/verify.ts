import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { verifyLog } from '../desk/ledger.ts';
import type { OrderState } from '../core/orders/index.ts';
import { openDatabase } from '../store/database.ts';
import { DeskStore } from '../store/desk/desk-store.ts';
import { DESK_MIGRATIONS, TABLE_MIGRATIONS } from '../store/desk/migrations.ts';
import { readSettings } from './settings.ts';

// Checks the whole hash chain of the activity log, while no server runs on the folder.
const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
try {
  const { dataFolder } = readSettings(process.env, root);
  const database = await openDatabase(dataFolder, 'desk.sqlite', DESK_MIGRATIONS);
  const tables = await openDatabase(dataFolder, 'tables.sqlite', TABLE_MIGRATIONS, 'NORMAL');
  const count = await verifyLog(new DeskStore<OrderState>(database, tables));
  await Promise.all([database.close(), tables.close()]);
  process.stdout.write(`The activity log is whole: ${count} entries, each as it was written.\n`);
} catch (error) {
  process.stderr.write(`${(error as Error).message}\n`);
  process.exitCode = 1;
}
