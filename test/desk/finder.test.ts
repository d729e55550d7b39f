import { expect } from 'chai';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { asPrice, asQuantity, type Instrument } from '../../src/core/instrument/index.ts';
import { NO_STATISTICS, addPrint, barStart, countPrint, type Bar, type Quote } from '../../src/core/market/index.ts';
import { NO_MEMORY, QuoteTable, barBlock } from '../../src/core/scan/index.ts';
import { Finder } from '../../src/prices/finder.ts';
import type { OwnLists, PricesCalls, ScanProgress, Seen, Watch, Watched } from '../../src/prices/messages.ts';
import type { LookRequest, MarketLook, StreamItem } from '../../src/venue/messages.ts';

const OPEN = Date.parse('2026-03-02T09:00:00.000Z');
const GANET = FIXED_INSTRUMENTS.find(({ id }) => id === 'GANET.HALM') as Instrument;
const BRINE = FIXED_INSTRUMENTS.find(({ id }) => id === 'BRINE.HALM') as Instrument;
const many = (count: number): Instrument[] => Array.from({ length: count }, (_, i) => ({ ...GANET, id: `S${i}.HALM`, ticker: `S${i}` }));
const OWN: OwnLists = { held: [], withOrders: [], lists: {} };

/** A market that deals where it is told to, and notes what it was asked. */
class Market {
  readonly asked: LookRequest[] = [];
  time = OPEN;
  number = 0;
  /** Lets a look wait, for what happens meanwhile. */
  hold: Promise<void> | null = null;
  private readonly instruments: ReadonlyMap<string, Instrument>;
  private readonly prints = new Map<string, { bars: Bar[]; day: typeof NO_STATISTICS; last: number | null }>();

  constructor(instruments: readonly Instrument[]) {
    this.instruments = new Map(instruments.map((one) => [one.id, one]));
  }

  private of(id: string) {
    let found = this.prints.get(id);
    if (!found) this.prints.set(id, (found = { bars: [], day: { ...NO_STATISTICS }, last: null }));
    return found;
  }

  /** A trade, in units of the price, so many seconds after the open; the row that the prices get of it. */
  trade(id: string, price: number, seconds: number): StreamItem {
    this.time = OPEN + seconds * 1000;
    this.number++;
    const instrument = this.instruments.get(id) as Instrument;
    const known = this.of(id);
    countPrint(known.day, asPrice(price), asQuantity(10), this.time);
    addPrint(known.bars, barStart(instrument.venue, '1m', this.time), asPrice(price), asQuantity(10));
    known.last = price;
    const { time, number } = this;
    const row = { time, number, instrument: id, state: 'open', traded: asPrice(price), quantity: asQuantity(10), last: asPrice(price), mark: null, bid: null, ask: null, quote: this.quote(id) } as const; // prettier-ignore
    return { kind: 'price', row } as unknown as StreamItem;
  }

  private quote(id: string): Quote {
    const { day, last } = this.of(id);
    const at = last === null ? null : asPrice(last);
    const quote = { ...day, instrument: id, time: this.time, state: 'open', bid: at, bidQuantity: asQuantity(1), ask: at, askQuantity: asQuantity(1) };
    return { ...quote, lastEver: at, dayVolume: day.volume, previousSettlement: null, priceLimits: { lower: null, upper: null } } as unknown as Quote;
  }

  readonly look = async (request: LookRequest): Promise<MarketLook> => {
    this.asked.push(request);
    await this.hold;
    const table = QuoteTable.over(request.table);
    const changed: number[] = [];
    request.instruments.forEach((id, k) => {
      const glance = { quote: this.quote(id), previousHigh: null, previousLow: null, usualVolume: null };
      const place = request.places[k] as number;
      if (table.put(place, this.instruments.get(id) as Instrument, glance)) changed.push(place);
    });
    const bars = request.bars.map(({ interval }) => {
      const all = request.instruments.map((id) => ({ bars: this.of(id).bars, instrument: this.instruments.get(id) as Instrument }));
      const block = Float64Array.from(all.flatMap((one) => [...barBlock(one.bars, one.instrument)]));
      return { interval, counts: Uint32Array.from(all, (one) => one.bars.length), block };
    });
    return { time: this.time, number: this.number, places: request.places, changed: Uint32Array.from(changed), bars, settlements: null };
  };
}

/** A finder over a market of some instruments. */
function opened(instruments: readonly Instrument[] = [GANET, BRINE]) {
  const market = new Market(instruments);
  const told: ScanProgress[] = [];
  const finder = new Finder(instruments, market, (_run, progress) => told.push(progress));
  const scan = (phrases: readonly string[], more: Partial<PricesCalls['scan']['ask']> = {}) =>
    finder.answer('scan', {
      universe: instruments.map(({ id }) => id),
      lines: phrases.map((phrase) => ({ phrase, on: true })),
      join: 'all',
      own: OWN,
      kept: null,
      unlessSame: false,
      run: null,
      ...more,
    });
  const rows = (...items: StreamItem[]): Promise<Watched> => finder.answer('rows', { items, time: market.time, own: {} });
  return { market, told, finder, scan, rows };
}

