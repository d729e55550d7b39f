import { expect } from 'chai';
import { ATR, BollingerBands, CCI, DonchianChannels, LinearRegression, MOM, OBV, ROC, RSI, SMA, StochasticOscillator, VWAP, WMA } from 'trading-signals';
import { Chance } from '../../src/core/random/index.ts';
import { STUDIES, StudySeries, lastDays, volumeProfile, type BarColumns, type Parameters } from '../../src/core/study/index.ts';

const SERIES = 10_000;
const BARS = 40;

interface Bar {
  readonly open: number;
  readonly high: number;
  readonly low: number;
  readonly close: number;
  readonly volume: number;
  readonly day: number;
}

const columnsOf = (bars: readonly Bar[]): BarColumns => {
  const column = (name: keyof Bar): Float64Array => Float64Array.from(bars, (bar) => bar[name]);
  return {
    length: bars.length,
    open: column('open'),
    high: column('high'),
    low: column('low'),
    close: column('close'),
    volume: column('volume'),
    day: column('day'),
  };
};

/** Bars that wander; every tenth series hardly moves, some bars stand still, days have a dozen bars. */
function randomBars(seed: number, count = BARS): Bar[] {
  const chance = new Chance(seed, 3);
  const step = seed % 10 === 0 ? 0.01 : 0.5 + chance.next();
  let price = 5 + 500 * chance.next();
  return Array.from({ length: count }, (_, i) => {
    const open = price;
    price = Math.max(1, price + (chance.next() < 0.1 ? 0 : (chance.next() - 0.5) * step));
    const reach = () => (chance.next() < 0.1 ? 0 : chance.next() * step * 0.5);
    return {
      open,
      close: price,
      high: Math.max(open, price) + reach(),
      low: Math.max(0.5, Math.min(open, price) - reach()),
      volume: Math.round(chance.next() * 1000),
      day: Math.floor(i / 12),
    };
  });
}

function compute(kind: string, bars: BarColumns, parameters: Parameters = {}): Record<string, number[]> {
  const definition = STUDIES.get(kind);
  if (!definition) throw new Error(`no study ${kind}`);
  const series = new StudySeries(definition, parameters);
  series.update(bars, 0);
  return Object.fromEntries(definition.lines.map(({ name }, i) => [name, [...series.line(i).subarray(0, bars.length)]]));
}

/** Equal to 1e-9 of the value, or of the largest input where the value is near 0; both without a value counts as equal. */
function same(given: number, wanted: number, largest: number, where: string): void {
  if (Number.isNaN(given) && Number.isNaN(wanted)) return;
  const close = Math.abs(given - wanted) <= Math.max(1e-9 * Math.abs(wanted), 1e-9 * largest);
  if (!close) expect.fail(`${where}: ${given} is not ${wanted}`);
}

type Line = (bars: readonly Bar[]) => number[];
interface Check {
  readonly study: string;
  readonly parameters: Parameters;
  /** Each line by name, made by somebody else. */
  readonly lines: Readonly<Record<string, Line>>;
}

const closes = (bars: readonly Bar[]): number[] => bars.map((bar) => bar.close);
const typical = (bar: Bar): number => (bar.high + bar.low + bar.close) / 3;
/** Feeds an independent indicator bar by bar. */
const fed =
  <T>(make: () => { update(value: never, replace: false): unknown }, feed: (bar: Bar) => unknown, read: (result: T) => number): Line =>
  (bars) => {
    const indicator = make();
    return bars.map((bar) => {
      const result = indicator.update(feed(bar) as never, false) as T | null;
      return result === null ? NaN : read(result);
    });
  };
const close = (bar: Bar): number => bar.close;
const number = (result: number): number => result;

