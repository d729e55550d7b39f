import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { StoreUnusable } from '../store/database.ts';

function alive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    // A process number may have been given to another program since.
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('node');
  } catch {
    return false;
  }
}

/**
 * Takes the data folder for this process: its id is in `kavix.pid`.
 *
 * @returns gives the folder back
 * @throws StoreUnusable where another server uses it, or it can't be written
 */
export function lockFolder(folder: string): () => void {
  const path = join(folder, 'kavix.pid');
  try {
    mkdirSync(folder, { recursive: true });
    const there = readPid(path);
    if (there !== null && there !== process.pid && alive(there))
      throw new StoreUnusable(`Another Kavix (process ${there}) uses the data folder ${folder}. Stop it, or name another folder in KAVIX_DATA.`);
    writeFileSync(path, String(process.pid));
  } catch (error) {
    if (error instanceof StoreUnusable) throw error;
    throw new StoreUnusable(`The data folder ${folder} can't be written. Give it write access, or name another one in KAVIX_DATA.`);
  }
  return () => rmSync(path, { force: true });
}

function readPid(path: string): number | null {
  try {
    const pid = Number(readFileSync(path, 'utf8'));
    return Number.isInteger(pid) && pid > 0 ? pid : null;
  } catch {
    return null;
  }
}
