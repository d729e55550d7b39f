import { expect } from 'chai';
import fc from 'fast-check';
import { asPrice, asQuantity, addTicks, gridCeil, gridFloor, isOnGrid, nearestOnGrid, InstrumentSearch, VENUE_IDS } from '../../src/core/instrument/index.ts';
import { aggregate, barStart, changePercent, formatDay, nextDayTurn, parseDay, sessionTimes, tradingDay, type Bar } from '../../src/core/market/index.ts';
import { fixExecutionReport, parseTape } from '../../src/core/formats/index.ts';
import { divideHalfEven, formatScaled, isDecimal, parseScaled } from '../../src/core/number/index.ts';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { INSTRUMENTS, instrument } from '../support/world.ts';

const KELPA = instrument('KELPA.HALM');

describe('decimals', () => {
  it('go from text to integer and back without a loss', () => {
    fc.assert(
      fc.property(
        fc.bigInt({ min: -(10n ** 17n), max: 10n ** 17n }),
        fc.integer({ min: 0, max: 8 }),
        (value, decimals) => parseScaled(formatScaled(value, decimals), decimals) === value,
      ),
    );
  });
  it('are refused with more places than there are, more than 18 digits, or another spelling', () => {
    expect([parseScaled('1.005', 2), parseScaled('1.500', 2)]).to.deep.equal([null, 150n]);
    expect(['1e3', '.5', '05', '+1', '1.', '', '1234567890123456789', 'NaN'].map(isDecimal)).to.deep.equal(Array(8).fill(false));
  });
  it('are divided half to even', () => {
    expect([divideHalfEven(5n, 2n), divideHalfEven(7n, 2n), divideHalfEven(-5n, 2n), divideHalfEven(-7n, 2n), divideHalfEven(1n, 3n)]).to.deep.equal([
      2n,
      4n,
      -2n,
      -4n,
      0n,
    ]);
  });
  it('of a change in percent round half to even', () =>
    expect([changePercent(asPrice(4121), asPrice(4120)), changePercent(asPrice(4100), asPrice(4120))]).to.deep.equal(['0.02', '-0.49']));
});

describe('the tick grid', () => {
  it('is finer below 10 and joins without a gap', () => {
    expect(addTicks(KELPA, asPrice(9995), 1)).to.equal(10_000);
    expect(addTicks(KELPA, asPrice(10_000), 1)).to.equal(10_010);
    expect(addTicks(KELPA, asPrice(10_010), -3)).to.equal(9_990);
    expect(nearestOnGrid(KELPA, asPrice(9_993))).to.deep.equal([9_990, 9_995]);
  });
  it('has every price between its floor and its ceiling', () => {
    fc.assert(
      fc.property(fc.constantFrom(...FIXED_INSTRUMENTS), fc.integer({ min: 100, max: 1_000_000 }), (of, price) => {
        expect(gridFloor(of, asPrice(price))).to.be.at.most(price);
        expect(gridCeil(of, asPrice(price))).to.be.at.least(price);
        expect(isOnGrid(of, gridFloor(of, asPrice(price))) && isOnGrid(of, gridCeil(of, asPrice(price)))).to.equal(true);
      }),
    );
  });
  it('goes up and down by the same steps', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 9_900, max: 10_100 }),
        fc.integer({ min: 1, max: 30 }),
        (price, ticks) => addTicks(KELPA, addTicks(KELPA, gridFloor(KELPA, asPrice(price)), ticks), -ticks) === gridFloor(KELPA, asPrice(price)),
      ),
    );
  });
});

describe('the trading day', () => {
  const day = (venue: 'HALM' | 'VSPR', time: string): string => formatDay(tradingDay(venue, Date.parse(time)));
  it('turns at midnight of the exchange, and the weekend belongs to Friday', () => {
    expect(day('HALM', '2026-03-06T23:59:59.999Z')).to.equal('2026-03-06');
    expect(day('HALM', '2026-03-08T12:00:00.000Z')).to.equal('2026-03-06');
    expect(new Date(nextDayTurn('HALM', Date.parse('2026-03-07T12:00:00.000Z'))).toISOString()).to.equal('2026-03-09T00:00:00.000Z');
    expect(day('VSPR', '2026-03-08T12:00:00.000Z')).to.equal('2026-03-08');
  });
  it('follows the zone into summer time', () => {
    expect(day('HALM', '2026-06-18T23:00:00.000Z')).to.equal('2026-06-19');
    expect(new Date(sessionTimes('HALM', parseDay('2026-06-19')).open).toISOString()).to.equal('2026-06-19T08:00:00.000Z');
    expect(new Date(barStart('HALM', '1d', Date.parse('2026-06-19T12:00:00.000Z'))).toISOString()).to.equal('2026-06-18T23:00:00.000Z');
  });
  it('begins a week on Monday', () => {
    for (const venue of ['HALM', 'VSPR'] as const)
      expect(formatDay(tradingDay(venue, barStart(venue, '1w', Date.parse('2026-03-05T12:00:00.000Z'))))).to.equal('2026-03-02');
  });
});