/** Compared with an independent implementation. */
const INDEPENDENT: readonly Check[] = [
  { study: 'sma', parameters: { period: 5 }, lines: { average: fed(() => new SMA(5), close, number) } },
  { study: 'wma', parameters: { period: 6 }, lines: { average: fed(() => new WMA(6), close, number) } },
  {
    study: 'bollinger',
    parameters: { period: 7, deviations: 2 },
    lines: {
      upper: fed<{ upper: number }>(() => new BollingerBands(7, 2), close, (bands) => bands.upper),
      middle: fed<{ middle: number }>(() => new BollingerBands(7, 2), close, (bands) => bands.middle),
      lower: fed<{ lower: number }>(() => new BollingerBands(7, 2), close, (bands) => bands.lower),
    },
  },
  { study: 'atr', parameters: { period: 5 }, lines: { range: fed(() => new ATR(5), (bar) => bar, number) } },
  { study: 'rsi', parameters: { period: 6 }, lines: { strength: fed(() => new RSI(6), close, number) } },
  { study: 'cci', parameters: { period: 7 }, lines: { index: fed(() => new CCI(7), (bar) => bar, number) } },
  {
    study: 'donchian',
    parameters: { period: 6 },
    lines: {
      upper: fed<{ upper: number }>(() => new DonchianChannels(6), (bar) => bar, (bands) => bands.upper),
      lower: fed<{ lower: number }>(() => new DonchianChannels(6), (bar) => bar, (bands) => bands.lower),
    },
  },
  { study: 'momentum', parameters: { period: 4 }, lines: { momentum: fed(() => new MOM(4), close, number) } },
  { study: 'rate-of-change', parameters: { period: 4 }, lines: { percent: fed<number>(() => new ROC(4), close, (share) => share * 100) } },
  { study: 'obv', parameters: {}, lines: { volume: (bars) => fed(() => new OBV(2), (bar) => bar, number)(bars).map((value, i) => (i === 0 ? 0 : value)) } },
  { study: 'linear-regression', parameters: { period: 8 }, lines: { value: fed<{ prediction: number; slope: number }>(() => new LinearRegression(8), close, (line) => line.prediction - line.slope) } },
  {
    study: 'stochastic',
    parameters: { period: 5, smooth: 3, signal: 2 },
    lines: { D: fed<{ stochD: number }>(() => new StochasticOscillator({ kPeriod: 5, kSlowingPeriod: 3, dPeriod: 2 }), (bar) => bar, (both) => both.stochD) },
  },
]; // prettier-ignore

const mean = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length;

/** Exponential mean seeded with the plain mean: the independent implementation seeds with the first price. */
function plainEma(values: readonly number[], n: number): number[] {
  const out: number[] = [];
  values.forEach((value, i) => {
    const known = values.slice(0, i + 1).filter((one) => !Number.isNaN(one));
    if (known.length < n) out.push(NaN);
    else if (known.length === n) out.push(mean(known));
    else out.push((2 / (n + 1)) * value + (1 - 2 / (n + 1)) * (out[i - 1] as number));
  });
  return out;
}

/** Wilder's mean from index `start` on. */
function plainWilder(values: readonly number[], n: number, start: number): number[] {
  const out: number[] = [];
  values.forEach((value, i) => {
    if (i < start + n - 1) out.push(NaN);
    else if (i === start + n - 1) out.push(mean(values.slice(start, i + 1)));
    else out.push((out[i - 1] as number) + (value - (out[i - 1] as number)) / n);
  });
  return out;
}

const trueRanges = (bars: readonly Bar[]): number[] =>
  bars.map((bar, i) => {
    const before = bars[i - 1]?.close ?? bar.low;
    return i === 0 ? bar.high - bar.low : Math.max(bar.high, before) - Math.min(bar.low, before);
  });

function plainDirectional(bars: readonly Bar[], n: number): { plus: number[]; minus: number[]; adx: number[] } {
  const up = bars.map((bar, i) => Math.max(0, i === 0 ? 0 : bar.high - (bars[i - 1] as Bar).high));
  const down = bars.map((bar, i) => Math.max(0, i === 0 ? 0 : (bars[i - 1] as Bar).low - bar.low));
  const range = plainWilder(trueRanges(bars), n, 1);
  const smooth = (own: readonly number[], other: readonly number[]): number[] => plainWilder(own.map((value, i) => (value > (other[i] as number) ? value : 0)), n, 1); // prettier-ignore
  const share = (moved: readonly number[]): number[] => moved.map((value, i) => (range[i] === 0 ? 0 : (100 * value) / (range[i] as number)));
  const plus = share(smooth(up, down));
  const minus = share(smooth(down, up));
  const dx = plus.map((value, i) => (value + (minus[i] as number) === 0 ? 0 : (100 * Math.abs(value - (minus[i] as number))) / (value + (minus[i] as number))));
  return { plus, minus, adx: plainWilder(dx, n, n) };
}

