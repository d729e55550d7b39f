/** Bars as studies read them: typed arrays of one length, oldest first. `length` may be less than the arrays'. */
export interface BarColumns {
  readonly length: number;
  readonly open: Float64Array;
  readonly high: Float64Array;
  readonly low: Float64Array;
  readonly close: Float64Array;
  readonly volume: Float64Array;
  /** The trading day each bar belongs to: what restarts with the session looks here. */
  readonly day: Float64Array;
}

export interface StudyParameter {
  readonly name: string;
  readonly words: string;
  readonly fallback: number;
  readonly least: number;
  readonly most: number;
  readonly whole: boolean;
}

export type Parameters = Readonly<Record<string, number>>;

/** One line of a study. A band's two edges may be filled between. */
export interface StudyLine {
  readonly name: string;
  readonly style: 'line' | 'histogram' | 'dots' | 'steps';
}

/**
 * A study: what it takes, which lines it gives, how each value follows from the bars.
 *
 * `compute` fills the columns from index `from` to the end. A value may depend on bars up to its own index and
 * on columns before it, never on later ones: so a study brought forward bar by bar equals one computed whole.
 * Where a line has no value yet (warm-up) it is NaN. Bars stand side by side whatever time lies between them:
 * a gap in time is none to a study, but for those that restart with the trading day.
 */
export interface StudyDefinition {
  readonly kind: string;
  readonly name: string;
  /** What it shows, in one line. */
  readonly about: string;
  /** On the prices, or in a plot of its own below them. */
  readonly place: 'price' | 'own';
  readonly parameters: readonly StudyParameter[];
  readonly lines: readonly StudyLine[];
  /** Columns besides the lines that hold what the next value needs. */
  readonly hidden: number;
  /** What its values are measured in; a bare number where it says nothing. */
  readonly unit?: 'price' | 'volume';
  /** How many bars a value is made of, where no bar before them is in it; all of them where it says nothing. */
  window?(parameters: Parameters): number;
  /** Fixed levels worth a hairline, such as 30 and 70. */
  readonly levels?: readonly number[];
  compute(bars: BarColumns, parameters: Parameters, columns: readonly Float64Array[], from: number): void;
}

export const SOURCES = ['close', 'open', 'high', 'low', '(high + low) ÷ 2', '(high + low + close) ÷ 3'] as const;

export const period = (fallback: number, name = 'period', words = 'Bars'): StudyParameter => ({ name, words, fallback, least: 1, most: 1000, whole: true });
export const factor = (name: string, words: string, fallback: number, least = 0.1, most = 20): StudyParameter => ({
  name,
  words,
  fallback,
  least,
  most,
  whole: false,
});
/** Which price a study is of, as an index into {@link SOURCES}. */
export const source: StudyParameter = { name: 'source', words: 'Of', fallback: 0, least: 0, most: SOURCES.length - 1, whole: true };

/** The price a study is of, at an index. */
export function priceAt(bars: BarColumns, of: number, i: number): number {
  switch (of) {
    case 1:
      return bars.open[i] as number;
    case 2:
      return bars.high[i] as number;
    case 3:
      return bars.low[i] as number;
    case 4:
      return ((bars.high[i] as number) + (bars.low[i] as number)) / 2;
    case 5:
      return typicalPrice(bars, i);
    default:
      return bars.close[i] as number;
  }
}

export const typicalPrice = (bars: BarColumns, i: number): number => ((bars.high[i] as number) + (bars.low[i] as number) + (bars.close[i] as number)) / 3;

/** Wilder's true range (New Concepts in Technical Trading Systems, 1978); of the first bar high − low. */
export function trueRange(bars: BarColumns, i: number): number {
  const high = bars.high[i] as number;
  const low = bars.low[i] as number;
  if (i === 0) return high - low;
  const before = bars.close[i - 1] as number;
  return Math.max(high - low, Math.abs(high - before), Math.abs(low - before));
}

export const parameter = (parameters: Parameters, of: StudyParameter): number => {
  const given = parameters[of.name] ?? of.fallback;
  const whole = of.whole ? Math.round(given) : given;
  return Math.min(of.most, Math.max(of.least, Number.isFinite(whole) ? whole : of.fallback));
};
