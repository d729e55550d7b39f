import { expect } from 'chai';
import fc from 'fast-check';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { asPrice, asQuantity, type Instrument } from '../../src/core/instrument/index.ts';
import { parseCondition } from '../../src/core/language/index.ts';
import {
  NO_STATISTICS,
  addPrint,
  aggregate,
  barStart,
  countPrint,
  openBetween,
  type Bar,
  type DayStatistics,
  type Quote,
} from '../../src/core/market/index.ts';
import { decimalText } from '../../src/core/number/index.ts';
import {
  MarketColumns,
  NOTHING_OWN,
  TRUE,
  UNKNOWN,
  barBlock,
  compileCondition,
  headlineHas,
  levelSeen,
  lineLevel,
  mayFire,
  nextScheduled,
  LineMemory,
  runScan,
  type CompiledCondition,
  type LevelSide,
} from '../../src/core/scan/index.ts';
import { NaiveConditions, type PlainListing } from '../support/naive-conditions.ts';

const RUNS = Number(process.env['KAVIX_RUNS'] ?? 2000);
const OPEN = Date.parse('2026-03-02T09:00:00.000Z');
const IDS = ['GANET.HALM', 'KELPA.HALM', 'BRINE.HALM'];
const INSTRUMENTS = IDS.map((id) => FIXED_INSTRUMENTS.find((one) => one.id === id) as Instrument);
const GANET = INSTRUMENTS[0] as Instrument;

const SCENE = {
  instrumentOf: (id: string) => INSTRUMENTS.find((one) => one.id === id),
  listingsOf: (ticker: string) => INSTRUMENTS.filter((one) => one.ticker === ticker),
  fits: () => true,
};

function compiled(phrase: string): CompiledCondition {
  const parsed = parseCondition(phrase);
  const made = parsed.ok ? compileCondition(parsed.value, SCENE) : parsed;
  if (!made.ok) throw new Error(`${phrase}: ${made.error.message}`);
  return made.value;
}

function errorIn(phrase: string): { word: string; message: string } {
  const parsed = parseCondition(phrase);
  const made = parsed.ok ? compileCondition(parsed.value, SCENE) : parsed;
  if (made.ok) throw new Error(`${phrase} is read`);
  return { word: phrase.slice(made.error.from, made.error.to), message: made.error.message };
}

interface Trade {
  readonly at: number;
  readonly of: number;
  readonly price: number;
  readonly quantity: number;
}

/** A listing's market as trades make it. */
function listing(instrument: Instrument, trades: readonly Trade[], state: Quote['state'] = 'open'): PlainListing {
  const day: DayStatistics = { ...NO_STATISTICS };
  const minutes: Bar[] = [];
  for (const { at, price, quantity } of trades) {
    countPrint(day, asPrice(price), asQuantity(quantity), at);
    addPrint(minutes, barStart(instrument.venue, '1m', at), asPrice(price), asQuantity(quantity));
  }
  const last = trades[trades.length - 1]?.price ?? null;
  const around = last === null ? null : asPrice(last);
  const quote: Quote = {
    ...day,
    instrument: instrument.id,
    time: OPEN,
    state,
    bid: around === null ? null : asPrice(around - 10),
    bidQuantity: null,
    ask: around === null ? null : asPrice(around + 10),
    askQuantity: null,
    lastEver: around,
    dayVolume: day.volume,
    previousSettlement: null,
    priceLimits: { lower: null, upper: null },
  };
  return { instrument, quote, minutes };
}

const INTERVALS = ['1m', '5m', '1d'] as const;

function look(columns: MarketColumns, { instrument, quote, minutes }: PlainListing): void {
  columns.look({ quote, previousHigh: null, previousLow: null, usualVolume: null });
  const place = columns.place.get(instrument.id) as number;
  for (const interval of INTERVALS) {
    const bars = aggregate(instrument.venue, minutes, interval);
    columns.takeBars(interval, Uint32Array.of(place), { counts: Uint32Array.of(bars.length), block: barBlock(bars, instrument) });
  }
}

const trade: fc.Arbitrary<Trade> = fc.record({
  at: fc.integer({ min: 0, max: 40 * 60_000 }),
  of: fc.integer({ min: 0, max: IDS.length - 1 }),
  price: fc.integer({ min: 4000, max: 4060 }),
  quantity: fc.integer({ min: 1, max: 50 }),
});

