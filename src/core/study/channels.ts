import { factor, parameter, period, trueRange, typicalPrice, type StudyDefinition } from './definition.ts';
import { emaAt, highestAt, lowestAt, wilderAt } from './recurrences.ts';

const BARS = period(20);
const RANGE_BARS = period(10, 'rangePeriod', 'Range bars');
const line = (name: string) => ({ name, style: 'line' }) as const;

/** Keltner: an exponential mean of the close and k average true ranges about it. */
export const keltner: StudyDefinition = {
  kind: 'keltner',
  name: 'Keltner channel',
  about: 'an average, with bands of true range',
  place: 'price',
  parameters: [BARS, RANGE_BARS, factor('multiple', 'Ranges', 2)],
  lines: [line('upper'), line('middle'), line('lower')],
  hidden: 2,
  compute(bars, parameters, columns, from) {
    const [upper, middle, lower, range, average] = columns as unknown as Float64Array[] & { length: 5 };
    if (!upper || !middle || !lower || !range || !average) return;
    const n = parameter(parameters, BARS);
    const m = parameter(parameters, RANGE_BARS);
    const k = parameters['multiple'] ?? 2;
    for (let i = from; i < bars.length; i++) {
      range[i] = trueRange(bars, i);
      const wide = (average[i] = wilderAt(range, average, m, 0, i)) * k;
      const mean = (middle[i] = emaAt(bars.close, middle, n, 0, i));
      upper[i] = mean + wide;
      lower[i] = mean - wide;
    }
  },
};

/** Donchian: the highest high and lowest low of the last n bars, the newest included, and their middle. */
export const donchian: StudyDefinition = {
  kind: 'donchian',
  name: 'Donchian channel',
  about: 'highest high and lowest low of the last bars',
  place: 'price',
  parameters: [BARS],
  lines: [line('upper'), line('middle'), line('lower')],
  hidden: 2,
  window: (parameters) => parameter(parameters, BARS),
  compute(bars, parameters, columns, from) {
    const [upper, middle, lower, highs, lows] = columns as unknown as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
    const n = parameter(parameters, BARS);
    for (let i = from; i < bars.length; i++) {
      const known = i >= n - 1;
      const high = highestAt(bars.high, highs, n, i);
      const low = lowestAt(bars.low, lows, n, i);
      upper[i] = known ? high : NaN;
      lower[i] = known ? low : NaN;
      middle[i] = ((upper[i] as number) + (lower[i] as number)) / 2;
    }
  },
};

/**
 * VWAP of the trading day from (high + low + close) ÷ 3 of each bar, and k volume-weighted standard deviations
 * about it. It begins anew with each day; before any volume it has no value.
 */
export const vwap: StudyDefinition = {
  kind: 'vwap',
  name: 'VWAP with bands',
  about: 'the day’s price weighted by volume',
  place: 'price',
  parameters: [factor('deviations', 'Deviations', 2, 0)],
  lines: [line('upper'), line('vwap'), line('lower')],
  hidden: 2,
  compute(bars, parameters, columns, from) {
    const [upper, middle, lower, volume, squares] = columns as unknown as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
    const k = Math.max(0, parameters['deviations'] ?? 2);
    for (let i = from; i < bars.length; i++) {
      const begins = i === 0 || bars.day[i] !== bars.day[i - 1];
      const weight = bars.volume[i] as number;
      const price = typicalPrice(bars, i);
      const before = begins ? 0 : (volume[i - 1] as number);
      const mean = begins || before === 0 ? NaN : (middle[i - 1] as number);
      const total = before + weight;
      volume[i] = total;
      // West's weighted update (1979): no large squares are subtracted from one another.
      const moved = Number.isNaN(mean) ? (weight > 0 ? price : NaN) : weight > 0 ? mean + ((price - mean) * weight) / total : mean;
      middle[i] = moved;
      squares[i] = (begins ? 0 : (squares[i - 1] as number)) + (Number.isNaN(mean) || weight === 0 ? 0 : weight * (price - mean) * (price - moved));
      const wide = total > 0 ? k * Math.sqrt(Math.max(0, squares[i] as number) / total) : NaN;
      upper[i] = moved + wide;
      lower[i] = moved - wide;
    }
  },
};

/** Average true range with Wilder's mean. */
export const atr: StudyDefinition = {
  kind: 'atr',
  name: 'Average true range',
  about: 'how far a bar usually reaches',
  unit: 'price',
  place: 'own',
  parameters: [period(14)],
  lines: [line('range')],
  hidden: 1,
  compute(bars, parameters, columns, from) {
    const [out, range] = columns as unknown as [Float64Array, Float64Array];
    const n = parameter(parameters, period(14));
    for (let i = from; i < bars.length; i++) {
      range[i] = trueRange(bars, i);
      out[i] = wilderAt(range, out, n, 0, i);
    }
  },
};
