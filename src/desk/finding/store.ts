import type { Alert, ConditionalOrder, Firing, ScanRun } from './things.ts';

/** What became of something that is watched: all of it is kept, or nothing. */
export interface FindingChange {
  readonly alerts?: readonly Alert[];
  readonly firings?: readonly Firing[];
  readonly waiting?: readonly ConditionalOrder[];
  /** Up to where headlines and the activity were looked at. */
  readonly marks?: Readonly<Record<string, number>>;
}

/** Where alerts, waiting orders and results of scans are kept. */
export interface FindingStore {
  load(): Promise<{ alerts: Alert[]; firings: Firing[]; waiting: ConditionalOrder[]; marks: Record<string, number> }>;
  commit(change: FindingChange): Promise<void>;
  dropAlert(id: string): Promise<void>;
  /** Keeps a run, and what came of it in the same commit. */
  addRun(run: Omit<ScanRun, 'id'>, change?: FindingChange): Promise<ScanRun>;
  /** The newest results of a scan, oldest first. */
  runs(user: string, scan: string, limit: number): Promise<ScanRun[]>;
  dropRuns(user: string, scan: string): Promise<void>;
}
