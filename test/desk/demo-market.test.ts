import { expect } from 'chai';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { demoWorld } from '../../demo/universe.ts';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { isOnGrid, type Instrument } from '../../src/core/instrument/index.ts';
import { aggregate, parseDay, type Bar, type Interval } from '../../src/core/market/index.ts';
import { DemoSource } from '../../src/venue/demo-market/demo-source.ts';
import { Headlines, headlineJumps } from '../../src/venue/demo-market/headlines.ts';
import { History } from '../../src/venue/demo-market/history.ts';
import { MinuteHistory } from '../../src/venue/demo-market/minutes.ts';
import { TickMaker } from '../../src/venue/demo-market/ticks.ts';
import { Exchange } from '../../src/venue/exchange.ts';
import { at } from '../support/world.ts';

const world = demoWorld(1);
const instruments = new Map(world.profiles.map((profile) => [profile.instrument.id, profile.instrument]));
const demo = (seed = 1): Exchange => new Exchange(instruments, ACCOUNTS, new DemoSource(demoWorld(seed), seed), 15, null, 0);
const IDS = ['GANET.HALM', 'GANET.QUAY', 'KELPA.HALM', 'HALM40.HALM', 'HALM40-JUN26.HALM', 'GANET-APR26-40C.HALM', 'CARB-EUR.VSPR', 'CARBI.VSPR'];

function bars(exchange: Exchange, instrument: string, interval: Interval, given: { from?: string; to?: string; limit?: number } = {}): Bar[] {
  const listing = exchange.isAwake(instrument) ? exchange.listing(instrument) : null;
  return exchange.source.bars(
    { instrument, interval, from: given.from ? at(given.from) : null, to: given.to ? at(given.to) : null, limit: given.limit ?? 5000 },
    listing,
    exchange.time,
  );
}

