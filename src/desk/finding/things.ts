import type {
  AlertEvent,
  AlertKind,
  AlertState,
  Direction,
  Fires,
  Join,
  LineCount,
  ScanItem,
  ScanCause,
  Schedule,
  WaitingState,
  WatchMemory,
} from '../../core/scan/index.ts';

/** A line as it was drawn: prices as decimals, times in milliseconds. */
export interface AlertLine {
  readonly from: { readonly time: number; readonly price: string };
  readonly to: { readonly time: number; readonly price: string };
}

/** Something a trader wants to be told of. */
export interface Alert {
  readonly id: string;
  readonly user: string;
  readonly name: string | null;
  readonly kind: AlertKind;
  readonly instrument: string | null;
  readonly price: string | null;
  readonly direction: Direction | null;
  /** In place of one price: a line that is crossed. */
  readonly line: AlertLine | null;
  /** A scan that finds something new. */
  readonly scan: string | null;
  readonly phrase: string | null;
  readonly account: string | null;
  readonly words: readonly string[] | null;
  readonly event: AlertEvent | null;
  readonly fires: Fires;
  readonly pauseSeconds: number;
  readonly until: number | null;
  readonly sound: string | null;
  readonly note: string | null;
  readonly state: AlertState;
  readonly snoozedUntil: number | null;
  readonly memory: WatchMemory;
}

/** What a trader says of an alert; a change says a part of it. */
export type AlertTerms = Pick<
  Alert,
  | 'name'
  | 'kind'
  | 'instrument'
  | 'price'
  | 'line'
  | 'scan'
  | 'direction'
  | 'phrase'
  | 'account'
  | 'words'
  | 'event'
  | 'fires'
  | 'pauseSeconds'
  | 'until'
  | 'sound'
  | 'note'
>;

/** One time that an alert told of something. */
export interface Firing {
  readonly seq: number;
  readonly alert: string;
  readonly user: string;
  readonly time: number;
  readonly value: string | null;
  readonly text: string;
}

/** An order that is held here until a condition is true. */
export interface ConditionalOrder {
  readonly id: string;
  readonly user: string;
  readonly clientOrderId: string;
  readonly account: string;
  readonly when: string;
  readonly instrument: string;
  /** An order request without its client order id, or an order phrase. */
  readonly order: unknown;
  readonly until: number | null;
  readonly state: WaitingState;
  readonly orderId: string | null;
  readonly reason: string | null;
  readonly since: number;
  readonly memory: WatchMemory;
  /** What was asked for, to know the same request again. */
  readonly content: string;
}

export interface ScanUniverse {
  readonly venues?: readonly string[];
  readonly kinds?: readonly string[];
  readonly sectors?: readonly string[];
  readonly watchlists?: readonly string[];
  readonly instruments?: readonly string[];
  readonly scan?: string;
}

export interface ScanTerms {
  readonly universe: ScanUniverse;
  readonly join: Join;
  readonly lines: readonly { readonly phrase: string; readonly on: boolean }[];
}

/** A saved scan. */
export interface Scan extends ScanTerms {
  readonly name: string;
  readonly notes: string;
  readonly keep: boolean;
  readonly schedule: Schedule | null;
  readonly version: number;
}

/** One run of a scan. */
export interface ScanRun {
  readonly id: string;
  readonly user: string;
  readonly scan: string | null;
  readonly at: number;
  readonly cause: ScanCause;
  readonly universe: number;
  readonly count: number;
  readonly milliseconds: number;
  readonly lines: readonly LineCount[];
  readonly items: readonly ScanItem[];
  /** Left out of runs that were kept before it was looked for. */
  readonly almost?: readonly ScanItem[];
}