/** Wilder's stop and reverse, told as a position that is held and turned. */
function plainParabolic(bars: readonly Bar[], step: number, most: number): number[] {
  const out: number[] = [NaN];
  const [first, second] = bars as [Bar, Bar];
  let long = second.close >= first.close;
  let stop = long ? Math.min(first.low, second.low) : Math.max(first.high, second.high);
  let best = long ? Math.max(first.high, second.high) : Math.min(first.low, second.low);
  let speed = step;
  out.push(stop);
  for (let i = 2; i < bars.length; i++) {
    const bar = bars[i] as Bar;
    const [a, b] = [bars[i - 1] as Bar, bars[i - 2] as Bar];
    stop += speed * (best - stop);
    stop = long ? Math.min(stop, a.low, b.low) : Math.max(stop, a.high, b.high);
    if (long ? bar.low < stop : bar.high > stop) {
      long = !long;
      stop = best;
      best = long ? bar.high : bar.low;
      speed = step;
    } else if (long ? bar.high > best : bar.low < best) {
      best = long ? bar.high : bar.low;
      speed = Math.min(most, speed + step);
    }
    out.push(stop);
  }
  return out;
}

/** Mean and deviation of the day so far, weighted by volume, from scratch at each bar. */
function plainVwap(bars: readonly Bar[], k: number): { vwap: number[]; upper: number[] } {
  const vwap: number[] = [];
  const upper: number[] = [];
  bars.forEach((bar, i) => {
    const today = bars.slice(0, i + 1).filter((one) => one.day === bar.day);
    const volume = today.reduce((sum, one) => sum + one.volume, 0);
    const middle = today.reduce((sum, one) => sum + one.volume * typical(one), 0) / volume;
    const spread = Math.sqrt(today.reduce((sum, one) => sum + one.volume * (typical(one) - middle) ** 2, 0) / volume);
    vwap.push(volume === 0 ? NaN : middle);
    upper.push(volume === 0 ? NaN : middle + k * spread);
  });
  return { vwap, upper };
}

function plainPivots(bars: readonly Bar[]): Record<string, number[]> {
  const of = (bar: Bar, give: (h: number, l: number, c: number) => number): number => {
    const before = bars.filter((one) => one.day === bar.day - 1);
    if (before.length === 0) return NaN;
    return give(Math.max(...before.map((one) => one.high)), Math.min(...before.map((one) => one.low)), (before[before.length - 1] as Bar).close);
  };
  const line = (give: (h: number, l: number, c: number) => number): number[] => bars.map((bar) => of(bar, give));
  return {
    P: line((h, l, c) => (h + l + c) / 3),
    R1: line((h, l, c) => (2 * (h + l + c)) / 3 - l),
    S1: line((h, l, c) => (2 * (h + l + c)) / 3 - h),
    R2: line((h, l, c) => (h + l + c) / 3 + (h - l)),
    S3: line((h, l, c) => (2 * (h + l + c)) / 3 - h - (h - l)),
  };
}

/**
 * Compared with a plain loop from the published formula, because the independent implementation seeds otherwise
 * (EMA, and so MACD and Keltner; directional movement; the parabolic's first stop) or has no such thing
 * (VWAP by the day with bands, pivots).
 */
const PLAIN: readonly Check[] = [
  { study: 'ema', parameters: { period: 5 }, lines: { average: (bars) => plainEma(closes(bars), 5) } },
  {
    study: 'macd',
    parameters: { fast: 4, slow: 9, signal: 3 },
    lines: {
      macd: (bars) => plainEma(closes(bars), 4).map((fast, i) => fast - (plainEma(closes(bars), 9)[i] as number)),
      signal: (bars) => {
        const slow = plainEma(closes(bars), 9);
        return plainEma(plainEma(closes(bars), 4).map((fast, i) => fast - (slow[i] as number)), 3); // prettier-ignore
      },
    },
  },
  {
    study: 'keltner',
    parameters: { period: 6, rangePeriod: 4, multiple: 1.5 },
    lines: {
      upper: (bars) => {
        const range = plainWilder(trueRanges(bars), 4, 0);
        return plainEma(closes(bars), 6).map((middle, i) => middle + 1.5 * (range[i] as number));
      },
    },
  },
  {
    study: 'adx',
    parameters: { period: 5 },
    lines: { '+DI': (bars) => plainDirectional(bars, 5).plus, '−DI': (bars) => plainDirectional(bars, 5).minus, ADX: (bars) => plainDirectional(bars, 5).adx },
  },
  { study: 'parabolic', parameters: { step: 0.02, most: 0.2 }, lines: { stop: (bars) => plainParabolic(bars, 0.02, 0.2) } },
  {
    study: 'vwap',
    parameters: { deviations: 2 },
    lines: { vwap: (bars) => plainVwap(bars, 2).vwap, upper: (bars) => plainVwap(bars, 2).upper },
  },
  { study: 'pivots', parameters: {}, lines: Object.fromEntries(['P', 'R1', 'S1', 'R2', 'S3'].map((name) => [name, (bars) => plainPivots(bars)[name] as number[]])) },
]; // prettier-ignore