describe('the demo world', () => {
  it('has about 1,200 instruments, the fixed ones as documented, each under its own name', () => {
    expect(instruments.size).to.be.within(1150, 1300);
    expect(world.profiles.length).to.equal(instruments.size);
    for (const fixed of FIXED_INSTRUMENTS) expect(instruments.get(fixed.id)).to.deep.equal(fixed);
    for (const { instrument } of world.profiles) if (instrument.kind === 'share') expect(instrument.ticker).to.match(/^[A-Z]{5}$/);
  });

  it('has two years of days and sixty sessions of minutes before it begins', () => {
    const exchange = demo();
    expect(bars(exchange, 'GANET.HALM', '1d').length).to.be.at.least(500);
    const minutes = bars(exchange, 'GANET.HALM', '1m', { limit: 5000 });
    expect(minutes.length).to.equal(5000);
    expect(bars(exchange, 'GANET.HALM', '1h').length).to.be.at.least(20 * 9);
  });

  for (const id of IDS)
    it(`has minutes of ${id} that add up to its days, on the grid`, () => {
      const exchange = demo();
      const instrument = instruments.get(id);
      const days = bars(exchange, id, '1d', { from: '2026-02-18T00:00:00.000Z', to: '2026-02-28T00:00:00.000Z' });
      const minutes = bars(exchange, id, '1m', { from: '2026-02-18T00:00:00.000Z', to: '2026-02-28T00:00:00.000Z', limit: 20_000 });
      expect(aggregate(instrument?.venue ?? 'HALM', minutes, '1d')).to.deep.equal(days);
      for (const bar of minutes) {
        expect(bar.low).to.be.at.most(Math.min(bar.open, bar.close));
        expect(bar.high).to.be.at.least(Math.max(bar.open, bar.close));
        expect(bar.volume).to.be.greaterThan(0);
        for (const price of [bar.open, bar.high, bar.low, bar.close]) expect(instrument && isOnGrid(instrument, price), `${id} ${price}`).to.equal(true);
      }
    });

  it('seldom runs through half of the day within two minutes unless a headline or a halt moves it', () => {
    const history = new History(world, 1);
    const headlines = new Headlines(world, 1);
    const minutes = new MinuteHistory(history, headlines);
    const from = parseDay('2026-02-04');
    let sessions = 0;
    let rushed = 0;
    for (const { instrument } of world.profiles.filter(({ follows, instrument: { kind } }) => follows === null && kind === 'share').slice(0, 100))
      for (const day of history.daily(instrument.id).filter((one) => one.day >= from && one.day < from + 28)) {
        const made = minutes.session(instrument.id, day.day);
        const jumps = headlineJumps(headlines.of(day.day), instrument.id);
        const halted = headlines.haltedMinutes(instrument, day.day);
        if (!made || day.high - day.low < 12 || jumps.size > 0 || halted.size > 0) continue;
        sessions++;
        if (made.close.some((close, i) => i > 1 && Math.abs(close - (made.close[i - 2] ?? close)) > 0.5 * (day.high - day.low))) rushed++;
      }
    expect(sessions).to.be.at.least(500);
    expect(rushed / sessions).to.be.at.most(0.01);
  });

  it('is the same world again from the same seed, another one from another', () => {
    const first = bars(demo(), 'BRINE.HALM', '5m', { limit: 300 });
    expect(bars(demo(), 'BRINE.HALM', '5m', { limit: 300 })).to.deep.equal(first);
    expect(bars(demo(2), 'BRINE.HALM', '5m', { limit: 300 })).to.not.deep.equal(first);
  });

  it('makes the same bars whoever watches and however time is advanced', () => {
    const watched = demo();
    watched.watch(IDS, ['GANET.HALM']);
    for (let i = 0; i < 20 * 60; i += 7) watched.run(at('09:00:00.000') + i * 1000);
    watched.run(at('09:20:00.000'));
    const alone = demo();
    alone.run(at('09:20:00.000'));
    for (const id of IDS)
      expect(bars(watched, id, '1m', { from: '09:00:00.000', to: '09:20:00.000' }), id).to.deep.equal(
        bars(alone, id, '1m', { from: '09:00:00.000', to: '09:20:00.000' }),
      );
    expect(watched.source.headlines(watched.time)).to.deep.equal(alone.source.headlines(alone.time));
  });

  it('prints trades that add up to each minute, and counts them in the day', () => {
    const exchange = demo();
    exchange.watch(['GANET.HALM'], []);
    exchange.run(at('09:10:00.000'));
    const listing = exchange.listing('GANET.HALM');
    const minutes = bars(exchange, 'GANET.HALM', '1m', { from: '09:00:00.000', to: '09:10:00.000' });
    for (const bar of minutes) {
      const prints = listing.prints.filter((print) => print.time >= bar.time && print.time < bar.time + 60_000);
      expect(prints.reduce((sum, print) => sum + print.quantity, 0)).to.equal(bar.volume);
      expect([prints[0]?.price, Math.max(...prints.map((p) => p.price)), Math.min(...prints.map((p) => p.price)), prints.at(-1)?.price]).to.deep.equal([
        bar.open,
        bar.high,
        bar.low,
        bar.close,
      ]);
    }
    expect(listing.day.volume).to.equal(minutes.reduce((sum, bar) => sum + bar.volume, 0));
  });

  it('tells of a minute of one that sleeps the trades alone that it would tell with its book', () => {
    const history = new History(world, 1);
    const minutes = new MinuteHistory(history, new Headlines(world, 1));
    for (const id of IDS) {
      const instrument = instruments.get(id) as Instrument;
      for (const index of [0, 1, 77, 203, 509]) {
        const told = new TickMaker(instrument, history, minutes)
          .minute(parseDay('2026-03-02'), index)
          .flatMap(({ time, event }) => (event.event === 'trade' ? [{ time, price: event.price, quantity: event.quantity }] : []));
        const alone = new TickMaker(instrument, history, minutes).trades(parseDay('2026-03-02'), index);
        expect(
          alone.map(({ time, price, quantity }) => ({ time, price, quantity })),
          `${id} ${index}`,
        ).to.deep.equal(told);
      }
    }
  });

  it('knows when nothing was traded from a time on, and then no bar has changed', () => {
    const exchange = demo();
    let quiet = 0;
    for (let second = 0; second < 150; second++) {
      const since = at('10:23:17.000') + second * 1000;
      exchange.run(since);
      const before = IDS.map((id) => bars(exchange, id, '1m', { limit: 3 }));
      exchange.run(since + 1000);
      IDS.forEach((id, i) => {
        const instrument = instruments.get(id) as Instrument;
        const told = exchange.newestBars(instrument, '1m', 3, since);
        const now = bars(exchange, id, '1m', { limit: 3 });
        if (told.length > 0) return expect(told.at(-1), id).to.deep.equal(now.at(-1));
        quiet++;
        return expect(now, `${id} ${second}`).to.deep.equal(before[i]);
      });
    }
    expect(quiet).to.be.greaterThan(100);
  });

  it('gives bars from a time on as the end of all of them, and as many of the newest as are asked for', () => {
    const exchange = demo();
    exchange.run(at('10:23:17.000'));
    for (const id of IDS)
      for (const interval of ['1m', '5m', '15m', '1h', '1d', '1w'] as const) {
        const all = bars(exchange, id, interval, { limit: 900 });
        for (const from of [all.length - 1, all.length - 2, Math.max(0, all.length - 700)]) {
          const since = all[from] as Bar;
          expect(bars(exchange, id, interval, { from: new Date(since.time).toISOString() }), `${id} ${interval} from ${from}`).to.deep.equal(all.slice(from));
        }
        for (const limit of [1, 2, 30]) expect(bars(exchange, id, interval, { limit }), `${id} ${interval} ${limit}`).to.deep.equal(all.slice(-limit));
      }
  });

  it('is the same for an instrument, whichever others wake and rest beside it', () => {
    const prints = (others: (exchange: ReturnType<typeof demo>, minute: number) => void): unknown => {
      const exchange = demo();
      for (let minute = 0; minute < 4; minute++) {
        exchange.watch(['GANET.HALM'], []);
        others(exchange, minute);
        exchange.run(at(`09:0${minute}:30.000`));
      }
      return exchange.listing('GANET.HALM').prints;
    };
    const alone = prints(() => undefined);
    const beside = prints((exchange, minute) => {
      const some = IDS.filter((id, i) => id !== 'GANET.HALM' && i % 3 === minute % 3);
      exchange.watch(['GANET.HALM', ...some], []);
      // One that rests and wakes again before anything has happened.
      exchange.watch(['GANET.HALM', ...some.slice(1)], []);
      exchange.watch(['GANET.HALM', ...some], []);
    });
    expect(beside).to.deep.equal(alone);
  });

  it('never shows a crossed or empty book while a share is open', () => {
    const exchange = demo();
    exchange.watch(['GANET.HALM', 'KELPA.HALM'], []);
    for (let time = at('09:00:01.000'); time < at('09:15:00.000'); time += 500) {
      exchange.run(time);
      for (const quote of exchange.quotes(['GANET.HALM', 'KELPA.HALM'])) {
        expect(quote.bid, `${quote.instrument} at ${time}`).to.not.equal(null);
        expect(quote.ask).to.be.greaterThan(quote.bid ?? Infinity);
      }
    }
  });

  it('closes in the evening, settles at the last price and opens the next morning', () => {
    const exchange = demo();
    exchange.watch(['GANET.HALM'], []);
    exchange.run(at('17:29:59.000'));
    const state = (): string => exchange.listing('GANET.HALM').book.state;
    expect(state()).to.equal('open');
    exchange.run(at('17:30:00.000'));
    expect(state()).to.equal('closed');
    const { last } = exchange.listing('GANET.HALM').day;
    exchange.run(at('2026-03-03T00:00:00.000Z'));
    expect(exchange.listing('GANET.HALM').previousSettlement).to.equal(last);
    exchange.run(at('2026-03-03T08:30:00.000Z'));
    expect(state()).to.equal('pre-open');
    exchange.run(at('2026-03-03T09:00:00.000Z'));
    expect(state()).to.equal('open');
  });

  it('goes on at once for an instrument that wakes while others sleep', () => {
    const exchange = demo();
    exchange.run(at('09:07:00.000'));
    expect(exchange.source.headlines(exchange.time).every((one) => one.time <= exchange.time)).to.equal(true);
    exchange.watch(['GANET.HALM'], []);
    exchange.run(at('09:12:00.000'));
    expect(exchange.listing('GANET.HALM').prints.filter((print) => print.time > at('09:09:00.000')).length).to.be.greaterThan(3);
    exchange.run(at('20:00:00.000'));
    exchange.watch(['GANET.HALM', 'CARB-EUR.VSPR'], []);
    exchange.run(at('20:10:00.000'));
    expect(exchange.listing('CARB-EUR.VSPR').prints.filter((print) => print.time > at('20:05:00.000')).length).to.be.greaterThan(3);
  });

  it('halts a share for a great headline, and trades nothing in it meanwhile', () => {
    const headlines = new Headlines(world, 1);
    const first = parseDay('2026-03-02');
    const halts = Array.from({ length: 5 }, (_, i) => headlines.of(first + i)).flatMap((day) => day.filter((one) => one.haltMinutes > 0));
    const halt = halts[0];
    if (!halt || halt.instrument === null) throw new Error('no halt in the first week');
    const exchange = demo();
    exchange.run(halt.time - 60_000);
    const listing = exchange.listing(halt.instrument);
    expect(listing.book.state).to.equal('open');
    exchange.run(halt.time);
    expect(listing.book.state).to.equal('halted');
    const { volume } = listing.day;
    exchange.run(halt.time + halt.haltMinutes * 60_000 - 1);
    expect([listing.book.state, listing.day.volume]).to.deep.equal(['halted', volume]);
    exchange.run(halt.time + halt.haltMinutes * 60_000);
    expect(listing.book.state).to.equal('open');
    expect(exchange.source.headlines(exchange.time).map((one) => one.text)).to.include(halt.text);
  });
});
