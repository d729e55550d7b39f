import {
  ADX,
  ATR,
  BollingerBands,
  CCI,
  DonchianChannels,
  EMA,
  KeltnerChannels,
  LinearRegression,
  MACD,
  MOM,
  OBV,
  PSAR,
  ROC,
  RSI,
  SMA,
  StochasticOscillator,
  VWAP,
  WMA,
} from 'trading-signals';
import { Chance } from '../src/core/random/index.ts';
import { STUDIES, StudySeries, type BarColumns } from '../src/core/study/index.ts';
import { ms, times, type Figure } from './table.ts';

const SERIES = 1000;
const BARS = 500;

function randomBars(seed: number): BarColumns {
  const chance = new Chance(seed, 11);
  const column = (): Float64Array => new Float64Array(BARS);
  const bars = { length: BARS, open: column(), high: column(), low: column(), close: column(), volume: column(), day: column() };
  let price = 100;
  for (let i = 0; i < BARS; i++) {
    bars.open[i] = price;
    price += chance.next() - 0.5;
    bars.close[i] = price;
    bars.high[i] = Math.max(bars.open[i] as number, price) + chance.next();
    bars.low[i] = Math.min(bars.open[i] as number, price) - chance.next();
    bars.volume[i] = 1 + chance.below(1000);
    bars.day[i] = Math.floor(i / 102);
  }
  return bars;
}

type Fed = { update(value: never, replace: false): unknown };
const CLOSES: readonly (() => Fed)[] = [
  () => new SMA(20),
  () => new EMA(20),
  () => new WMA(20),
  () => new BollingerBands(20, 2),
  () => new RSI(14),
  () => new MACD(new EMA(12), new EMA(26), new EMA(9)),
  () => new MOM(10),
  () => new ROC(10),
  () => new LinearRegression(20),
];
const CANDLES: readonly (() => Fed)[] = [
  () => new VWAP(),
  () => new KeltnerChannels({ emaInterval: 20, atrInterval: 10, multiplier: 2 }),
  () => new DonchianChannels(20),
  () => new ATR(14),
  () => new StochasticOscillator({ kPeriod: 14, kSlowingPeriod: 3, dPeriod: 3 }),
  () => new CCI(20),
  () => new ADX(14),
  () => new OBV(2),
  () => new PSAR({ accelerationStep: 0.02, accelerationMax: 0.2 }),
];
/** The same studies of ours: those the other package has too. */
const BOTH = [
  'sma', 'ema', 'wma', 'bollinger', 'rsi', 'macd', 'momentum', 'rate-of-change', 'linear-regression', 'vwap', 'keltner', 'donchian', 'atr',
  'stochastic', 'cci', 'adx', 'obv', 'parabolic',
]; // prettier-ignore

/** Each study's columns serve one series after the other, as a scan over many instruments uses them. */
function ours(all: readonly BarColumns[], kinds: readonly string[]): number {
  const used = kinds.flatMap((kind) => {
    const definition = STUDIES.get(kind);
    return definition ? [new StudySeries(definition, {})] : [];
  });
  const from = performance.now();
  for (const bars of all) for (const study of used) study.update(bars, 0);
  return performance.now() - from;
}

function theirs(all: readonly BarColumns[]): number {
  const candles = all.map((bars) =>
    Array.from({ length: BARS }, (_, i) => ({ open: bars.open[i], high: bars.high[i], low: bars.low[i], close: bars.close[i], volume: bars.volume[i] })),
  );
  const from = performance.now();
  for (const series of candles) {
    for (const make of CLOSES) {
      const indicator = make();
      for (const { close } of series) indicator.update(close as never, false);
    }
    for (const make of CANDLES) {
      const indicator = make();
      for (const candle of series) indicator.update(candle as never, false);
    }
  }
  return performance.now() - from;
}

export function studies(): Figure[] {
  const all = Array.from({ length: SERIES }, (_, i) => randomBars(i));
  ours(all.slice(0, 50), BOTH);
  theirs(all.slice(0, 50));
  const own = ours(all, BOTH);
  const other = theirs(all);
  const every = ours(all, [...STUDIES.keys()]);
  return [
    {
      what: `${BOTH.length} studies over 1,000 series of 500 bars`,
      value: ms(own),
      baseline: `${ms(other)} trading-signals`,
      ratio: times(other / own),
      wanted: '≥ 10×',
    },
    {
      what: `all ${STUDIES.size} studies over the same`,
      value: ms(every),
      baseline: `${ms(other)} trading-signals, ${BOTH.length} of them`,
      ratio: times(other / every),
      wanted: '',
    },
  ];
}
