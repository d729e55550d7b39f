import type { Instrument } from '../../core/instrument/index.ts';
import type { OfferedIssue } from '../new-issues.ts';

/** How an instrument's price behaves: what it follows, how far it moves, how much is traded. */
export interface Profile {
  readonly instrument: Instrument;
  /** Price around the first day, in whole currency. */
  readonly price: number;
  /** Standard deviation of its own daily log return. */
  readonly ownVolatility: number;
  readonly indexBeta: number;
  readonly sectorBeta: number;
  /** Usual daily volume in quantity steps. */
  readonly dailyVolume: number;
  /** Usual distance of bid and ask in ticks. */
  readonly spreadTicks: number;
  /** Derived instruments take their prices from another one. */
  readonly follows: { readonly instrument: string; readonly by: 'parity' | 'carry' | 'option' } | null;
}

/** Everything that the venue needs to make the demo market; plain data, handed to its thread. */
export interface DemoWorld {
  readonly profiles: readonly Profile[];
  readonly sectors: readonly string[];
  readonly companyNews: readonly string[];
  readonly coastNews: readonly string[];
  readonly issues: readonly OfferedIssue[];
}
