import { factor, parameter, period, priceAt, source, type Parameters, type StudyDefinition } from './definition.ts';
import { deviationAt, emaAt, slidingMeanAt } from './recurrences.ts';

const BARS = period(20);
const line = (name: string) => ({ name, style: 'line' }) as const;
const window = (parameters: Parameters): number => parameter(parameters, BARS);
type Columns = readonly [Float64Array, Float64Array, ...Float64Array[]];

/** Plain mean of the last n prices. */
export const sma: StudyDefinition = {
  kind: 'sma',
  name: 'Simple average',
  about: 'the mean of the last prices',
  place: 'price',
  parameters: [BARS, source],
  lines: [line('average')],
  hidden: 2,
  window,
  compute(bars, parameters, columns, from) {
    const [out, price, sums] = columns as unknown as [Float64Array, Float64Array, Float64Array];
    const n = parameter(parameters, BARS);
    const of = parameter(parameters, source);
    for (let i = from; i < bars.length; i++) {
      price[i] = priceAt(bars, of, i);
      out[i] = slidingMeanAt(price, sums, n, i);
    }
  },
};

/** Exponential mean, weight 2 ÷ (n + 1), seeded with the plain mean of the first n. */
export const ema: StudyDefinition = {
  kind: 'ema',
  name: 'Exponential average',
  about: 'a mean that weighs newer prices more, fading',
  place: 'price',
  parameters: [BARS, source],
  lines: [line('average')],
  hidden: 1,
  compute(bars, parameters, columns, from) {
    const [out, price] = columns as Columns;
    const n = parameter(parameters, BARS);
    const of = parameter(parameters, source);
    for (let i = from; i < bars.length; i++) {
      price[i] = priceAt(bars, of, i);
      out[i] = emaAt(price, out, n, 0, i);
    }
  },
};

/** Weights n, n − 1, … 1 from the newest price back, divided by their sum. */
export const wma: StudyDefinition = {
  kind: 'wma',
  name: 'Weighted average',
  about: 'a mean whose weights rise to the newest price',
  place: 'price',
  parameters: [BARS, source],
  lines: [line('average')],
  hidden: 1,
  window,
  compute(bars, parameters, columns, from) {
    const [out, price] = columns as Columns;
    const n = parameter(parameters, BARS);
    const of = parameter(parameters, source);
    const weights = (n * (n + 1)) / 2;
    for (let i = from; i < bars.length; i++) {
      price[i] = priceAt(bars, of, i);
      if (i < n - 1) {
        out[i] = NaN;
        continue;
      }
      let sum = 0;
      for (let weight = 1, j = i - n + 1; j <= i; j++, weight++) sum += (price[j] as number) * weight;
      out[i] = sum / weights;
    }
  },
};

const DEVIATIONS = factor('deviations', 'Deviations', 2);

/** Bollinger (Bollinger on Bollinger Bands, 2001): the plain mean and k population standard deviations about it. */
export const bollinger: StudyDefinition = {
  kind: 'bollinger',
  name: 'Bollinger bands',
  about: 'an average, with bands of standard deviations',
  place: 'price',
  parameters: [BARS, DEVIATIONS, source],
  lines: [line('upper'), line('middle'), line('lower')],
  hidden: 2,
  window,
  compute(bars, parameters, columns, from) {
    const [upper, middle, lower, price, sums] = columns as unknown as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
    const n = parameter(parameters, BARS);
    const k = parameter(parameters, DEVIATIONS);
    const of = parameter(parameters, source);
    for (let i = from; i < bars.length; i++) {
      price[i] = priceAt(bars, of, i);
      const mean = slidingMeanAt(price, sums, n, i);
      const wide = Number.isNaN(mean) ? NaN : k * deviationAt(price, n, mean, i);
      middle[i] = mean;
      upper[i] = mean + wide;
      lower[i] = mean - wide;
    }
  },
};

/** Least-squares line through the last n prices, its value at the newest, and k deviations of the residuals about it. */
export const linearRegression: StudyDefinition = {
  kind: 'linear-regression',
  name: 'Linear regression',
  about: 'the straight line through the last prices, at its end',
  place: 'price',
  parameters: [BARS, factor('deviations', 'Deviations', 0, 0), source],
  lines: [line('value'), line('upper'), line('lower')],
  hidden: 2,
  window,
  compute(bars, parameters, columns, from) {
    const [value, upper, lower, price, sums] = columns as unknown as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
    const n = parameter(parameters, BARS);
    const k = Math.max(0, parameters['deviations'] ?? 0);
    const of = parameter(parameters, source);
    const meanX = (n - 1) / 2;
    const spreadX = (n * (n * n - 1)) / 12;
    for (let i = from; i < bars.length; i++) {
      price[i] = priceAt(bars, of, i);
      value[i] = upper[i] = lower[i] = NaN;
      const meanY = slidingMeanAt(price, sums, n, i);
      if (i < n - 1) continue;
      const first = i - n + 1;
      let both = 0;
      // Places about their mean sum to nothing, so the prices need not be taken about theirs.
      for (let j = 0; j < n; j++) both += (j - meanX) * (price[first + j] as number);
      const slope = n === 1 ? 0 : both / spreadX;
      value[i] = meanY + slope * (n - 1 - meanX);
      if (k === 0) continue;
      let squares = 0;
      for (let j = 0; j < n; j++) squares += ((price[first + j] as number) - meanY - slope * (j - meanX)) ** 2;
      const wide = k * Math.sqrt(squares / n);
      upper[i] = (value[i] as number) + wide;
      lower[i] = (value[i] as number) - wide;
    }
  },
};