const pick = (...of: string[]): fc.Arbitrary<string> => fc.constantFrom(...of);
const priceText = fc.oneof(
  pick('last', 'bid', 'ask', 'high', 'low', 'close on 1m', 'close on 5m', 'high on 5m 1 bars ago', 'sma(3) on 1m', 'ema(2) on 1m', 'sma(2) on 5m 1 bars ago'),
  pick(
    'highest high over 3 bars on 1m',
    'lowest low over 2 bars on 5m',
    'average close over 4 bars on 1m',
    'bid + ask - last',
    '(bid + ask) / 2',
    'last x 1.001',
    '40.30',
    '- last + 81',
  ),
);
const clauseText = fc.oneof(
  fc.tuple(priceText, pick('<', '<=', '>', '>='), priceText).map((words) => words.join(' ')),
  fc.tuple(priceText, pick('between'), priceText, pick('and'), priceText).map((words) => words.join(' ')),
  fc
    .tuple(
      pick('close on 1m', 'sma(2) on 1m', 'last'),
      pick('rises above', 'falls below', 'crosses', 'returns from below', 'returns from above'),
      pick('sma(3) on 1m', 'high on 1m 1 bars ago'),
      pick('', 'within 3 bars'),
    )
    .map((words) => words.filter(Boolean).join(' ')),
  fc.tuple(pick('close on 1m', 'ema(2) on 1m'), pick('turns up', 'turns down'), pick('', 'within 2 bars')).map((words) => words.filter(Boolean).join(' ')),
  pick('halted', 'open now', 'volume > 100', 'sum of volume over 3 bars on 1m > 60'),
);
const phraseText: fc.Arbitrary<string> = fc.letrec<{ condition: string }>((tie) => ({
  condition: fc.oneof(
    { maxDepth: 2 },
    clauseText,
    fc.tuple(tie('condition'), pick('and', 'or'), tie('condition')).map(([a, join, b]) => `(${a}) ${join} (${b})`),
    tie('condition').map((inner) => `not (${inner})`),
  ),
})).condition;

