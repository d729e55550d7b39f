import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import { asPrice, asQuantity, type Instrument } from '../src/core/instrument/index.ts';
import { parseCondition, readOrderPhrase } from '../src/core/language/index.ts';
import { NO_STATISTICS, addPrint, aggregate, barStart, countPrint, type Bar, type Quote } from '../src/core/market/index.ts';
import { impliedVolatility, valueOption, type OptionTerms } from '../src/core/options/index.ts';
import { Chance } from '../src/core/random/index.ts';
import { MarketColumns, NOTHING_OWN, barBlock, compileCondition, levelSeen, runScan, type LevelSide, type ScanLine } from '../src/core/scan/index.ts';
import { NaiveConditions, type PlainListing } from '../test/support/naive-conditions.ts';
import { phraseScene } from '../test/support/phrase-scene.ts';
import { ms, times, type Figure } from './table.ts';

const OPEN = Date.parse('2026-03-02T09:00:00.000Z');
const MINUTE = 60_000;
const INTERVALS = ['1m', '5m', '15m'] as const;
const GANET = FIXED_INSTRUMENTS.find(({ id }) => id === 'GANET.HALM') as Instrument;

const sharesOf = (count: number): Instrument[] => Array.from({ length: count }, (_, i) => ({ ...GANET, id: `S${i}.HALM`, ticker: `S${i}` }));

/** A morning of trades in a share, by the minute. */
function listing(instrument: Instrument, at: number, minutesLong: number): PlainListing {
  const chance = new Chance(at, 7);
  const day = { ...NO_STATISTICS };
  const minutes: Bar[] = [];
  let price = 4000 + chance.below(100);
  for (let i = 0; i < minutesLong; i++) {
    price += chance.below(7) - 3;
    const time = OPEN + i * MINUTE + 1000;
    countPrint(day, asPrice(price), asQuantity(100), time);
    addPrint(minutes, barStart(instrument.venue, '1m', time), asPrice(price), asQuantity(100));
  }
  const quote: Quote = {
    ...day,
    instrument: instrument.id,
    time: OPEN + minutesLong * MINUTE,
    state: 'open',
    bid: asPrice(price - 1),
    bidQuantity: asQuantity(100),
    ask: asPrice(price + 1),
    askQuantity: asQuantity(100),
    lastEver: asPrice(price),
    dayVolume: day.volume,
    previousSettlement: asPrice(4050),
    priceLimits: { lower: null, upper: null },
  };
  return { instrument, quote, minutes };
}

export const STUDIED = [
  'close on 1m > sma(20) on 1m',
  'close on 5m > sma(10) on 5m',
  'close on 15m > sma(3) on 15m',
  'ema(9) on 1m > sma(20) on 1m',
  'highest high over 10 bars on 5m > last',
  'lowest low over 10 bars on 1m < last',
  'sma(5) on 5m > sma(10) on 5m',
  'average close over 20 bars on 1m < last',
  'volume > 1000',
  'last > 39.50',
];
const PLAIN = [
  'last > 40',
  'bid > 39',
  'ask < 45',
  'high > 40',
  'low < 41',
  'volume > 10',
  'open > 39',
  'last < 43',
  'bid + ask > 79',
  'last between 39 and 44',
];

function linesOf(phrases: readonly string[], instruments: readonly Instrument[]): ScanLine[] {
  const known = new Map(instruments.map((one) => [one.id, one]));
  return phrases.map((phrase) => {
    const parsed = parseCondition(phrase);
    const made = parsed.ok ? compileCondition(parsed.value, { instrumentOf: (id) => known.get(id), listingsOf: () => [], fits: () => true }) : parsed;
    if (!made.ok) throw new Error(`${phrase}: ${made.error.message}`);
    return { condition: made.value, on: true };
  });
}

const timed = (work: () => void): number => {
  const from = performance.now();
  work();
  return performance.now() - from;
};
const best = (runs: number, work: () => void): number => Math.min(...Array.from({ length: runs }, () => timed(work)));

/** A scan over the demo's universe with studies on three intervals, against plain loops; and one of quote fields over many more. */
export function finding(): Figure[] {
  const instruments = sharesOf(1200);
  const listings = instruments.map((instrument, i) => listing(instrument, i, 240));
  const columns = new MarketColumns(instruments);
  columns.now = OPEN + 240 * MINUTE;
  listings.forEach(({ quote, minutes, instrument }, i) => {
    columns.look({ quote, previousHigh: null, previousLow: null, usualVolume: null });
    for (const interval of INTERVALS) columns.seriesOf(i, interval).take(barBlock(aggregate(instrument.venue, minutes, interval), instrument));
  });
  const lines = linesOf(STUDIED, instruments);
  const places = instruments.map((_, i) => i);
  const run = (): void => void runScan(lines, 'all', columns, places, NOTHING_OWN, null);
  const first = timed(run);
  const warm = best(5, run);
  // The naive one is slow: a twentieth of the universe, times twenty.
  const few = listings.filter((_, i) => i % 20 === 0);
  const naive = new NaiveConditions(few, columns.now);
  const conditions = STUDIED.flatMap((phrase) => {
    const parsed = parseCondition(phrase);
    return parsed.ok ? [parsed.value] : [];
  });
  const plain = 20 * timed(() => few.forEach((one) => conditions.forEach((condition) => naive.holds(condition, one))));
  return [
    {
      what: '1,200 instruments × 10 lines, studies on 3 intervals, warm',
      value: ms(warm),
      baseline: `${ms(plain)} plain loops`,
      ratio: `1/${Math.round(plain / warm)}`,
      wanted: '≤ 60 ms, ≥ 20× faster',
    },
    { what: 'the same, first time, bars at hand', value: ms(first), baseline: `${ms(warm)} warm`, ratio: times(first / warm), wanted: '–' },
    ...wide(),
    ...levels(),
  ];
}

