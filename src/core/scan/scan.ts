import type { CompiledCondition } from './compile.ts';
import { FALSE, TRUE, UNKNOWN } from './evaluation.ts';
import type { MarketColumns, OwnThings } from './columns.ts';
import type { Instrument } from '../instrument/index.ts';
import { UNSAID, type LineMemory, type Said } from './memory.ts';

export const JOINS = ['all', 'any'] as const;
export type Join = (typeof JOINS)[number];

export interface ScanLine {
  readonly condition: CompiledCondition;
  readonly on: boolean;
}

/** What each line counts: alone, together with the lines above it, and of how many it is unknown, with the commonest reason. */
export interface LineCount {
  readonly on: boolean;
  readonly alone: number;
  readonly together: number;
  readonly unknown: number;
  readonly unknownBecause: string | null;
}

export interface ScanOutcome {
  readonly universe: number;
  readonly lines: readonly LineCount[];
  /** By ticker, then venue, with each line's first value. */
  readonly items: readonly ScanItem[];
  /** What does not pass, but would if every comparison held a twentieth of its threshold earlier; the first hundred. */
  readonly almost: readonly ScanItem[];
}

export interface ScanItem {
  readonly instrument: string;
  readonly values: readonly (string | null)[];
}

const NEARLY = 0.05;
const MOST_ALMOST = 100;

/** What each line of a scan that is kept running remembers from one evaluation to the next. */
export type ScanMemory = readonly LineMemory[];

/** What a line says of each place of a universe, in its order. */
interface Judged {
  readonly line: ScanLine;
  readonly truths: Uint8Array;
  readonly said: Said | null;
}

/**
 * Evaluates lines over a universe, all of one moment (exact rules *Finding* 1, 2): line after line, each over the
 * whole of it.
 *
 * @param places the universe, as places in the columns
 * @param memory one for each line, or null where the scan is run once
 */
export function runScan(
  lines: readonly ScanLine[],
  join: Join,
  columns: MarketColumns,
  places: readonly number[],
  own: OwnThings,
  memory: ScanMemory | null,
): ScanOutcome {
  const judged: Judged[] = [];
  const counts: LineCount[] = [];
  const above = new Uint8Array(places.length).fill(TRUE);
  const any = new Uint8Array(places.length).fill(FALSE);
  for (const [k, line] of lines.entries()) {
    if (!line.on) {
      counts.push({ on: false, alone: 0, together: 0, unknown: 0, unknownBecause: null });
      continue;
    }
    const remembered = memory?.[k] ?? null;
    const said = remembered?.brought(line.condition, columns) ?? null;
    const scope = { columns, own, memory: remembered?.events ?? null };
    const truths = new Uint8Array(places.length);
    const reasons = new Map<string, number>();
    let [alone, together, unknown] = [0, 0, 0];
    for (let at = 0; at < places.length; at++) {
      const i = places[at] as number;
      const known = said === null ? UNSAID : (said.truths[i] as number);
      const found = known === UNSAID ? line.condition.evaluate(scope, i) : known;
      if (said) said.truths[i] = found;
      truths[at] = found;
      if (found < (above[at] as number)) above[at] = found;
      if (found > (any[at] as number)) any[at] = found;
      if (found === TRUE) alone++;
      if (above[at] === TRUE) together++;
      if (found !== UNKNOWN) continue;
      unknown++;
      const reason = said?.reasons[i] ?? line.condition.parts.find((part) => part.value(scope, i) === null)?.because ?? 'a first look';
      if (said) said.reasons[i] = reason;
      reasons.set(reason, (reasons.get(reason) ?? 0) + 1);
    }
    judged.push({ line, truths, said });
    counts.push({ on: true, alone, together, unknown, unknownBecause: commonest(reasons) });
  }
  const joined = join === 'all' ? above : any;
  const passed: number[] = [];
  const nearly: number[] = [];
  const loose = { columns, own, memory: null, slack: NEARLY };
  // What a line says exactly it says loosely too: only those that failed are looked at again.
  const isNear = ({ line, truths, said }: Judged, at: number): boolean => {
    if (truths[at] === TRUE) return true;
    const i = places[at] as number;
    const known = said === null ? UNSAID : (said.loose[i] as number);
    const found = known === UNSAID ? line.condition.evaluate(loose, i) : known;
    if (said) said.loose[i] = found;
    return found === TRUE;
  };
  const isAlmost = (at: number): boolean => (join === 'all' ? judged.every((one) => isNear(one, at)) : judged.some((one) => isNear(one, at)));
  if (judged.length > 0)
    for (let at = 0; at < places.length; at++) {
      if (joined[at] === TRUE) passed.push(places[at] as number);
      else if (isAlmost(at)) nearly.push(places[at] as number);
    }
  const scope = { columns, own, memory: null };
  const itemOf = (i: number): ScanItem => ({
    instrument: (columns.instruments[i] as Instrument).id,
    values: lines.map(({ condition }) => condition.parts[0]?.value(scope, i) ?? null),
  });
  return {
    universe: places.length,
    lines: counts,
    items: columns.inOrder(passed).map(itemOf),
    almost: columns.inOrder(nearly).slice(0, MOST_ALMOST).map(itemOf),
  };
}

const commonest = (reasons: ReadonlyMap<string, number>): string | null => [...reasons].sort(([, a], [, b]) => b - a)[0]?.[0] ?? null;