describe('a condition', () => {
  it('is what a plain evaluation over bars and quotes gives, unknown included', () => {
    const seen = new Set<string>();
    let [told, tied] = [0, 0];
    const near = { at: 0, of: 0, quantity: 1 };
    const meets: Trade[] = [4056, 4058, 4027].map((price, k) => ({ ...near, at: k * 60_000, price }));
    fc.assert(
      fc.property(phraseText, fc.array(trade, { maxLength: 60 }), fc.integer({ min: 0, max: 45 * 60_000 }), (phrase, all, elapsed) => {
        const trades = all.filter(({ at }) => at <= elapsed).sort((a, b) => a.at - b.at);
        const listings = INSTRUMENTS.map((instrument, i) =>
          listing(
            instrument,
            trades.filter(({ of }) => of === i).map((one) => ({ ...one, at: OPEN + one.at })),
            i === 2 ? 'halted' : 'open',
          ),
        );
        const columns = new MarketColumns(INSTRUMENTS);
        for (const one of listings) look(columns, one);
        columns.now = OPEN + elapsed;
        const { condition, evaluate } = compiled(phrase);
        listings.forEach((one, i) => {
          const naive = new NaiveConditions(listings, columns.now);
          const expected = naive.holds(condition, one);
          told++;
          if (naive.tied) {
            tied++;
            return;
          }
          const found = evaluate({ columns, own: NOTHING_OWN, memory: null }, i);
          seen.add(String(expected));
          expect(found === UNKNOWN ? null : found === TRUE, `${phrase} of ${one.instrument.id}`).to.equal(expected);
        });
      }),
      { numRuns: RUNS, examples: [['ema(2) on 1m <= ask', meets, 120_000]] },
    );
    expect(seen).to.have.all.keys('true', 'false', 'null');
    expect(tied / told, 'ties of doubles are rare')
      .to.be.greaterThan(0)
      .and.lessThan(0.05);
  });

  it('is the same trade by trade as over the whole', () => {
    fc.assert(
      fc.property(phraseText, fc.array(trade, { minLength: 1, maxLength: 40 }), (phrase, all) => {
        const { evaluate } = compiled(phrase);
        const trades = all.map((one) => ({ ...one, of: 0, at: OPEN + one.at })).sort((a, b) => a.at - b.at);
        const live = new MarketColumns(INSTRUMENTS);
        look(live, listing(GANET, []));
        for (const [k, one] of trades.entries()) {
          const so = listing(GANET, trades.slice(0, k + 1));
          live.now = one.at;
          live.quote(so.quote);
          live.trade(GANET.id, one.at, one.price / 100, one.quantity);
          const whole = new MarketColumns(INSTRUMENTS);
          look(whole, so);
          whole.now = one.at;
          const scope = { own: NOTHING_OWN, memory: null };
          expect(evaluate({ ...scope, columns: live }, 0), phrase).to.equal(evaluate({ ...scope, columns: whole }, 0));
        }
      }),
      { numRuns: Math.ceil(RUNS / 8) },
    );
  });

  it('refuses what does not fit in type at its second value, naming both', () => {
    expect(errorIn('last > volume')).to.deep.equal({ word: 'volume', message: "a quantity can't stand beside a price" });
    expect(errorIn('last > 2 %').word).to.equal('2 %');
    expect(errorIn('volume > 3 ticks').message).to.match(/price.*quantity/);
    expect(errorIn('kind is 3').word).to.equal('3');
    expect(errorIn('kind > share').message).to.match(/word/);
    expect(errorIn('change % = 2 %').message).to.match(/whole numbers/);
    expect(errorIn('close > 41').message).to.match(/last.*close on 1d/);
    expect(errorIn('turnover on 1m > 3').message).to.match(/no bars/);
    expect(errorIn('NOPES.HALM last > 1').word).to.equal('NOPES.HALM');
  });

  it('takes the one interval of its clause for what names none', () => {
    const columns = new MarketColumns(INSTRUMENTS);
    look(
      columns,
      listing(
        GANET,
        [0, 1, 2, 3].map((k) => ({ at: OPEN + k * 60_000, of: 0, price: 4000 + k * 10, quantity: 1 })),
      ),
    );
    columns.now = OPEN + 3.5 * 60_000;
    const value = (phrase: string): (string | null)[] => compiled(phrase).parts.map((part) => part.value({ columns, own: NOTHING_OWN, memory: null }, 0));
    expect(value('close > sma(2) on 1m')).to.deep.equal(['40.3', '40.25']);
    expect(value('open > sma(2) on 1m')).to.deep.equal(['40', '40.25']);
    expect(value('sma(2) > 1')).to.deep.equal([null]);
  });

  it('is true from the close of a bar until the next interval ends, traded or not', () => {
    const { evaluate } = compiled('close on 1m rises above 40.05');
    const columns = new MarketColumns(INSTRUMENTS);
    const trades = [4000, 4010].map((price, k) => ({ at: OPEN + k * 60_000, of: 0, price, quantity: 1 }));
    look(columns, listing(GANET, trades));
    const at = (seconds: number): number => {
      columns.now = OPEN + seconds * 1000;
      return evaluate({ columns, own: NOTHING_OWN, memory: null }, 0);
    };
    expect([60, 119, 120, 179, 180].map((second) => at(second) === TRUE)).to.deep.equal([false, false, true, true, false]);
  });

  it('judges events without bars from one look to the next, the first never', () => {
    const { evaluate } = compiled('last rises above 40.05');
    const columns = new MarketColumns(INSTRUMENTS);
    const memory = new Map();
    const seen = [4010, 4000, 4005, 4006, 4007].map((price) => {
      columns.quote(listing(GANET, [{ at: OPEN, of: 0, price, quantity: 1 }]).quote);
      return evaluate({ columns, own: NOTHING_OWN, memory }, 0) === TRUE;
    });
    expect(seen).to.deep.equal([false, false, false, true, false]);
    expect(evaluate({ columns, own: NOTHING_OWN, memory: null }, 0)).to.equal(UNKNOWN);
  });

  it('compares prices exactly where sums of doubles would not', () => {
    const columns = new MarketColumns(INSTRUMENTS);
    columns.quote(listing(GANET, [{ at: OPEN, of: 0, price: 4121, quantity: 1 }]).quote);
    const holds = (phrase: string): boolean => compiled(phrase).evaluate({ columns, own: NOTHING_OWN, memory: null }, 0) === TRUE;
    expect(0.1 + 0.2 > 0.3).to.equal(true);
    expect(holds('last = 41.21')).to.equal(true);
    expect(holds('last - 41 = 0.21')).to.equal(true);
    expect(holds('last > 41.2100000001')).to.equal(false);
    expect(holds('last > 41.2099999999')).to.equal(true);
  });
});

