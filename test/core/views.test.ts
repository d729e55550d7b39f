import { expect } from 'chai';
import fc from 'fast-check';
import { asPrice, asQuantity, InstrumentSearch, readSymbols } from '../../src/core/instrument/index.ts';
import { RollingDay, aggregate, barStart, consolidate, isInterval, liveList, type Bar, type DayFigures } from '../../src/core/market/index.ts';
import { demoWorld } from '../../demo/universe.ts';
import { INSTRUMENTS, at, instrument } from '../support/world.ts';

const GANET = instrument('GANET.HALM');

describe('depth in rows of several ticks', () => {
  const level = (price: number, quantity: number, orders: number | null = 2) => ({ price: asPrice(price), quantity: asQuantity(quantity), orders });

  it('rounds bids down and asks up, and keeps running totals', () => {
    const bids = consolidate(GANET, 'bid', [level(4118, 500), level(4117, 100), level(4114, 50)], 5);
    expect(bids).to.deep.equal([
      { price: 4115, quantity: 600, orders: 4, total: 600 },
      { price: 4110, quantity: 50, orders: 2, total: 650 },
    ]);
    const asks = consolidate(GANET, 'ask', [level(4120, 300), level(4121, 400, null), level(4125, 10)], 5);
    expect(asks).to.deep.equal([
      { price: 4120, quantity: 300, orders: 2, total: 300 },
      { price: 4125, quantity: 410, orders: null, total: 710 },
    ]);
  });

  it('never makes a crossed book out of one that is not, and conserves every unit', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 3000, max: 4000 }), { maxLength: 30 }),
        fc.uniqueArray(fc.integer({ min: 4001, max: 5000 }), { maxLength: 30 }),
        fc.constantFrom(1, 2, 5, 10, 20, 50),
        (below, above, ticks) => {
          const side = (prices: number[], way: 1 | -1) => prices.sort((a, b) => way * (a - b)).map((price) => level(price, (price % 7) + 1, null));
          const bids = consolidate(GANET, 'bid', side(below, -1), ticks);
          const asks = consolidate(GANET, 'ask', side(above, 1), ticks);
          if (bids[0] && asks[0]) expect(bids[0].price).to.be.lessThan(asks[0].price);
          const sum = (rows: readonly { quantity: number }[]): number => rows.reduce((total, row) => total + row.quantity, 0);
          expect(sum(bids)).to.equal(below.reduce((total, price) => total + (price % 7) + 1, 0));
          expect(bids.at(-1)?.total ?? 0).to.equal(sum(bids));
          for (const rows of [bids, asks]) expect(new Set(rows.map((row) => row.price)).size).to.equal(rows.length);
        },
      ),
    );
  });
});

describe('the last 24 hours of a venue that never closes', () => {
  it('are what was traded in them, whatever comes when', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ wait: fc.integer({ min: 0, max: 8 * 3_600_000 }), price: fc.integer({ min: 1, max: 100 }), volume: fc.integer({ min: 1, max: 9 }) }), { maxLength: 60 }),
        (prints) => {
          const rolling = new RollingDay();
          const all: { time: number; price: number; volume: number }[] = [];
          let time = 0;
          for (const { wait, price, volume } of prints) {
            time += wait;
            rolling.add(time, asPrice(price), asPrice(price), asQuantity(volume));
            all.push({ time, price, volume });
            const within = all.filter((print) => print.time > time - 86_400_000);
            expect(rolling.at(time)).to.deep.equal({
              high: Math.max(...within.map((print) => print.price)),
              low: Math.min(...within.map((print) => print.price)),
              volume: within.reduce((sum, print) => sum + print.volume, 0),
            });
          }
          expect(rolling.at(time + 86_400_000)).to.deep.equal({ high: null, low: null, volume: 0 });
        },
      ),
    ); // prettier-ignore
  });
});

describe('bars of minutes of one’s own', () => {
  it('are named by a whole number of minutes up to 999', () => {
    for (const name of ['1m', '4h', '1w', '7min', '999min']) expect(isInterval(name), name).to.equal(true);
    for (const name of ['7m', '0min', '1000min', '7 min', 'min', '2h', '']) expect(isInterval(name), name).to.equal(false);
  });

  it('count from the open and end with the session', () => {
    const clock = (time: number): string => new Date(time).toISOString().slice(11, 16);
    expect(clock(barStart('HALM', '7min', at('09:13:59.000')))).to.equal('09:07');
    expect(clock(barStart('HALM', '7min', at('17:29:00.000')))).to.equal('17:24');
    expect(clock(barStart('VSPR', '45min', at('01:31:00.000')))).to.equal('01:30');
  });

  it('made of minutes equal those made of their prints, whatever the interval', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ minute: fc.integer({ min: 0, max: 509 }), price: fc.integer({ min: 4000, max: 4200 }), quantity: fc.integer({ min: 1, max: 50 }) }), { minLength: 1, maxLength: 200 }),
        fc.constantFrom('2m', '5m', '15m', '1h', '4h', '1d', '7min', '90min'),
        (prints, interval) => {
          const open = at('09:00:00.000');
          const singles: Bar[] = prints
            .sort((a, b) => a.minute - b.minute)
            .map(({ minute, price, quantity }) => ({ minute: open + minute * 60_000, price: asPrice(price), quantity }))
            .map(({ minute, price, quantity }) => ({ time: minute, open: price, high: price, low: price, close: price, volume: asQuantity(quantity) }));
          const minutes = aggregate('HALM', singles, '1m');
          expect(aggregate('HALM', minutes, interval)).to.deep.equal(aggregate('HALM', singles, interval));
        },
      ),
    ); // prettier-ignore
  });
});

