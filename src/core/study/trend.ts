import { factor, parameter, period, trueRange, type StudyDefinition } from './definition.ts';
import { wilderAt } from './recurrences.ts';

const line = (name: string) => ({ name, style: 'line' }) as const;
const ADX_BARS = period(14);

/**
 * Wilder's directional movement (1978): +DI and −DI as smoothed movement in percent of the smoothed true range,
 * and ADX, the smoothed difference of the two in percent of their sum. Without movement, 0 ÷ 0, each is 0.
 */
export const adx: StudyDefinition = {
  kind: 'adx',
  name: 'Directional movement',
  about: 'strength of the move up and down',
  place: 'own',
  parameters: [ADX_BARS],
  lines: [line('ADX'), line('+DI'), line('−DI')],
  hidden: 7,
  levels: [25],
  compute(bars, parameters, columns, from) {
    const [out, plus, minus, up, down, range, ups, downs, ranges, dx] = columns as unknown as Float64Array[];
    if (!out || !plus || !minus || !up || !down || !range || !ups || !downs || !ranges || !dx) return;
    const n = parameter(parameters, ADX_BARS);
    for (let i = from; i < bars.length; i++) {
      const rose = i === 0 ? 0 : (bars.high[i] as number) - (bars.high[i - 1] as number);
      const fell = i === 0 ? 0 : (bars.low[i - 1] as number) - (bars.low[i] as number);
      up[i] = rose > fell && rose > 0 ? rose : 0;
      down[i] = fell > rose && fell > 0 ? fell : 0;
      range[i] = trueRange(bars, i);
      ups[i] = wilderAt(up, ups, n, 1, i);
      downs[i] = wilderAt(down, downs, n, 1, i);
      ranges[i] = wilderAt(range, ranges, n, 1, i);
      plus[i] = ranges[i] === 0 ? 0 : (100 * (ups[i] as number)) / (ranges[i] as number);
      minus[i] = ranges[i] === 0 ? 0 : (100 * (downs[i] as number)) / (ranges[i] as number);
      const sum = (plus[i] as number) + (minus[i] as number);
      dx[i] = sum === 0 ? 0 : (100 * Math.abs((plus[i] as number) - (minus[i] as number))) / sum;
      out[i] = wilderAt(dx, out, n, n, i);
    }
  },
};

const STEP = factor('step', 'Step', 0.02, 0.001, 1);
const MOST = factor('most', 'At most', 0.2, 0.001, 1);

/**
 * Wilder's parabolic stop and reverse (1978). The first bar has none; the second begins long where it closes no
 * lower than the first, from the lower of the two lows, else short from the higher of the two highs.
 */
export const parabolic: StudyDefinition = {
  kind: 'parabolic',
  name: 'Parabolic stop and reverse',
  about: 'a stop that closes in on the move',
  place: 'price',
  parameters: [STEP, MOST],
  lines: [{ name: 'stop', style: 'dots' }],
  hidden: 3,
  compute(bars, parameters, columns, from) {
    const [stop, way, extreme, speed] = columns as unknown as [Float64Array, Float64Array, Float64Array, Float64Array];
    const step = parameter(parameters, STEP);
    const most = parameter(parameters, MOST);
    const high = (i: number): number => bars.high[i] as number;
    const low = (i: number): number => bars.low[i] as number;
    for (let i = from; i < bars.length; i++) {
      if (i === 0) {
        stop[i] = way[i] = extreme[i] = speed[i] = NaN;
        continue;
      }
      if (i === 1) {
        const long = (bars.close[1] as number) >= (bars.close[0] as number);
        way[i] = long ? 1 : -1;
        stop[i] = long ? Math.min(low(0), low(1)) : Math.max(high(0), high(1));
        extreme[i] = long ? Math.max(high(0), high(1)) : Math.min(low(0), low(1));
        speed[i] = step;
        continue;
      }
      const long = way[i - 1] === 1;
      const best = extreme[i - 1] as number;
      let next = (stop[i - 1] as number) + (speed[i - 1] as number) * (best - (stop[i - 1] as number));
      next = long ? Math.min(next, low(i - 1), low(i - 2)) : Math.max(next, high(i - 1), high(i - 2));
      const turned = long ? low(i) < next : high(i) > next;
      if (turned) {
        way[i] = long ? -1 : 1;
        stop[i] = best;
        extreme[i] = long ? low(i) : high(i);
        speed[i] = step;
      } else {
        const further = long ? high(i) > best : low(i) < best;
        way[i] = way[i - 1] as number;
        stop[i] = next;
        extreme[i] = further ? (long ? high(i) : low(i)) : best;
        speed[i] = further ? Math.min(most, (speed[i - 1] as number) + step) : (speed[i - 1] as number);
      }
    }
  },
};