const found = (answer: PricesCalls['scan']['answer']): string[] =>
  answer === 'same' ? ['same'] : (answer?.outcome.items.map(({ instrument }) => instrument) ?? []);
const watchOf = (id: string, of: Watch['of'], more: Partial<Watch> = {}): Watch => ({ id, user: 'demo', instrument: GANET.id, of, memory: NO_MEMORY, ...more });
const reached = ({ seen }: Watched): string[] => seen.filter((one) => one.reached).map(({ id, value }) => `${id} ${value ?? '–'}`);

describe('a condition read alone', () => {
  it('is told with its value and what it read of the instrument; without one, as words alone', async () => {
    const { market, finder } = opened();
    market.trade(GANET.id, 4125, 1);
    const read = (phrase: string, instrument: string | null) => finder.answer('condition', { phrase, instrument, own: OWN });
    const one = await read('last > 41.20 and volume >= 10', GANET.id);
    expect(one.ok && [one.value.value, one.value.parts.map(({ value }) => value)]).to.deep.equal([true, ['41.25', '10']]);
    const none = await read('last > 41.20', null);
    expect(none.ok && [none.value.value, none.value.parts]).to.deep.equal([null, []]);
    const unknown = await read('last > 41.20', BRINE.id);
    expect(unknown.ok && [unknown.value.value, unknown.value.parts[0]?.value]).to.deep.equal([null, null]);
    const wrong = await read('last above 3', GANET.id);
    expect(!wrong.ok && [wrong.error.from, wrong.error.to]).to.deep.equal([5, 10]);
  });

  it('of another instrument looks at that', async () => {
    const { market, finder } = opened();
    market.trade(GANET.id, 4100, 1);
    market.trade(BRINE.id, 2700, 2);
    const one = await finder.answer('condition', { phrase: 'BRINE last < 30', instrument: GANET.id, own: OWN });
    expect(one.ok && one.value.value).to.equal(true);
    expect(market.asked[0]?.instruments).to.deep.equal([GANET.id, BRINE.id]);
  });
});

describe('a scan', () => {
  it('sees the market as it is each time, its own things included', async () => {
    const { market, scan } = opened();
    market.trade(GANET.id, 4100, 1);
    expect(found(await scan(['last > 40']))).to.deep.equal([GANET.id]);
    market.trade(BRINE.id, 4500, 2);
    expect(found(await scan(['last > 40']))).to.deep.equal([BRINE.id, GANET.id]);
    expect(found(await scan(['held'], { own: { ...OWN, held: [BRINE.id] } }))).to.deep.equal([BRINE.id]);
    expect(found(await scan(['watched in mine'], { own: { ...OWN, lists: { mine: [GANET.id] } } }))).to.deep.equal([GANET.id]);
  });

  it('makes history for few at a time, says how far it is, and looks at what is new alone afterwards', async () => {
    const { market, scan, told } = opened(many(100));
    await scan(['sma(3) on 1m > 1'], { run: 'r' });
    expect(told).to.deep.equal([
      { done: 0, of: 100 },
      { done: 40, of: 100 },
      { done: 80, of: 100 },
    ]);
    expect(market.asked.map(({ instruments, since }) => [instruments.length, since === null])).to.deep.equal([
      [40, true],
      [40, true],
      [20, true],
      [100, false],
    ]);
    told.length = 0;
    await scan(['sma(3) on 1m > 1'], { run: 'r' });
    expect([told, market.asked.length]).to.deep.equal([[], 5]);
    // More history than was made is made.
    await scan(['close on 1m 900 bars ago > 1'], { run: 'r' });
    expect(told.length).to.equal(3);
  });

  it('hears others between two pieces, and is stopped by its name', async () => {
    const { market, finder, scan, told } = opened(many(120));
    let go = (): void => undefined;
    market.hold = new Promise((resolve) => (go = resolve));
    const running = scan(['sma(3) on 1m > 1'], { run: 'r' });
    const other = finder.answer('condition', { phrase: 'last > 1', instrument: 'S0.HALM', own: OWN });
    void finder.answer('stop', { run: 'other' });
    go();
    market.hold = null;
    expect((await other).ok).to.equal(true);
    void finder.answer('stop', { run: 'r' });
    expect(await running).to.equal(null);
    expect(told.length).to.be.below(3);
    // The next of that name runs.
    expect(await scan(['sma(3) on 1m > 1'], { run: 'r' })).to.not.equal(null);
  });

  it('that is kept says that nothing came since its last run, where that is asked for', async () => {
    const { market, scan } = opened();
    const kept = async (more: object = {}) => found(await scan(['last > 41'], { kept: 'k', unlessSame: true, ...more }));
    market.trade(GANET.id, 4110, 1);
    expect(await kept(), 'its first run').to.deep.equal([GANET.id]);
    market.time += 500;
    expect(await kept()).to.deep.equal(['same']);
    expect(await kept({ unlessSame: false })).to.deep.equal([GANET.id]);
    market.trade(BRINE.id, 4120, 3);
    expect(await kept()).to.have.members([GANET.id, BRINE.id]);
    expect(await kept()).to.deep.equal(['same']);
    market.trade(GANET.id, 4090, 4);
    // Another's look at the market takes nothing from it.
    await scan(['last > 1']);
    expect(await kept()).to.deep.equal([BRINE.id]);
  });

  it('that is kept remembers what its events saw, until it is forgotten', async () => {
    const { market, finder, scan } = opened();
    const kept = (price: number, seconds: number) => {
      market.trade(GANET.id, price, seconds);
      return scan(['last rises above 41'], { kept: 'k' });
    };
    expect(found(await kept(4090, 1))).to.deep.equal([]);
    expect(found(await kept(4110, 2))).to.deep.equal([GANET.id]);
    expect(found(await kept(4120, 3))).to.deep.equal([]);
    await kept(4090, 4);
    await finder.answer('forget', { kept: 'k' });
    expect(found(await kept(4110, 5)), 'the first look after it').to.deep.equal([]);
  });
});