describe('bars', () => {
  const minutes = (from: string, count: number): Bar[] =>
    Array.from({ length: count }, (_, i) => ({
      time: Date.parse(from) + i * 60_000,
      open: asPrice(100 + i),
      high: asPrice(110 + i),
      low: asPrice(90 + i),
      close: asPrice(101 + i),
      volume: asQuantity(5),
    }));
  it('of a longer interval start at the session’s open and never span its end', () => {
    const joined = aggregate('HALM', minutes('2026-03-02T09:00:00.000Z', 510), '4h');
    expect(joined.map((bar) => new Date(bar.time).toISOString().slice(11, 16))).to.deep.equal(['09:00', '13:00', '17:00']);
    expect(joined.reduce((sum, bar) => sum + bar.volume, 0)).to.equal(2550);
  });
  it('are each where the calendar puts its own start, over days, weekends and the change to summer time', () => {
    for (const venue of VENUE_IDS)
      for (const interval of ['1m', '5m', '45min', '4h', '1d', '1w'] as const) {
        const bars = ['2026-03-27', '2026-03-28', '2026-03-29', '2026-03-30'].flatMap((day) => minutes(`${day}T06:00:00.000Z`, 1000));
        const starts = [...new Set(bars.map(({ time }) => barStart(venue, interval, time)))];
        const joined = aggregate(venue, bars, interval);
        expect(
          joined.map(({ time }) => time),
          `${venue} ${interval}`,
        ).to.deep.equal(starts);
        expect(joined.reduce((sum, { volume }) => sum + volume, 0)).to.equal(5 * bars.length);
      }
  });
  it('after the close are counted on from it', () => {
    expect(new Date(barStart('HALM', '1h', Date.parse('2026-03-02T17:45:00.000Z'))).toISOString()).to.equal('2026-03-02T17:30:00.000Z');
  });
});

describe('a tape', () => {
  const head = 'time,instrument,event,side,price,quantity,text\n';
  const problem = (row: string): string => {
    const read = parseTape(`${head}2026-03-02T09:00:00.000Z,GANET.HALM,state,,,,open\n${row}\n`, INSTRUMENTS);
    return read.ok ? 'fine' : `${read.refusal.line}:${read.refusal.column}`;
  };
  const cases: [string, string, string][] = [
    ['takes a level', '2026-03-02T09:00:01.000Z,GANET.HALM,level,bid,41.18,500,', 'fine'],
    ['takes news without an instrument', '2026-03-02T09:00:01.000Z,,news,,,,"Storm, over"', 'fine'],
    ['takes the end of a limit', '2026-03-02T09:00:01.000Z,GANET.HALM,price-limit,,,,upper', 'fine'],
    ['refuses a time before the row above', '2026-03-02T08:59:59.000Z,GANET.HALM,state,,,,open', '3:1'],
    ['refuses an unknown instrument', '2026-03-02T09:00:01.000Z,NOPE.HALM,state,,,,open', '3:2'],
    ['refuses an unknown event', '2026-03-02T09:00:01.000Z,GANET.HALM,shout,,,,', '3:3'],
    ['refuses a side that is none', '2026-03-02T09:00:01.000Z,GANET.HALM,trade,bid,41.18,5,', '3:4'],
    ['refuses a price off the grid', '2026-03-02T09:00:01.000Z,GANET.HALM,trade,buy,41.185,5,', '3:5'],
    ['refuses a print of nothing', '2026-03-02T09:00:01.000Z,GANET.HALM,trade,buy,41.18,0,', '3:6'],
    ['refuses a cell that the row has no use for', '2026-03-02T09:00:01.000Z,GANET.HALM,trade,buy,41.18,5,hello', '3:7'],
    ['refuses a row of another length', '2026-03-02T09:00:01.000Z,GANET.HALM,trade,buy,41.18', '3:6'],
  ];
  for (const [name, row, expected] of cases) it(name, () => expect(problem(row)).to.equal(expected));
  it('refuses another header', () => {
    const read = parseTape('time,instrument,event,side,quantity,price,text\n', INSTRUMENTS);
    expect(read.ok ? null : `${read.refusal.line}:${read.refusal.column}`).to.equal('1:5');
  });
});

describe('a FIX execution report', () => {
  const fill = {
    id: 'f-1',
    seq: 7,
    time: '2026-03-02T09:00:02.000Z',
    orderId: 'MAIN-1',
    clientOrderId: 'a',
    account: 'MAIN',
    instrument: 'GANET.HALM',
    side: 'buy',
    role: 'entry',
    quantity: '100',
    price: '41.20',
    fee: '4.12',
    feeCurrency: 'EUR',
    realised: '0.00',
    currency: 'EUR',
    liquidity: 'removed',
  } as const;
  const message = fixExecutionReport(fill, { quantity: '300', filledQuantity: '100', remainingQuantity: '200', averagePrice: '41.20', done: false });
  it('counts its body from after tag 9 to before tag 10', () => {
    const body = message.slice(message.indexOf('\x01', message.indexOf('9=')) + 1, message.indexOf('10='));
    expect(/\x019=(\d+)\x01/.exec(message)?.[1]).to.equal(String(body.length));
  });
  it('ends with the sum of its bytes modulo 256 in three digits', () => {
    const until = message.slice(0, message.indexOf('10='));
    expect(message.slice(message.indexOf('10='))).to.equal(`10=${String([...until].reduce((sum, c) => sum + c.charCodeAt(0), 0) % 256).padStart(3, '0')}\x01`);
  });
  it('says what was filled of which order', () => {
    for (const field of ['35=8', '150=F', '39=1', '55=GANET', '207=HALM', '54=1', '32=100', '31=41.20', '14=100', '151=200'])
      expect(message.split('\x01')).to.include(field);
  });
});

describe('the look-up', () => {
  it('finds by ticker first, then by name, listings together', () => {
    const found = (text: string): string[] => new InstrumentSearch(FIXED_INSTRUMENTS).find(text).map(({ instrument }) => instrument.id);
    expect(found('ganet').slice(0, 2)).to.deep.equal(['GANET.HALM', 'GANET.QUAY']);
    expect(found('salmon')).to.deep.equal(['SALMO-JUN26.HALM']);
    expect(found('zzz')).to.deep.equal([]);
  });
});