function check({ study, parameters, lines }: Check): void {
  for (let seed = 1; seed <= SERIES; seed++) {
    const bars = randomBars(seed);
    const ours = compute(study, columnsOf(bars), parameters);
    // A percentage or an index has no price to be small against: its own size, or 100, is its scale.
    const largest = Math.max(100, ...bars.map((bar) => bar.high), study === 'obv' ? 1e5 : 0);
    for (const [name, theirs] of Object.entries(lines)) {
      const wanted = theirs(bars);
      for (let i = 0; i < bars.length; i++) same(ours[name]?.[i] as number, wanted[i] as number, largest, `${study} ${name}, series ${seed}, bar ${i}`);
    }
  }
}

describe('a study', function () {
  this.timeout(120_000);
  for (const one of INDEPENDENT) it(`agrees with an independent implementation over 10,000 series: ${one.study}`, () => check(one));
  for (const one of PLAIN) it(`agrees with its published formula over 10,000 series: ${one.study}`, () => check(one));

  it('agrees with an independent VWAP over a single day', () => {
    for (let seed = 1; seed <= 1000; seed++) {
      const bars = randomBars(seed).map((bar) => ({ ...bar, day: 0, volume: bar.volume + 1 }));
      const wanted = fed(() => new VWAP(), (bar) => bar, number)(bars); // prettier-ignore
      const ours = compute('vwap', columnsOf(bars), { deviations: 0 });
      wanted.forEach((value, i) => same(ours['vwap']?.[i] as number, value, 500, `vwap, series ${seed}, bar ${i}`));
    }
  });

  it('brought forward bar by bar equals the same computed whole, live bars and older bars included', () => {
    for (const [kind, definition] of STUDIES)
      for (let seed = 1; seed <= 60; seed++) {
        const bars = randomBars(seed, 90);
        const whole = new StudySeries(definition, {});
        whole.update(columnsOf(bars), 0);
        const grown = new StudySeries(definition, {});
        grown.update(columnsOf(bars.slice(0, 30)), 0);
        for (let count = 31; count <= bars.length; count++) {
          // The newest bar is first seen half made.
          const live = [...bars.slice(0, count - 1), { ...(bars[count - 1] as Bar), close: (bars[count - 1] as Bar).open, volume: 1 }];
          grown.update(columnsOf(live), count - 1);
          grown.update(columnsOf(bars.slice(0, count)), count - 1);
        }
        definition.lines.forEach((line, at) =>
          expect([...grown.line(at).subarray(0, 90)], `${kind} ${line.name}, series ${seed}`).to.deep.equal([...whole.line(at).subarray(0, 90)]),
        );
      }
  });

  it('counts bars, not the time between them', () => {
    const bars = columnsOf(randomBars(7));
    // Nothing in the columns but the day tells of time; a day later only what restarts with it differs.
    const later = { ...bars, day: bars.day.map((day) => day + 5) };
    for (const kind of STUDIES.keys()) expect(compute(kind, later), kind).to.deep.equal(compute(kind, bars));
  });
});

const flat = (count: number, price = 41.2): BarColumns =>
  columnsOf(Array.from({ length: count }, () => ({ open: price, high: price, low: price, close: price, volume: 10, day: 0 })));
const last = (values: readonly number[] | undefined): number => values?.[values.length - 1] ?? NaN;

