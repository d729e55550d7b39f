import type { MarketColumns } from './columns.ts';
import type { CompiledCondition } from './compile.ts';
import type { EventMemory } from './evaluation.ts';

/** Nothing was said of a place yet, or something of it has changed since. */
export const UNSAID = 255;

const MINUTE_MS = 60_000;

/**
 * What a line said of each place, as long as nothing that it looks at has changed: the quote, the bars and the settled
 * days of the place, those of instruments that it names, and the minute.
 */
export class Said {
  /** A truth or {@link UNSAID}, a place each: exactly, and where comparisons hold a share too early. */
  readonly truths: Uint8Array;
  readonly loose: Uint8Array;
  /** Why it is unknown, where that was said. */
  readonly reasons: (string | null)[];
  private upTo = 0;
  private minute = -1;

  constructor(places: number) {
    this.truths = new Uint8Array(places).fill(UNSAID);
    this.loose = new Uint8Array(places).fill(UNSAID);
    this.reasons = Array.from({ length: places }, () => null);
  }

  /** Forgets what may not be so any more. */
  bring({ instruments }: CompiledCondition, { now, changes, changedAt, place }: MarketColumns): void {
    const { truths, loose, reasons, upTo } = this;
    const minute = Math.floor(now / MINUTE_MS);
    const all = minute !== this.minute || instruments.some((id) => (changedAt[place.get(id) ?? -1] ?? 0) > upTo);
    for (let i = 0; i < truths.length; i++) {
      if (!all && (changedAt[i] as number) <= upTo) continue;
      truths[i] = loose[i] = UNSAID;
      reasons[i] = null;
    }
    this.minute = minute;
    this.upTo = changes;
  }
}

/** What a line of a scan that is kept running remembers from one evaluation to the next. */
export class LineMemory {
  readonly events: EventMemory = new Map();
  private said: Said | null = null;

  /** What it said where that still holds; null of a line that looks at more than the market, or at what was before. */
  brought(condition: CompiledCondition, columns: MarketColumns): Said | null {
    if (!condition.followsMarket) return null;
    this.said ??= new Said(columns.instruments.length);
    this.said.bring(condition, columns);
    return this.said;
  }
}
