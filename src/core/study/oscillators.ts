import { parameter, period, priceAt, source, typicalPrice, type StudyDefinition } from './definition.ts';
import { emaAt, highestAt, lowestAt, meanAt, slidingMeanAt, wilderAt } from './recurrences.ts';

const line = (name: string) => ({ name, style: 'line' }) as const;

const RSI_BARS = period(14);

/** Wilder's relative strength (1978). Without any move, 0 ÷ 0, it is 50. */
export const rsi: StudyDefinition = {
  kind: 'rsi',
  name: 'Relative strength',
  about: 'rises against falls, 0 to 100',
  place: 'own',
  parameters: [RSI_BARS, source],
  lines: [line('strength')],
  hidden: 4,
  levels: [30, 70],
  compute(bars, parameters, columns, from) {
    const [out, gain, loss, gains, losses] = columns as unknown as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
    const n = parameter(parameters, RSI_BARS);
    const of = parameter(parameters, source);
    for (let i = from; i < bars.length; i++) {
      const moved = i === 0 ? 0 : priceAt(bars, of, i) - priceAt(bars, of, i - 1);
      gain[i] = Math.max(0, moved);
      loss[i] = Math.max(0, -moved);
      const up = (gains[i] = wilderAt(gain, gains, n, 1, i));
      const down = (losses[i] = wilderAt(loss, losses, n, 1, i));
      out[i] = up + down === 0 ? 50 : (100 * up) / (up + down);
    }
  },
};

const FAST = period(12, 'fast', 'Fast bars');
const SLOW = period(26, 'slow', 'Slow bars');
const SIGNAL = period(9, 'signal', 'Signal bars');

/** Difference of two exponential means of the close, its own exponential mean, and their difference. */
export const macd: StudyDefinition = {
  kind: 'macd',
  name: 'MACD',
  about: 'two averages apart, and their own average',
  unit: 'price',
  place: 'own',
  parameters: [FAST, SLOW, SIGNAL],
  lines: [{ name: 'difference', style: 'histogram' }, line('macd'), line('signal')],
  hidden: 2,
  levels: [0],
  compute(bars, parameters, columns, from) {
    const [difference, out, signal, fast, slow] = columns as unknown as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
    const f = parameter(parameters, FAST);
    const s = parameter(parameters, SLOW);
    const g = parameter(parameters, SIGNAL);
    const start = Math.max(f, s) - 1;
    for (let i = from; i < bars.length; i++) {
      fast[i] = emaAt(bars.close, fast, f, 0, i);
      slow[i] = emaAt(bars.close, slow, s, 0, i);
      out[i] = (fast[i] as number) - (slow[i] as number);
      signal[i] = emaAt(out, signal, g, start, i);
      difference[i] = (out[i] as number) - (signal[i] as number);
    }
  },
};

const K_BARS = period(14);
const K_MEAN = period(3, 'smooth', 'Smoothed over');
const D_MEAN = period(3, 'signal', 'Signal bars');

/** Lane's stochastic: where the close lies between the low and high of n bars, smoothed. In a range of 0 it is 50. */
export const stochastic: StudyDefinition = {
  kind: 'stochastic',
  name: 'Stochastic',
  about: 'where the close lies between high and low',
  place: 'own',
  parameters: [K_BARS, K_MEAN, D_MEAN],
  lines: [line('K'), line('D')],
  hidden: 3,
  levels: [20, 80],
  compute(bars, parameters, columns, from) {
    const [k, d, raw, highs, lows] = columns as unknown as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
    const n = parameter(parameters, K_BARS);
    const m = parameter(parameters, K_MEAN);
    const g = parameter(parameters, D_MEAN);
    for (let i = from; i < bars.length; i++) {
      const high = highestAt(bars.high, highs, n, i);
      const low = lowestAt(bars.low, lows, n, i);
      raw[i] = i < n - 1 ? NaN : high === low ? 50 : (100 * ((bars.close[i] as number) - low)) / (high - low);
      k[i] = meanAt(raw, m, n - 1, i);
      d[i] = meanAt(k, g, n + m - 2, i);
    }
  },
};

const CCI_BARS = period(20);

/** Lambert's commodity channel index (Commodities, 1980): distance of the typical price from its mean in 0.015 mean deviations; 0 where these are 0. */
export const cci: StudyDefinition = {
  kind: 'cci',
  name: 'Commodity channel index',
  about: 'distance from the mean in usual distances',
  place: 'own',
  parameters: [CCI_BARS],
  lines: [line('index')],
  hidden: 2,
  levels: [-100, 100],
  compute(bars, parameters, columns, from) {
    const [out, price, sums] = columns as unknown as [Float64Array, Float64Array, Float64Array];
    const n = parameter(parameters, CCI_BARS);
    for (let i = from; i < bars.length; i++) {
      price[i] = typicalPrice(bars, i);
      const mean = slidingMeanAt(price, sums, n, i);
      let away = 0;
      if (i >= n - 1) for (let j = i - n + 1; j <= i; j++) away += Math.abs((price[j] as number) - mean);
      // Equal prices differ from their mean by rounding only.
      const flat = away <= n * Math.abs(mean) * 1e-12;
      out[i] = i < n - 1 ? NaN : flat ? 0 : ((price[i] as number) - mean) / ((0.015 * away) / n);
    }
  },
};

const BACK = period(10);

/** The close less the close n bars before. */
export const momentum: StudyDefinition = {
  kind: 'momentum',
  name: 'Momentum',
  about: 'price less the price some bars ago',
  unit: 'price',
  place: 'own',
  parameters: [BACK, source],
  lines: [line('momentum')],
  hidden: 0,
  window: (parameters) => parameter(parameters, BACK) + 1,
  levels: [0],
  compute(bars, parameters, columns, from) {
    const out = columns[0] as Float64Array;
    const n = parameter(parameters, BACK);
    const of = parameter(parameters, source);
    for (let i = from; i < bars.length; i++) out[i] = i < n ? NaN : priceAt(bars, of, i) - priceAt(bars, of, i - n);
  },
};

/** The change over n bars in percent of the price then; without a value where that was 0. */
export const rateOfChange: StudyDefinition = {
  kind: 'rate-of-change',
  name: 'Rate of change',
  about: 'percent gained since some bars ago',
  place: 'own',
  parameters: [BACK, source],
  lines: [line('percent')],
  hidden: 0,
  window: (parameters) => parameter(parameters, BACK) + 1,
  levels: [0],
  compute(bars, parameters, columns, from) {
    const out = columns[0] as Float64Array;
    const n = parameter(parameters, BACK);
    const of = parameter(parameters, source);
    for (let i = from; i < bars.length; i++) {
      const then = i < n ? 0 : priceAt(bars, of, i - n);
      out[i] = then === 0 ? NaN : (100 * (priceAt(bars, of, i) - then)) / then;
    }
  },
};

/** Granville's on-balance volume: volume added on a higher close, taken off on a lower one; begins at 0. */
export const obv: StudyDefinition = {
  kind: 'obv',
  name: 'On-balance volume',
  about: 'volume added on rises, taken on falls',
  unit: 'volume',
  place: 'own',
  parameters: [],
  lines: [line('volume')],
  hidden: 0,
  compute(bars, _parameters, columns, from) {
    const out = columns[0] as Float64Array;
    for (let i = from; i < bars.length; i++) {
      const moved = i === 0 ? 0 : Math.sign((bars.close[i] as number) - (bars.close[i - 1] as number));
      out[i] = (i === 0 ? 0 : (out[i - 1] as number)) + moved * (bars.volume[i] as number);
    }
  },
};