describe('a scan', () => {
  it('counts each line alone, together with those above, and what is unknown with the commonest reason', () => {
    const columns = new MarketColumns(INSTRUMENTS);
    [4100, 999, null].forEach((price, i) => {
      const instrument = INSTRUMENTS[i] as Instrument;
      look(columns, listing(instrument, price === null ? [] : [{ at: OPEN, of: i, price: i === 1 ? price * 10 : price, quantity: 5 }]));
    });
    const lines = ['last > 10', 'volume >= 5', 'last < 20'].map((phrase, k) => ({ condition: compiled(phrase), on: k !== 2 }));
    const all = runScan(lines, 'all', columns, [0, 1, 2], NOTHING_OWN, null);
    expect(all.lines.map(({ alone, together, unknown }) => [alone, together, unknown])).to.deep.equal([
      [1, 1, 1],
      [2, 1, 0],
      [0, 0, 0],
    ]);
    expect(all.lines[0]?.unknownBecause).to.equal('no trade yet');
    expect(all.items).to.deep.equal([{ instrument: 'GANET.HALM', values: ['41', '5', '41'] }]);
    expect(runScan(lines, 'any', columns, [0, 1, 2], NOTHING_OWN, null).items.map(({ instrument }) => instrument)).to.deep.equal(['GANET.HALM', 'KELPA.HALM']);
  });

  it('remembers for each of its lines apart what an event without bars saw before', () => {
    const columns = new MarketColumns(INSTRUMENTS);
    const lines = ['last rises above 40', 'last rises above 50'].map((phrase) => ({ condition: compiled(phrase), on: true }));
    const memory = lines.map(() => new LineMemory());
    const alone = (price: number): number[] => {
      look(columns, listing(INSTRUMENTS[0] as Instrument, [{ at: OPEN, of: 0, price, quantity: 5 }]));
      return runScan(lines, 'any', columns, [0], NOTHING_OWN, memory).lines.map((line) => line.alone);
    };
    expect([3900, 4500, 4500, 5500, 3900, 5500].map(alone)).to.deep.equal([
      [0, 0],
      [1, 0],
      [0, 0],
      [0, 1],
      [0, 0],
      [1, 1],
    ]);
  });

  it('that is kept running says after every change what it would say anew', () => {
    /** Remembers what events saw, and looks at everything each time. */
    class Forgetful extends LineMemory {
      override brought(): null {
        return null;
      }
    }
    const oneLine = fc.oneof(
      { weight: 4, arbitrary: phraseText },
      {
        weight: 1,
        arbitrary: pick(
          'last rises above 40.30',
          'held',
          'not has orders',
          'last > KELPA last',
          'KELPA sma(2) on 1m > 40.20 and last > 40.10',
          'change over 2 minutes > 0 %',
        ),
      },
    );
    const change = fc.oneof(
      { weight: 6, arbitrary: fc.record({ kind: fc.constant('trade' as const), of: fc.nat(IDS.length - 1), price: fc.integer({ min: 4000, max: 4060 }) }) },
      { weight: 2, arbitrary: fc.record({ kind: fc.constant('time' as const), passed: fc.integer({ min: 1, max: 90_000 }) }) },
      { weight: 1, arbitrary: fc.record({ kind: fc.constant('state' as const), of: fc.nat(IDS.length - 1) }) },
      { weight: 1, arbitrary: fc.record({ kind: fc.constant('own' as const), of: fc.nat(IDS.length - 1) }) },
    );
    let [told, kept] = [0, 0];
    fc.assert(
      fc.property(fc.array(oneLine, { minLength: 1, maxLength: 4 }), fc.array(change, { maxLength: 40 }), pick('all', 'any'), (phrases, changes, join) => {
        const looks = phrases.map(() => 0);
        const lines = phrases.map((phrase, k) => {
          const condition = compiled(phrase);
          const evaluate: CompiledCondition['evaluate'] = (scope, i) => {
            if (scope.memory && !(scope.memory as { plain?: true }).plain) looks[k] = (looks[k] as number) + 1;
            return condition.evaluate(scope, i);
          };
          return { condition: { ...condition, evaluate }, on: true };
        });
        const columns = new MarketColumns(INSTRUMENTS);
        const trades = INSTRUMENTS.map((): Trade[] => []);
        const states = INSTRUMENTS.map((): Quote['state'] => 'open');
        const held = new Set<string>();
        columns.now = OPEN;
        INSTRUMENTS.forEach((instrument) => look(columns, listing(instrument, [])));
        const remembers = lines.map(() => new LineMemory());
        const forgets = lines.map(() => Object.assign(new Forgetful(), { events: Object.assign(new Map(), { plain: true }) as Forgetful['events'] }));
        const places = INSTRUMENTS.map((_, i) => i);
        for (const one of changes) {
          if (one.kind === 'time') columns.now += one.passed;
          else if (one.kind === 'own') held.has(IDS[one.of] ?? '') ? held.delete(IDS[one.of] ?? '') : held.add(IDS[one.of] ?? '');
          else {
            const instrument = INSTRUMENTS[one.of] as Instrument;
            if (one.kind === 'trade') trades[one.of]?.push({ at: columns.now, of: one.of, price: one.price, quantity: 5 });
            else states[one.of] = states[one.of] === 'open' ? 'halted' : 'open';
            look(columns, listing(instrument, trades[one.of] ?? [], states[one.of]));
          }
          const own = { ...NOTHING_OWN, held };
          const so = runScan(lines, join as 'all', columns, places, own, remembers);
          expect(so, phrases.join(' | ')).to.deep.equal(runScan(lines, join as 'all', columns, places, own, forgets));
        }
        told += lines.length * changes.length * places.length;
        kept += looks.reduce((sum, count) => sum + count, 0);
      }),
      { numRuns: Math.ceil(RUNS / 8) },
    );
    expect(kept / told, 'it looks at what changed').to.be.lessThan(0.75);
  });

  it('lists what passes by ticker, then venue, whatever order the universe comes in', () => {
    const columns = new MarketColumns(INSTRUMENTS);
    INSTRUMENTS.forEach((instrument, i) => look(columns, listing(instrument, [{ at: OPEN, of: i, price: 4100, quantity: 5 }])));
    const places = INSTRUMENTS.map((_, i) => i);
    const found = (of: readonly number[]): string[] =>
      runScan([{ condition: compiled('volume >= 5'), on: true }], 'all', columns, of, NOTHING_OWN, null).items.map(({ instrument }) => instrument);
    const expected = [...INSTRUMENTS].sort((a, b) => (a.ticker === b.ticker ? (a.venue < b.venue ? -1 : 1) : a.ticker < b.ticker ? -1 : 1)).map(({ id }) => id);
    expect(found(places)).to.deep.equal(expected);
    expect(found([...places].reverse())).to.deep.equal(expected);
  });

  it('names what nearly passes: comparisons a twentieth too early, denials a twentieth too late, equality never', () => {
    const columns = new MarketColumns(INSTRUMENTS);
    [4100, 9999, 1000].forEach((price, i) =>
      look(columns, listing(INSTRUMENTS[i] as Instrument, [{ at: OPEN, of: i, price: i === 1 ? price : price, quantity: 5 }])),
    );
    const almost = (phrase: string): string[] =>
      runScan([{ condition: compiled(phrase), on: true }], 'all', columns, [0], NOTHING_OWN, null).almost.map(({ instrument }) => instrument);
    expect(
      ['last > 42', 'last > 43.2', 'last > 40', 'last = 42', 'last between 42 and 50', 'not last < 42', 'not last < 43.2'].map(
        (phrase) => almost(phrase).length,
      ),
    ).to.deep.equal([1, 0, 0, 0, 1, 1, 0]);
    const lines = ['last > 42', 'volume > 1000'].map((phrase) => ({ condition: compiled(phrase), on: true }));
    expect(runScan(lines, 'all', columns, [0], NOTHING_OWN, null).almost).to.deep.equal([]);
    expect(runScan(lines, 'any', columns, [0], NOTHING_OWN, null).almost.map(({ values }) => values)).to.deep.equal([['41', '5']]);
  });

  it('runs at exchange time, on trading days, over the change to summer time', () => {
    const from = Date.parse('2026-03-27T12:00:00.000Z');
    expect(new Date(nextScheduled({ times: ['09:05', '16:00'] }, from) ?? 0).toISOString()).to.equal('2026-03-27T16:00:00.000Z');
    expect(new Date(nextScheduled({ times: ['09:05'] }, from) ?? 0).toISOString()).to.equal('2026-03-30T08:05:00.000Z');
    expect(new Date(nextScheduled({ times: ['09:05'], venue: 'VSPR' }, from) ?? 0).toISOString()).to.equal('2026-03-28T09:05:00.000Z');
    expect(new Date(nextScheduled({ times: ['09:05'], monthDay: 31 }, from) ?? 0).toISOString()).to.equal('2026-03-31T08:05:00.000Z');
    expect(new Date(nextScheduled({ times: ['09:05'], days: ['tue'] }, from) ?? 0).toISOString()).to.equal('2026-03-31T08:05:00.000Z');
  });
});