describe('what is watched', () => {
  const above = { kind: 'price', level: 41.2, direction: 'up' } as const;

  it('is reached by the trade that comes to it from its side, once for each time', async () => {
    const { market, finder, rows } = opened();
    market.trade(GANET.id, 4100, 1);
    const first = await finder.answer('watch', { watches: [watchOf('a', above)], own: {} });
    expect(reached(first)).to.deep.equal([]);
    expect(reached(await rows(market.trade(GANET.id, 4119, 2), market.trade(BRINE.id, 9900, 3)))).to.deep.equal([]);
    expect(reached(await rows(market.trade(GANET.id, 4120, 4), market.trade(GANET.id, 4130, 5)))).to.deep.equal(['a 41.2']);
    expect(reached(await rows(market.trade(GANET.id, 4110, 6), market.trade(GANET.id, 4125, 7)))).to.deep.equal(['a 41.25']);
  });

  it('is judged by a row once, however often that comes', async () => {
    const { market, finder, rows } = opened();
    market.trade(GANET.id, 4100, 1);
    await finder.answer('watch', { watches: [watchOf('a', above)], own: {} });
    const row = market.trade(GANET.id, 4125, 2);
    expect([reached(await rows(row)), reached(await rows(row))]).to.deep.equal([['a 41.25'], []]);
  });

  it('goes on from what was remembered of it: a row that was judged before is not judged again', async () => {
    const { market, finder, rows } = opened();
    market.trade(GANET.id, 4100, 1);
    await finder.answer('watch', { watches: [watchOf('a', above)], own: {} });
    const row = market.trade(GANET.id, 4125, 2);
    const { seen } = await rows(row);
    const { memory } = seen.at(-1) as Seen;
    const again = opened();
    again.market.trade(GANET.id, 4100, 1);
    await again.finder.answer('watch', { watches: [watchOf('a', above, { memory })], own: {} });
    expect(reached(await again.rows(row))).to.deep.equal([]);
  });

  it('as a condition is reached where it turns true, not where it was true at first', async () => {
    const { market, finder, rows } = opened();
    market.trade(GANET.id, 4125, 1);
    await finder.answer('watch', { watches: [watchOf('c', { kind: 'condition', phrase: 'last > 41.20' })], own: {} });
    expect(reached(await rows(market.trade(GANET.id, 4130, 2)))).to.deep.equal([]);
    expect(reached(await rows(market.trade(GANET.id, 4110, 3), market.trade(GANET.id, 4126, 4)))).to.deep.equal(['c 41.26']);
  });

  it('on bars wakes at the end of an interval though nothing is traded then', async () => {
    const { market, finder, rows } = opened();
    market.trade(GANET.id, 4100, 1);
    market.trade(GANET.id, 4100, 61);
    const watch = watchOf('b', { kind: 'condition', phrase: 'close on 1m rises above 41.20' });
    await finder.answer('watch', { watches: [watch], own: {} });
    const { wakeAt } = await rows(market.trade(GANET.id, 4150, 130));
    expect(wakeAt).to.equal(OPEN + 180_000);
    expect(reached(await rows({ kind: 'timer', time: OPEN + 180_000 } as unknown as StreamItem))).to.deep.equal(['b 41.5']);
  });

  it('no more is let go of; what stays keeps what it saw', async () => {
    const { market, finder, rows } = opened();
    market.trade(GANET.id, 4100, 1);
    const [a, b] = [watchOf('a', above), watchOf('b', { ...above, level: 41.3 })];
    await finder.answer('watch', { watches: [a, b], own: {} });
    await rows(market.trade(GANET.id, 4125, 2));
    await finder.answer('watch', { watches: [a], own: {} });
    expect(reached(await rows(market.trade(GANET.id, 4135, 3)))).to.deep.equal([]);
  });
});
