import type { InstrumentKind, VenueId } from '../instrument/index.ts';
import type { Day } from '../market/index.ts';
import { NO_MONEY, plus, type Money } from '../number/index.ts';
import { sha256 } from '../sha256.ts';
import { canonical } from '../canonical.ts';
import { NONE_TAKEN, countTaken, withOneTaken, type Taken } from './taken.ts';
import { NO_RULES, type BlockingRule, type LossAct, type RiskRules, type RuleName } from './rules.ts';
import { nextBound } from './windows.ts';

/** What no opening order passes until its time. */
export interface Block {
  readonly rule: BlockingRule;
  /** Null where it is of the whole account. */
  readonly instrument: string | null;
  /** Of a cap used up: the kind it is of. */
  readonly kind: InstrumentKind | null;
  readonly since: number;
  readonly until: number;
  readonly reason: string;
}

/** Positions that are being closed because a limit was reached: all, or those of some instruments. */
export interface CloseOut {
  readonly state: 'running' | 'done';
  readonly instruments: readonly string[] | 'all';
  readonly since: number;
}

/** Whether a close-out is of an instrument. */
export const isClosedOut = ({ instruments }: CloseOut, instrument: string): boolean => instruments === 'all' || instruments.includes(instrument);

export const CHANGE_KINDS = ['set', 'lock', 'lengthen'] as const;

/** A change of one rule, chained to the one before it by its hash. */
export interface RuleChange {
  readonly seq: number;
  readonly time: number;
  readonly by: string;
  readonly rule: RuleName;
  readonly old: unknown;
  readonly new: unknown;
  readonly kind: (typeof CHANGE_KINDS)[number];
  readonly hash: string;
}

/** Until when each rule that is locked can't be loosened. */
export type Locks = Readonly<Partial<Record<RuleName, number>>>;

/** An account's rules, what they have come to, and what of the day they count. */
export interface RiskState {
  readonly rules: RiskRules;
  readonly version: number;
  readonly locks: Locks;
  readonly blocks: readonly Block[];
  readonly closeOut: CloseOut | null;
  /** The trading day that is counted. */
  readonly day: Day | null;
  /** Filled today by kind, both sides, in 10⁻⁸ units. */
  readonly used: Readonly<Partial<Record<InstrumentKind, bigint>>>;
  /** Losing round trips in a row. */
  readonly losing: number;
  /** What the round trips that are open have made so far, less fees, by instrument. */
  readonly trips: Readonly<Record<string, Money>>;
  /** When opening orders were taken, of the last minute. */
  readonly taken: Taken;
  /** When a close of the close-out was last refused, by instrument. */
  readonly refused: Readonly<Record<string, number>>;
  readonly changes: readonly RuleChange[];
  /** The record of changes is not what was written: only closing orders are taken. */
  readonly broken: boolean;
}

export const newRiskState = (rules: RiskRules = NO_RULES): RiskState => ({
  rules,
  version: 1,
  locks: {},
  blocks: [],
  closeOut: null,
  day: null,
  used: {},
  losing: 0,
  trips: {},
  taken: NONE_TAKEN,
  refused: {},
  changes: [],
  broken: false,
});

/** An opening order was taken. */
export const withTaken = (risk: RiskState, time: number): RiskState => ({ ...risk, taken: withOneTaken(risk.taken, time) });

/** How many opening orders were taken in the minute up to a time. */
export const takenWithin = ({ taken }: RiskState, time: number): number => countTaken(taken, time);

export interface CountedFill {
  readonly instrument: string;
  readonly kind: InstrumentKind;
  /** In 10⁻⁸ units. */
  readonly quantity: bigint;
  readonly realised: Money;
  readonly fee: Money;
  /** Of the fee, the part of what closes. */
  readonly closingFee: Money;
  /** It ended the round trip. */
  readonly ends: boolean;
}

/** A fill counted: against the cap, and in its round trip. */
export function withFill(risk: RiskState, { instrument, kind, quantity, realised, fee, closingFee, ends }: CountedFill): RiskState {
  const used = { ...risk.used, [kind]: (risk.used[kind] ?? 0n) + quantity };
  const made = plus(risk.trips[instrument] ?? NO_MONEY, realised);
  if (!ends) return { ...risk, used, trips: { ...risk.trips, [instrument]: (made - fee) as Money } };
  const net = made - closingFee;
  const { [instrument]: _ended, ...rest } = risk.trips;
  const opened = (closingFee - fee) as Money;
  return { ...risk, used, losing: net < 0n ? risk.losing + 1 : 0, trips: opened === 0n ? rest : { ...rest, [instrument]: opened } };
}

/** A new trading day: its counters begin anew. What lasts longer than the day goes on. */
export const withDay = (risk: RiskState, day: Day, time: number): RiskState => ({
  ...risk,
  day,
  used: {},
  losing: 0,
  refused: {},
  closeOut: risk.closeOut?.state === 'running' ? risk.closeOut : null,
  blocks: risk.blocks.filter(({ until }) => until > time),
});

/** The blocks that are in force at a time. */
export const blocksAt = ({ blocks }: RiskState, time: number): readonly Block[] => blocks.filter(({ until }) => until > time);

/** The locks that are in force at a time. A lock is over at its very end. */
export const locksAt = ({ locks }: Pick<RiskState, 'locks'>, time: number): Locks =>
  Object.fromEntries(Object.entries(locks).filter(([, until]) => until > time));

/** When one of an account's blocks, locks and windows next begins or ends by itself; null where none does. */
export function nextTurn(risk: RiskState, venue: VenueId, time: number): number | null {
  const ends = [...blocksAt(risk, time).map(({ until }) => until), ...Object.values(locksAt(risk, time))];
  const bound = nextBound(risk.rules.noTradeWindows ?? [], venue, time);
  const all = bound === null ? ends : [...ends, bound];
  return all.length === 0 ? null : Math.min(...all);
}

export const FIRST_CHANGE_HASH = '0'.repeat(64);

type Unhashed = Omit<RuleChange, 'hash'>;

/** SHA-256 over the hash before and the change as canonical JSON (RFC 8785) without its own hash. */
export const changeHash = (before: string, change: Unhashed): string => sha256(before + canonical({ ...change, time: new Date(change.time).toISOString() }));

/** Changes with their hashes, chained to those before. */
export function chained(before: readonly RuleChange[], changes: readonly Omit<Unhashed, 'seq'>[]): RuleChange[] {
  const last = before[before.length - 1];
  let hash = last?.hash ?? FIRST_CHANGE_HASH;
  let seq = last?.seq ?? 0;
  return changes.map((change) => {
    const numbered = { seq: ++seq, ...change };
    hash = changeHash(hash, numbered);
    return { ...numbered, hash };
  });
}

/** Whether a record of changes is what was written. */
export function isIntact(changes: readonly RuleChange[]): boolean {
  let before = FIRST_CHANGE_HASH;
  return changes.every(({ hash, ...change }, i) => {
    const right = changeHash(before, change) === hash && change.seq === i + 1;
    before = hash;
    return right;
  });
}

/** What an act is where a limit has none: it blocks. */
export const actOf = (act: LossAct | null): LossAct => act ?? 'block';