function wide(): Figure[] {
  const instruments = sharesOf(100_000);
  const columns = new MarketColumns(instruments);
  const one = listing(GANET, 1, 30).quote;
  instruments.forEach(({ id }, i) => columns.quote({ ...one, instrument: id, lastEver: asPrice(4000 + (i % 400)) }));
  const lines = linesOf(PLAIN, instruments);
  const places = instruments.map((_, i) => i);
  const took = best(3, () => void runScan(lines, 'all', columns, places, NOTHING_OWN, null));
  const last = columns.column('last');
  const pass = best(3, () => {
    let count = 0;
    for (let k = 0; k < 10; k++) for (let i = 0; i < last.length; i++) if ((last[i] ?? 0) > 41 + k) count++;
    if (count < 0) throw new Error('never');
  });
  return [
    {
      what: '100,000 instruments × 10 lines of quote and day fields',
      value: ms(took),
      baseline: `${ms(pass)} ten bare passes`,
      ratio: times(took / pass),
      wanted: '≤ 300 ms',
    },
  ];
}

function levels(): Figure[] {
  const count = 1000;
  const sides: LevelSide[] = Array.from({ length: count }, () => null);
  const rows = 2000;
  const row = (price: number): void => {
    for (let i = 0; i < count; i++) sides[i] = levelSeen('either', sides[i] ?? null, 3500 + i, price).side;
  };
  const took = best(3, () => {
    for (let r = 0; r < rows; r++) row(3900 + (r % 50));
  });
  const each = (took / rows) * 1000;
  return [
    {
      what: 'a row judged by 1,000 price alerts',
      value: `${each.toFixed(2)} µs`,
      baseline: `${((each / count) * 1000).toFixed(1)} ns one alert`,
      ratio: times(count),
      wanted: '≤ 20 µs',
    },
  ];
}

/** Phrases read against a book, against splitting the same text. */
export function phrases(): Figure[] {
  const texts = [
    'buy 500 at bid - 2 ticks',
    'sell 100 GANET.HALM stop 41.00 limit - 10 ticks',
    'buy risking 200 to low - 2 ticks',
    'buy 100 at 41, until 2026-03-04 14:30, with "two step", as half',
  ];
  const count = 20_000;
  const scene = phraseScene(GANET, listing(GANET, 1, 240).quote, ['two step']);
  const read = best(3, () => {
    for (let i = 0; i < count; i++) {
      const found = readOrderPhrase(texts[i % texts.length] as string, scene);
      if (!found.ok) throw new Error(found.error.message);
    }
  });
  const split = best(3, () => {
    let words = 0;
    for (let i = 0; i < count; i++) words += (texts[i % texts.length] as string).split(/[ ,]+/).length;
    if (words < 0) throw new Error('never');
  });
  return [
    {
      what: 'an order phrase parsed and resolved',
      value: `${((read / count) * 1000).toFixed(2)} µs`,
      baseline: `${((split / count) * 1000).toFixed(2)} µs splitting it`,
      ratio: times(read / split),
      wanted: '≤ 20 µs',
    },
  ];
}

/** Values with all greeks, and volatilities from prices. */
export function options(): Figure[] {
  const count = 10_000;
  const chance = new Chance(5);
  const terms = Array.from({ length: count }, (): OptionTerms & { volatility: number } => ({
    right: chance.next() < 0.5 ? 'call' : 'put',
    spot: 40,
    strike: 30 + 20 * chance.next(),
    years: 0.05 + chance.next(),
    rate: 0.02,
    dividendYield: 0.01,
    volatility: 0.1 + 0.5 * chance.next(),
  }));
  const valued = best(5, () => {
    for (const one of terms) valueOption(one, one.volatility);
  });
  const logs = best(5, () => {
    let sum = 0;
    for (const { spot, strike, years } of terms) sum += Math.log(spot / strike) + Math.sqrt(years) + Math.exp(-years);
    if (Number.isNaN(sum)) throw new Error('never');
  });
  const prices = terms.map((one) => valueOption(one, one.volatility).price);
  const solved = best(3, () => {
    for (const [i, one] of terms.entries()) impliedVolatility(one, prices[i] as number);
  });
  return [
    {
      what: '10,000 options valued with all greeks',
      value: ms(valued),
      baseline: `${ms(logs)} their logarithms and roots`,
      ratio: times(valued / logs),
      wanted: '≤ 4 ms',
    },
    { what: '10,000 implied volatilities', value: ms(solved), baseline: `${ms(valued)} as many values`, ratio: times(solved / valued), wanted: '≤ 25 ms' },
  ];
}