describe('a price alert', () => {
  const reached = (direction: 'up' | 'down' | 'either', ...trades: number[]): number[] => {
    let side: LevelSide = null;
    return trades.filter((price) => {
      const seen = levelSeen(direction, side, 100, price);
      side = seen.side;
      return seen.reached;
    });
  };

  it('is reached by the first trade at or beyond its price, from the side it was on', () => {
    expect(reached('up', 99, 100, 101, 99, 103)).to.deep.equal([100, 103]);
    expect(reached('up', 105, 101, 99, 100)).to.deep.equal([100]);
    expect(reached('down', 101, 100, 99, 101, 98)).to.deep.equal([100, 98]);
    expect(reached('down', 95, 99)).to.deep.equal([]);
    expect(reached('either', 99, 101, 99, 100, 101)).to.deep.equal([101, 99, 100]);
  });

  it('knows where a line stands: straight over the hours in which the venue is open, on beyond both points', () => {
    const time = (text: string): number => Date.parse(text);
    // Halm closes at 17:30 and opens at 9: an hour on either side of the night.
    const night = { from: { time: time('2026-03-02T16:30:00Z'), price: 40 }, to: { time: time('2026-03-03T10:00:00Z'), price: 42 } };
    const stands = (venue: 'HALM' | 'VSPR', line: typeof night, ...at: string[]): number[] => at.map((one) => lineLevel(venue, line, time(one)));
    expect(
      stands('HALM', night, '2026-03-02T16:00:00Z', '2026-03-02T17:00:00Z', '2026-03-02T23:00:00Z', '2026-03-03T09:00:00Z', '2026-03-03T11:00:00Z'),
    ).to.deep.equal([39.5, 40.5, 41, 41, 43]);
    const whole = { from: { time: time('2026-03-02T00:00:00Z'), price: 10 }, to: { time: time('2026-03-03T00:00:00Z'), price: 34 } };
    expect(stands('VSPR', whole, '2026-03-02T06:00:00Z', '2026-03-03T01:00:00Z')).to.deep.equal([16, 35]);
    const asleep = { from: { time: time('2026-03-07T10:00:00Z'), price: 40 }, to: { time: time('2026-03-07T12:00:00Z'), price: 41 } };
    expect(stands('HALM', asleep, '2026-03-09T10:00:00Z')).to.deep.equal([41]);
  });

  it('counts open time that adds up', () => {
    const moment = fc.integer({ min: 0, max: 20 * 86_400_000 }).map((after) => OPEN + after);
    fc.assert(
      fc.property(fc.constantFrom('HALM' as const, 'VSPR' as const), moment, moment, moment, (venue, a, b, c) => {
        expect(openBetween(venue, a, b) + openBetween(venue, b, c)).to.equal(openBetween(venue, a, c));
      }),
    );
  });

  it('fires once, once a bar, or no oftener than its pause', () => {
    const minute = (time: number): number => Math.floor(time / 60_000);
    expect(mayFire('once', 0, null, 5, minute)).to.equal(true);
    expect(mayFire('once', 0, 1, 5, minute)).to.equal(false);
    expect([30_000, 59_999, 60_000].map((now) => mayFire('once-a-bar', 0, 1, now, minute))).to.deep.equal([false, false, true]);
    expect([9_999, 10_000].map((now) => mayFire('every', 10, 0, now, minute))).to.deep.equal([false, true]);
  });

  it('knows its words in a headline as whole words in any case', () => {
    expect(headlineHas('A STORM closes the harbour', ['storm'])).to.equal('storm');
    expect(headlineHas('Rainstorms ahead', ['storm'])).to.equal(null);
    expect(headlineHas('Salt works reopen', ['salt works', 'fire'])).to.equal('salt works');
  });
});

describe('a number in words', () => {
  it('has ten significant digits and no exponent', () => {
    expect([0.1 + 0.2, 1e-9, 123456789012, -0.5, 2 / 3, 0].map((value) => decimalText(value))).to.deep.equal([
      '0.3',
      '0.000000001',
      '123456789000',
      '-0.5',
      '0.6666666667',
      '0',
    ]);
  });
});