describe('by the documented rule', () => {
  for (const [study, parameters, line, first] of [
    ['sma', { period: 5 }, 'average', 4],
    ['ema', { period: 5 }, 'average', 4],
    ['wma', { period: 5 }, 'average', 4],
    ['bollinger', { period: 5 }, 'upper', 4],
    ['linear-regression', { period: 5 }, 'value', 4],
    ['donchian', { period: 5 }, 'upper', 4],
    ['keltner', { period: 5, rangePeriod: 7 }, 'upper', 6],
    ['atr', { period: 5 }, 'range', 4],
    ['rsi', { period: 5 }, 'strength', 5],
    ['macd', { fast: 3, slow: 5, signal: 4 }, 'macd', 4],
    ['macd', { fast: 3, slow: 5, signal: 4 }, 'signal', 7],
    ['stochastic', { period: 5, smooth: 3, signal: 2 }, 'K', 6],
    ['stochastic', { period: 5, smooth: 3, signal: 2 }, 'D', 7],
    ['cci', { period: 5 }, 'index', 4],
    ['adx', { period: 5 }, '+DI', 5],
    ['adx', { period: 5 }, 'ADX', 9],
    ['momentum', { period: 5 }, 'momentum', 5],
    ['rate-of-change', { period: 5 }, 'percent', 5],
    ['parabolic', {}, 'stop', 1],
    ['vwap', {}, 'vwap', 0],
    ['obv', {}, 'volume', 0],
    ['pivots', {}, 'P', 12],
  ] as const)
    it(`${study} ${line} has its first value at bar ${first + 1}`, () => {
      const bars = randomBars(5).map((bar) => ({ ...bar, volume: bar.volume + 1 }));
      const values = compute(study, columnsOf(bars), parameters)[line] ?? [];
      expect(values.findIndex((value) => !Number.isNaN(value))).to.equal(first);
      expect(values.slice(first).some(Number.isNaN)).to.equal(false);
    });

  for (const [study, line, value] of [
    ['sma', 'average', 41.2],
    ['ema', 'average', 41.2],
    ['wma', 'average', 41.2],
    ['bollinger', 'upper', 41.2],
    ['keltner', 'lower', 41.2],
    ['donchian', 'middle', 41.2],
    ['linear-regression', 'value', 41.2],
    ['vwap', 'upper', 41.2],
    ['atr', 'range', 0],
    ['rsi', 'strength', 50],
    ['macd', 'signal', 0],
    ['stochastic', 'D', 50],
    ['cci', 'index', 0],
    ['adx', 'ADX', 0],
    ['adx', '+DI', 0],
    ['momentum', 'momentum', 0],
    ['rate-of-change', 'percent', 0],
    ['obv', 'volume', 0],
    ['parabolic', 'stop', 41.2],
  ] as const)
    it(`${study} ${line} of a price that never moves is ${value}`, () => expect(last(compute(study, flat(80))[line])).to.be.closeTo(value, 1e-9));

  it('RSI is 100 where nothing fell and 0 where nothing rose', () => {
    const way = (step: number): BarColumns =>
      columnsOf(Array.from({ length: 40 }, (_, i) => ({ open: 50, high: 60, low: 40, close: 50 + i * step, volume: 1, day: 0 })));
    expect(last(compute('rsi', way(0.1))['strength'])).to.equal(100);
    expect(last(compute('rsi', way(-0.1))['strength'])).to.equal(0);
  });

  it('rate of change from 0 has no value, and VWAP none before any volume', () => {
    const bars = columnsOf(Array.from({ length: 12 }, (_, i) => ({ open: 1, high: 2, low: 0, close: i === 0 ? 0 : 1, volume: i < 3 ? 0 : 5, day: 0 })));
    expect(compute('rate-of-change', bars, { period: 10 })['percent']?.[10]).to.be.NaN;
    expect(compute('vwap', bars)['vwap']?.slice(0, 4).map(Number.isNaN)).to.deep.equal([true, true, true, false]);
  });

  it('a parameter out of its range is taken at the nearest one', () => {
    const bars = columnsOf(randomBars(3));
    expect(compute('sma', bars, { period: 0 })).to.deep.equal(compute('sma', bars, { period: 1 }));
    expect(compute('sma', bars, { period: 4.4 })).to.deep.equal(compute('sma', bars, { period: 4 }));
    expect(compute('sma', bars, { period: NaN })).to.deep.equal(compute('sma', bars, {}));
  });
});

const ofCloses = (values: readonly number[]): BarColumns =>
  columnsOf(values.map((value) => ({ open: value, high: value, low: value, close: value, volume: 1, day: 0 })));

