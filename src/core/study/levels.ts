import type { BarColumns, StudyDefinition } from './definition.ts';

const step = (name: string) => ({ name, style: 'steps' }) as const;

/**
 * Pivot levels of a trading day from the high H, low L and close C of the one before, as floor traders reckon
 * them: P = (H + L + C) ÷ 3, R1 = 2P − L, S1 = 2P − H, R2 = P + H − L, S2 = P − H + L, R3 = R1 + H − L,
 * S3 = S1 − H + L. The first day in the bars has none.
 */
export const pivots: StudyDefinition = {
  kind: 'pivots',
  name: 'Pivot levels',
  about: 'levels from the day before',
  place: 'price',
  parameters: [],
  lines: [step('R3'), step('R2'), step('R1'), step('P'), step('S1'), step('S2'), step('S3')],
  hidden: 5,
  compute(bars, _parameters, columns, from) {
    const [r3, r2, r1, p, s1, s2, s3, high, low, beforeHigh, beforeLow, beforeClose] = columns as unknown as Float64Array[];
    if (!r3 || !r2 || !r1 || !p || !s1 || !s2 || !s3 || !high || !low || !beforeHigh || !beforeLow || !beforeClose) return;
    for (let i = from; i < bars.length; i++) {
      const begins = i === 0 || bars.day[i] !== bars.day[i - 1];
      high[i] = begins ? (bars.high[i] as number) : Math.max(high[i - 1] as number, bars.high[i] as number);
      low[i] = begins ? (bars.low[i] as number) : Math.min(low[i - 1] as number, bars.low[i] as number);
      beforeHigh[i] = i === 0 ? NaN : begins ? (high[i - 1] as number) : (beforeHigh[i - 1] as number);
      beforeLow[i] = i === 0 ? NaN : begins ? (low[i - 1] as number) : (beforeLow[i - 1] as number);
      beforeClose[i] = i === 0 ? NaN : begins ? (bars.close[i - 1] as number) : (beforeClose[i - 1] as number);
      const h = beforeHigh[i] as number;
      const l = beforeLow[i] as number;
      const middle = (h + l + (beforeClose[i] as number)) / 3;
      p[i] = middle;
      r1[i] = 2 * middle - l;
      s1[i] = 2 * middle - h;
      r2[i] = middle + h - l;
      s2[i] = middle - h + l;
      r3[i] = (r1[i] as number) + h - l;
      s3[i] = (s1[i] as number) - h + l;
    }
  },
};

/** The figures of one trading day within the bars. */
export interface DaySpan {
  readonly first: number;
  readonly last: number;
  readonly high: number;
  readonly low: number;
  readonly close: number;
}

/** The newest trading day in the bars and the one before, each null where the bars don't reach. */
export function lastDays(bars: BarColumns): { today: DaySpan | null; before: DaySpan | null } {
  const span = (last: number): DaySpan | null => {
    if (last < 0) return null;
    let first = last;
    let high = -Infinity;
    let low = Infinity;
    for (let i = last; i >= 0 && bars.day[i] === bars.day[last]; i--) {
      first = i;
      high = Math.max(high, bars.high[i] as number);
      low = Math.min(low, bars.low[i] as number);
    }
    return { first, last, high, low, close: bars.close[last] as number };
  };
  const today = span(bars.length - 1);
  return { today, before: today ? span(today.first - 1) : null };
}

/** Volume by price over some bars. */
export interface VolumeProfile {
  /** Lower bound of the lowest row. */
  readonly from: number;
  /** Height of a row in price. */
  readonly step: number;
  readonly volume: Float64Array;
  /** The row with most volume. */
  readonly most: number;
}

/**
 * Volume by price of the bars in view: each bar's volume spread evenly over its range from low to high.
 *
 * @param rows how many rows the range in view is cut into
 * @returns null without bars or volume
 */
export function volumeProfile(bars: BarColumns, first: number, last: number, rows: number): VolumeProfile | null {
  let high = -Infinity;
  let low = Infinity;
  for (let i = first; i <= last; i++) {
    high = Math.max(high, bars.high[i] as number);
    low = Math.min(low, bars.low[i] as number);
  }
  if (!(high >= low)) return null;
  const step = high === low ? 1 : (high - low) / rows;
  const volume = new Float64Array(rows);
  const rowOf = (price: number): number => Math.max(0, Math.min(rows - 1, Math.floor((price - low) / step)));
  for (let i = first; i <= last; i++) {
    const top = bars.high[i] as number;
    const bottom = bars.low[i] as number;
    const whole = bars.volume[i] as number;
    const from = rowOf(bottom);
    const to = rowOf(top);
    if (from === to || top === bottom) {
      volume[from] = (volume[from] as number) + whole;
      continue;
    }
    for (let row = from; row <= to; row++) {
      const covered = Math.min(top, low + (row + 1) * step) - Math.max(bottom, low + row * step);
      volume[row] = (volume[row] as number) + (whole * Math.max(0, covered)) / (top - bottom);
    }
  }
  let most = 0;
  for (let row = 1; row < rows; row++) if ((volume[row] as number) > (volume[most] as number)) most = row;
  return (volume[most] as number) > 0 ? { from: low, step, volume, most } : null;
}