describe('a live list', () => {
  const figures = (id: string, given: Partial<DayFigures> = {}): DayFigures => ({
    instrument: id,
    open: asPrice(4100),
    last: asPrice(4120),
    high: asPrice(4130),
    low: asPrice(4090),
    previousSettlement: asPrice(4000),
    volume: asQuantity(1000),
    usualVolume: 500,
    highAt: at('09:40:00.000'),
    lowAt: at('09:02:00.000'),
    halted: false,
    asOf: at('09:45:00.000'),
    live: false,
    ...given,
  });
  const all = [
    figures('GANET.HALM'),
    figures('BRINE.HALM', { last: asPrice(3900), open: asPrice(3950), volume: asQuantity(9000), usualVolume: 3000 }),
    figures('HALMF.HALM', { last: null, open: null, volume: asQuantity(0), high: null, low: null, highAt: null, lowAt: null }),
    figures('GANET.QUAY', { last: asPrice(4200), halted: true, lowAt: at('09:44:00.000') }),
  ];
  const list = (name: Parameters<typeof liveList>[0], filter: Parameters<typeof liveList>[3] = {}): string[] =>
    liveList(name, all, instrument, filter, at('09:45:00.000'), 10).map(({ figures: one, measure }) => `${one.instrument} ${Math.round(measure * 1e4) / 1e4}`);

  it('ranks by what it says', () => {
    expect(list('risers')).to.deep.equal(['GANET.QUAY 0.05', 'GANET.HALM 0.03']);
    expect(list('fallers')).to.deep.equal(['BRINE.HALM -0.025']);
    expect(list('most active')).to.deep.equal(['BRINE.HALM 351000', 'GANET.QUAY 42000', 'GANET.HALM 41200']);
    expect(list('unusually active')).to.deep.equal(['BRINE.HALM 3', 'GANET.HALM 2', 'GANET.QUAY 2']);
    expect(list('gaps up').map((row) => row.split(' ')[0])).to.deep.equal(['GANET.HALM', 'GANET.QUAY']);
    expect(list('gaps down')).to.deep.equal(['BRINE.HALM -0.0125']);
    expect(list('halted').length).to.equal(1);
  });

  it('knows new highs and lows of the last quarter of an hour only', () => {
    expect(list('new highs').length).to.equal(3);
    expect(list('new lows').map((row) => row.split(' ')[0])).to.deep.equal(['GANET.QUAY']);
  });

  it('filters by venue, kind, sector, price and volume', () => {
    expect(list('risers', { venue: 'HALM' }).length).to.equal(1);
    expect(list('most active', { kind: 'fund' })).to.deep.equal([]);
    expect(list('risers', { sector: 'Shipping' }).length).to.equal(2);
    expect(list('risers', { leastPrice: 41.5 }).length).to.equal(1);
    expect(list('most active', { leastVolume: 1001 }).length).to.equal(1);
  });
});

describe('looking an instrument up', () => {
  const search = new InstrumentSearch(demoWorld(1).profiles.map((profile) => profile.instrument));
  const ids = (text: string): string[] => search.find(text).map((found) => found.instrument.id);

  it('finds a ticker first, its other listing right behind it', () => {
    expect(ids('ganet').slice(0, 2)).to.deep.equal(['GANET.HALM', 'GANET.QUAY']);
    expect(ids('GANET.QUAY')[0]).to.equal('GANET.QUAY');
  });

  it('finds by name, sector, kind, month and strike together', () => {
    expect(ids('gannet call 40 april')).to.deep.equal(['GANET-APR26-40C.HALM']);
    expect(ids('salmon future june')).to.deep.equal(['SALMO-JUN26.HALM']);
    expect(search.find('shipping fund').every(({ instrument: one }) => one.kind === 'fund' || one.name.includes('Fund'))).to.equal(true);
  });

  it('finds what was misspelt, behind what was not', () => {
    expect(ids('ganett')[0]).to.equal('GANET.HALM');
    expect(ids('brin dauhters')[0]).to.equal('BRINE.HALM');
    const kelp = search.find('kelp');
    expect(kelp.map(({ rank }) => rank)).to.deep.equal(kelp.map(({ rank }) => rank).sort((a, b) => a - b));
  });

  it('finds nothing for what nothing has, all for nothing asked, and expiries in their order', () => {
    expect(ids('zzqxy')).to.deep.equal([]);
    expect(ids('').length).to.equal(demoWorld(1).profiles.length);
    expect(ids('salmo')).to.deep.equal(['SALMO-JUN26.HALM', 'SALMO-SEP26.HALM', 'SALMO-DEC26.HALM', 'SALMO-MAR27.HALM']);
  });
});

describe('a column of symbols', () => {
  it('is read by id or ticker, in any case; what is unknown is named with its line', () => {
    const read = readSymbols(['ganet', '', ' KELPA.HALM ', 'NOPE', 'carb-eur', 'GANET.QUAY', 'x y'], INSTRUMENTS);
    expect(read.known.map(({ line, instrument: one }) => `${line} ${one.id}`)).to.deep.equal([
      '1 GANET.HALM',
      '3 KELPA.HALM',
      '5 CARB-EUR.VSPR',
      '6 GANET.QUAY',
    ]);
    expect(read.unknown).to.deep.equal([
      { line: 4, text: 'NOPE' },
      { line: 7, text: 'x y' },
    ]);
  });
});