describe('a worked example from the literature', () => {
  it('relative strength over 14 bars', () => {
    const prices = [
      44.3389, 44.0902, 44.1497, 43.6124, 44.3278, 44.8264, 45.0955, 45.4245, 45.8433, 46.0826, 45.8931, 46.0328, 45.614, 46.282, 46.282, 46.0028, 46.0328,
      46.4116, 46.2222, 45.6439,
    ];
    const found = compute('rsi', ofCloses(prices))
      ['strength']?.slice(14)
      .map((value) => value.toFixed(2));
    expect(found).to.deep.equal(['70.53', '66.32', '66.55', '69.41', '66.36', '57.97']);
  });

  it('exponential average over 10 bars', () => {
    const prices = [22.27, 22.19, 22.08, 22.17, 22.18, 22.13, 22.23, 22.43, 22.24, 22.29, 22.15, 22.39, 22.38, 22.61, 23.36, 24.05, 23.75, 23.83, 23.95, 23.63];
    const found = compute('ema', ofCloses(prices), { period: 10 })
      ['average']?.slice(9)
      .map((value) => value.toFixed(2));
    expect(found).to.deep.equal(['22.22', '22.21', '22.24', '22.27', '22.33', '22.52', '22.80', '22.97', '23.13', '23.28', '23.34']);
  });

  it('plain and weighted average of 1 to 5', () => {
    expect(compute('sma', ofCloses([1, 2, 3, 4, 5]), { period: 3 })['average']?.slice(2)).to.deep.equal([2, 3, 4]);
    expect(last(compute('wma', ofCloses([1, 2, 3, 4, 5]), { period: 3 })['average'])).to.be.closeTo((3 * 5 + 2 * 4 + 3) / 6, 1e-12);
  });
});

describe('the volume profile', () => {
  const bars = columnsOf([
    { open: 10, high: 14, low: 10, close: 12, volume: 400, day: 0 },
    { open: 12, high: 12, low: 12, close: 12, volume: 50, day: 0 },
    { open: 12, high: 13, low: 11, close: 11, volume: 200, day: 1 },
  ]);

  it('spreads each bar’s volume over its range and loses none', () => {
    const found = volumeProfile(bars, 0, 2, 4);
    expect([...(found?.volume ?? [])]).to.deep.equal([100, 200, 250, 100]);
    expect(found?.most).to.equal(2);
  });

  it('is of the bars asked for, and nothing without volume', () => {
    expect([...(volumeProfile(bars, 2, 2, 2)?.volume ?? [])]).to.deep.equal([100, 100]);
    expect(volumeProfile({ ...bars, volume: new Float64Array(3) }, 0, 2, 4)).to.equal(null);
  });

  it('keeps the whole volume over random bars, whatever the rows', () => {
    for (let seed = 1; seed <= 500; seed++) {
      const random = columnsOf(randomBars(seed));
      const whole = random.volume.reduce((sum, volume) => sum + volume, 0);
      const sum = volumeProfile(random, 0, random.length - 1, 1 + (seed % 60))?.volume.reduce((total, volume) => total + volume, 0) ?? 0;
      expect(sum).to.be.closeTo(whole, 1e-6 * whole);
    }
  });

  it('the last two days are told apart by their trading day', () => {
    expect(lastDays(bars)).to.deep.equal({
      today: { first: 2, last: 2, high: 13, low: 11, close: 11 },
      before: { first: 0, last: 1, high: 14, low: 10, close: 12 },
    });
  });
});

describe('a study that says how many bars a value is made of', () => {
  const windowed = [...STUDIES.values()].filter((study) => study.window !== undefined);
  it('is one of those that forget', () => {
    expect(windowed.map(({ kind }) => kind).sort()).to.deep.equal(['bollinger', 'donchian', 'linear-regression', 'momentum', 'rate-of-change', 'sma', 'wma']);
  });

  for (const study of windowed) {
    const { kind, parameters } = study;
    it(`has the same value from that many bars as from all: ${kind}`, () => {
      for (let seed = 0; seed < 100; seed++) {
        const bars = randomBars(seed, 60);
        const chosen = Object.fromEntries(parameters.map(({ name, fallback }) => [name, name === 'period' ? 1 + (seed % 20) : fallback]));
        const count = study.window?.(chosen) ?? 0;
        const [whole, part] = [compute(kind, columnsOf(bars), chosen), compute(kind, columnsOf(bars.slice(-count)), chosen)];
        const largest = Math.max(...bars.map(({ high }) => high));
        for (const name of Object.keys(whole)) same(part[name]?.at(-1) as number, whole[name]?.at(-1) as number, largest, `${kind} ${name} ${seed}`);
      }
    });
  }
});
