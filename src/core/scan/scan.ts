import { FALSE, TRUE, UNKNOWN, type CompiledCondition, type EventMemory, type Truth } from './compile.ts';
import type { MarketColumns, OwnThings } from './columns.ts';

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

/**
 * Evaluates lines over a universe, all of one moment (exact rules *Finding* 1, 2).
 *
 * @param places the universe, as places in the columns
 */
export function runScan(
  lines: readonly ScanLine[],
  join: Join,
  columns: MarketColumns,
  places: readonly number[],
  own: OwnThings,
  memory: EventMemory | null,
): ScanOutcome {
  const scope = { columns, own, memory };
  const counts = lines.map(({ on }) => ({ on, alone: 0, together: 0, unknown: 0, reasons: new Map<string, number>() }));
  const passed: number[] = [];
  const nearly: number[] = [];
  const loose = { columns, own, memory: null, slack: NEARLY };
  // What a line says exactly it says loosely too: only those that failed are looked at again.
  const failed: ScanLine[] = [];
  const isNear = ({ condition }: ScanLine, i: number): boolean => condition.evaluate(loose, i) === TRUE;
  const isAlmost = (i: number): boolean => (join === 'all' ? failed.every((line) => isNear(line, i)) : failed.some((line) => isNear(line, i)));
  const enabled = lines.some(({ on }) => on);
  for (const i of places) {
    let above: Truth = TRUE;
    let any: Truth = FALSE;
    failed.length = 0;
    lines.forEach((line, k) => {
      const { condition, on } = line;
      if (!on) return;
      const found = condition.evaluate(scope, i);
      const count = counts[k] as (typeof counts)[number];
      above = Math.min(above, found) as Truth;
      any = Math.max(any, found) as Truth;
      if (found === TRUE) count.alone++;
      else failed.push(line);
      if (above === TRUE) count.together++;
      if (found === UNKNOWN) {
        count.unknown++;
        const reason = condition.parts.find((part) => part.value(scope, i) === null)?.because ?? 'a first look';
        count.reasons.set(reason, (count.reasons.get(reason) ?? 0) + 1);
      }
    });
    if (!enabled) continue;
    if ((join === 'all' ? above : any) === TRUE) passed.push(i);
    else if (isAlmost(i)) nearly.push(i);
  }
  const listed = (found: readonly number[]): ScanItem[] => {
    const order = found.map((i) => ({ i, instrument: columns.instruments[i] as MarketColumns['instruments'][number] }));
    order.sort((a, b) => byText(a.instrument.ticker, b.instrument.ticker) || byText(a.instrument.venue, b.instrument.venue));
    return order.map(({ i, instrument }) => ({ instrument: instrument.id, values: lines.map(({ condition }) => condition.parts[0]?.value(scope, i) ?? null) }));
  };
  return {
    universe: places.length,
    lines: counts.map(({ reasons, ...count }) => ({ ...count, unknownBecause: commonest(reasons) })),
    items: listed(passed),
    almost: listed(nearly).slice(0, MOST_ALMOST),
  };
}

const byText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

const commonest = (reasons: ReadonlyMap<string, number>): string | null => [...reasons].sort(([, a], [, b]) => b - a)[0]?.[0] ?? null;
