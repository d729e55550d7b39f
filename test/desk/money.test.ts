import { expect } from 'chai';
import { formatMoney, money } from '../../src/core/number/index.ts';
import type { OrderRequest } from '../../src/core/orders/index.ts';
import { MARKET, endWorlds, marketWorld, worldOf } from '../support/scenes.ts';
import { MemoryDeskStore } from '../support/stores.ts';
import { World, instrument, refusedAs } from '../support/world.ts';

const TIGHT = 100_000;
const both = (id: string, bid: string, ask: string): string[] => [
  `09:00:00.000 ${id} level bid ${bid} ${TIGHT}`,
  `09:00:00.000 ${id} level ask ${ask} ${TIGHT}`,
];

/** Buys and sells at market, each at the price that is shown then. */
type Deal = readonly [side: 'buy' | 'sell', quantity: string, price: string];

/** A market that shows just the price of each deal, and deals there. A deal that reduces does only that. */
async function dealt(id: string, account: string, deals: readonly Deal[], more: Partial<OrderRequest> = {}, mark: string | null = null): Promise<World> {
  const time = (i: number): string => `09:00:${String(i).padStart(2, '0')}`;
  const rows = deals.flatMap(([side, , price], i) => [
    `${time(2 * i + 1)}.000 ${id} level ${side === 'buy' ? 'ask' : 'bid'} ${price} ${TIGHT}`,
    `${time(2 * i + 2)}.000 ${id} level ${side === 'buy' ? 'ask' : 'bid'} ${price} 0`,
  ]);
  const last = mark === null ? [] : [`${time(2 * deals.length + 3)}.000 ${id} trade buy ${mark} 1`];
  const w = await worldOf([`09:00:00.000 ${id} state open`, ...rows, ...last]);
  for (const [i, [side, quantity, price]] of deals.entries()) {
    await w.to(`${time(2 * i + 1)}.500`);
    await w.placed({ instrument: id, account, side, quantity, limitPrice: price, timeInForce: 'ioc', crossesZero: true, ...more });
  }
  return w.to('09:01:00.000');
}

const fees = async (w: World, account: string): Promise<string> =>
  (await w.fills(account)).map(({ fee, instrument: of }) => formatMoney(fee, instrument(of).settlesIn)).join(' ');
const realised = async (w: World, account: string): Promise<string> =>
  (await w.fills(account)).map((fill) => formatMoney(fill.realised, instrument(fill.instrument).settlesIn)).join(' ');

describe('money (exact rules, Money)', () => {
  afterEach(endWorlds);

  describe('1 and 2: cost, average and what is realised', () => {
    const cases: readonly [what: string, deals: readonly Deal[], average: string | null, realised: string][] = [
      ['one entry has its price for average', [['buy', '100', '41.20']], '41.20', '0.00'],
      // 4120.00 + 8242.00 = 12362.00 for 300.
      [
        'several are weighted',
        [
          ['buy', '100', '41.20'],
          ['buy', '200', '41.21'],
        ],
        '41.20666667',
        '0.00 0.00',
      ],
      // A third of 12362.00 is 4120.66666667: 4118.00 less that. The rest has cost 8241.33333333.
      [
        'a reduction takes its share of the cost, half to even at 8 decimals, and the last unit what is left',
        [
          ['buy', '100', '41.20'],
          ['buy', '200', '41.21'],
          ['sell', '100', '41.18'],
          ['sell', '200', '41.18'],
        ],
        null,
        '0.00 0.00 -2.66666667 -5.33333333',
      ],
      [
        'short is the other way round',
        [
          ['sell', '100', '41.20'],
          ['buy', '40', '41.00'],
          ['buy', '60', '41.50'],
        ],
        null,
        '0.00 8.00 -18.00',
      ],
      [
        'the average of what is left stays as it was',
        [
          ['sell', '300', '41.20'],
          ['buy', '100', '41.00'],
        ],
        '41.20',
        '0.00 20.00',
      ],
    ];
    for (const [what, deals, average, brought] of cases)
      it(what, async () => {
        const w = await dealt('GANET.HALM', 'MAIN', deals);
        expect([(await w.position('MAIN')).averagePrice, await realised(w, 'MAIN')]).to.deep.equal([average, brought]);
      });

    it('counts by the multiplier: 3 futures of 10 up 4.5 points are 135.00', async () => {
      const w = await dealt('HALM40-JUN26.HALM', 'MAIN', [
        ['buy', '3', '4100.5'],
        ['sell', '3', '4105.0'],
      ]);
      expect(await realised(w, 'MAIN')).to.equal('0.00 135.00');
    });
    it('counts an option by its hundred', async () => {
      const w = await dealt('GANET-APR26-40C.HALM', 'MAIN', [
        ['buy', '2', '1.84'],
        ['sell', '2', '2.09'],
      ]);
      expect(await realised(w, 'MAIN')).to.equal('0.00 50.00');
    });
    it('counts fractions of spot exactly: 0.1234 at 64.86 and sold at 65.01', async () => {
      const w = await dealt('CARB-EUR.VSPR', 'NIGHT', [
        ['buy', '0.1234', '64.86'],
        ['sell', '0.1234', '65.01'],
      ]);
      expect(await realised(w, 'NIGHT')).to.equal('0.00 0.01851');
    });
  });

  describe('3: inverse contracts', () => {
    it('the worked example: 1,000 at 60 and 1,000 at 90 average 71.99999999, closed at 80 they make 2.77777778', async () => {
      const open = await dealt('CARBI.VSPR', 'NIGHT', [
        ['buy', '1000', '60.00'],
        ['buy', '1000', '90.00'],
      ]);
      expect((await open.position('NIGHT', 'CARBI.VSPR')).averagePrice).to.equal('71.99999999');
      const closed = await dealt('CARBI.VSPR', 'NIGHT', [
        ['buy', '1000', '60.00'],
        ['buy', '1000', '90.00'],
        ['sell', '2000', '80.00'],
      ]);
      expect(await realised(closed, 'NIGHT')).to.equal('0.00000000 0.00000000 2.77777778');
    });
    it('short gains when the price falls: 1,000 sold at 80 and bought at 60', async () => {
      const w = await dealt('CARBI.VSPR', 'NIGHT', [
        ['sell', '1000', '80.00'],
        ['buy', '1000', '60.00'],
      ]);
      // 1000/60 − 1000/80 = 16.66666667 − 12.5.
      expect(await realised(w, 'NIGHT')).to.equal('0.00000000 4.16666667');
    });
  });

  it('4: a fill through zero closes in one part, opens the rest at its own price, and has one fee', async () => {
    const w = await dealt('GANET.HALM', 'MAIN', [
      ['buy', '100', '41.20'],
      ['sell', '250', '41.50'],
    ]);
    const { quantity, averagePrice } = await w.position('MAIN');
    // 250 × 41.50 = 10375.00: 0.10 % is 10.375, half up 10.38.
    expect([quantity, averagePrice, await realised(w, 'MAIN'), await fees(w, 'MAIN')]).to.deep.equal(['-150', '41.50', '0.00 30.00', '4.12 10.38']);
  });

  describe('5: fees', () => {
    /** One order that is filled by several levels, so that what is charged with each shows. */
    const inParts = async (id: string, account: string, levels: readonly [price: string, quantity: string][]): Promise<string> => {
      const rows = levels.map(([price, quantity]) => `09:00:00.000 ${id} level ask ${price} ${quantity}`);
      const w = await worldOf(rows);
      await w.to('09:00:01.000');
      const quantity = String(levels.reduce((sum, [, one]) => sum + Number(one), 0));
      await w.placed({ instrument: id, account, quantity, limitPrice: levels[levels.length - 1]?.[0] ?? '' });
      return fees(w, account);
    };
    // 41.25 × 100 = 4125.00, 0.10 % = 4.125 → 4.13; the whole of 8250.00 is 8.25, so the second pays 4.12: never the sum of two roundings.
    it('of several fills are the fee of all so far less what was charged', async () =>
      expect(
        await inParts('GANET.HALM', 'MAIN', [
          ['41.25', '100'],
          ['41.26', '100'],
        ]),
      ).to.equal('4.13 4.12'));
    it('have their minimum with the first fill', async () =>
      expect(
        await inParts('GANET.HALM', 'MAIN', [
          ['41.20', '10'],
          ['41.21', '10'],
          ['41.22', '30'],
        ]),
      ).to.equal('2.00 0.00 0.06'));
    it('stop at their maximum', async () =>
      expect(
        await inParts('GANET.HALM', 'MAIN', [
          ['41.20', '900'],
          ['41.21', '100'],
          ['41.22', '100'],
        ]),
      ).to.equal('37.08 2.92 0.00'));
    it('of a future are by contract, the exchange’s outside of it', async () =>
      expect([
        await inParts('HALM40-JUN26.HALM', 'MAIN', [
          ['4100.0', '1'],
          ['4100.5', '2'],
        ]),
        await inParts('HALM40M-JUN26.HALM', 'EVAL', [['4100.0', '3']]),
      ]).to.deep.equal(['2.00 4.00', '5.10']));
    it('of an inverse contract are in the base asset: 0.05 % of quantity ÷ price', async () =>
      expect(await inParts('CARBI.VSPR', 'NIGHT', [['65.00', '1000']])).to.equal('0.00769231'));
    it('of a change of price are counted through all versions', async () => {
      const w = await worldOf(['09:00:00.000 GANET.HALM level ask 41.20 10', '09:00:02.000 GANET.HALM level ask 41.30 10']);
      await w.to('09:00:01.000');
      const id = await w.placed({ quantity: '20', limitPrice: '41.20' });
      await w.replace(id, { limitPrice: '41.30' });
      await w.to('09:00:02.000');
      expect(await fees(w, 'MAIN')).to.equal('2.00 0.00');
    });
  });

  it('6: what was carried counts for the day from the settlement, today’s from its price; unrealised from the average', async () => {
    const w = await worldOf([
      ...both('GANET.HALM', '41.18', '41.20'),
      '09:30:00.000 GANET.HALM trade buy 42.00 1',
      '2026-03-03T09:00:00.000Z GANET.HALM level ask 41.20 0',
      '2026-03-03T09:00:00.000Z GANET.HALM level ask 42.40 500',
      '2026-03-03T10:00:00.000Z GANET.HALM trade buy 42.50 1',
    ]);
    await w.to('09:00:01.000');
    await w.placed({ quantity: '100' });
    await w.to('2026-03-03T09:30:00.000Z');
    await w.placed({ quantity: '50', limitPrice: '42.40' });
    await w.to('2026-03-03T10:00:00.000Z');
    const { day, unrealised, averagePrice } = await w.position('MAIN');
    // 100 × (42.50 − 42.00) + 50 × (42.50 − 42.40) = 55.00; 150 at 41.60 are up 135.00. Yesterday's fee is not today's.
    expect([averagePrice, unrealised, day.unrealised, day.fees, day.net]).to.deep.equal(['41.60', '135.00', '55.00', '2.12', '52.88']);
  });

  it('7: spot is never short, and sells that aren’t reducing are together no more than what was bought', async () => {
    const w = await dealt('CARB-EUR.VSPR', 'NIGHT', [['buy', '10', '64.00']]);
    const sell = (quantity: string, more: Partial<OrderRequest> = {}) =>
      w.place({ instrument: 'CARB-EUR.VSPR', account: 'NIGHT', side: 'sell', quantity, limitPrice: '70.00', ...more });
    expect(refusedAs(await sell('10.0001'))).to.equal('422 /quantity');
    expect(refusedAs(await sell('6', { reduceOnly: false }))).to.equal('accepted');
    expect(refusedAs(await sell('4.0001', { reduceOnly: false }))).to.equal('422 /quantity');
    expect(refusedAs(await sell('4', { reduceOnly: false }))).to.equal('accepted');
  });

  describe('8: equity, margin and buying power of every kind, long and short', () => {
    interface Valued {
      readonly of: string;
      readonly account: string;
      readonly deals: readonly Deal[];
      readonly mark: string;
      readonly more?: Partial<OrderRequest>;
      /** Equity, margin used, maintenance, buying power. */
      readonly then: readonly [equity: string, margin: string, maintenance: string, power: string];
    }
    const cases: readonly Valued[] = [
      // Cash 100000 − 4120 − 4.12 = 95875.88; + 100 × 42.00. Half of 4200, 15 % of it.
      { of: 'GANET.HALM', account: 'MAIN', deals: [['buy', '100', '41.20']], mark: '42.00', then: ['100075.88', '2100.00', '630.00', '97975.88'] },
      {
        of: 'GANET.HALM',
        account: 'MAIN',
        deals: [['buy', '100', '41.20']],
        mark: '42.00',
        more: { product: 'intraday' },
        then: ['100075.88', '840.00', '630.00', '99235.88'],
      },
      // Cash 100000 + 4120 − 4.12 = 104115.88; − 100 × 42.00.
      { of: 'GANET.HALM', account: 'MAIN', deals: [['sell', '100', '41.20']], mark: '42.00', then: ['99915.88', '2100.00', '630.00', '97815.88'] },
      // Cash 100000 − 4.00; up 2 × 10 × 10.0 = 200.00. Value 2 × 10 × 4110 = 82200.00: a tenth, 4 %.
      { of: 'HALM40-JUN26.HALM', account: 'MAIN', deals: [['buy', '2', '4100.0']], mark: '4110.0', then: ['100196.00', '8220.00', '3288.00', '91976.00'] },
      { of: 'HALM40-JUN26.HALM', account: 'MAIN', deals: [['sell', '2', '4100.0']], mark: '4110.0', then: ['99796.00', '8220.00', '3288.00', '91576.00'] },
      // Cash 100000 − 2 × 209.00 − 4.00 = 99578.00; worth 2 × 100 × 2.50 = 500.00, which is tied up in full.
      { of: 'GANET-APR26-40C.HALM', account: 'MAIN', deals: [['buy', '2', '2.09']], mark: '2.50', then: ['100078.00', '500.00', '500.00', '99578.00'] },
      // Cash 25000 − 5.10; down 3 × 1 × 5.0.
      { of: 'HALM40M-JUN26.HALM', account: 'EVAL', deals: [['buy', '3', '4100.0']], mark: '4095.0', then: ['24979.90', '1228.50', '491.40', '23751.40'] },
      // Wallet 20000 − 640 − 0.64; 10 CARB bought and 50 in the other wallet at 66.00.
      { of: 'CARB-EUR.VSPR', account: 'NIGHT', deals: [['buy', '10', '64.00']], mark: '66.00', then: ['23319.36', '660.00', '660.00', '22659.36'] },
    ];
    for (const { of, account, deals, mark, more, then } of cases)
      it(`${deals.map((deal) => deal.join(' ')).join(', ')} ${of}${more?.product ? ` ${more.product}` : ''}, marked at ${mark}`, async () => {
        const w = await dealt(of, account, deals, more, mark);
        const { equity, marginUsed, maintenance, buyingPower } = await w.money(account);
        expect([equity, marginUsed, maintenance, buyingPower]).to.deep.equal(then);
      });

    it('a short option ties up 0.20 of its underlying’s value and its premium', async () => {
      const id = 'GANET-APR26-40C.HALM';
      const w = await worldOf([
        ...both('GANET.HALM', '41.00', '41.00'),
        '09:00:00.000 GANET.HALM trade buy 41.00 1',
        ...both(id, '2.00', '2.10'),
        `09:00:01.000 ${id} trade buy 2.00 1`,
      ]);
      await w.to('09:00:02.000');
      await w.placed({ instrument: id, side: 'sell', quantity: '2', limitPrice: '2.00' });
      const { equity, marginUsed, maintenance } = await w.money('MAIN');
      // 0.20 × 2 × 100 × 41.00 = 1640.00, and 400.00 of premium. Cash 100000 + 400 − 4.00; − 400 short.
      expect([equity, marginUsed, maintenance]).to.deep.equal(['99996.00', '2040.00', '2040.00']);
    });
    it('an inverse position counts in its wallet’s asset, at the mark of CARB', async () => {
      const w = await dealt('CARBI.VSPR', 'NIGHT', [['buy', '1000', '62.50']], {}, '64.00');
      const { equity, marginUsed, wallets } = await w.money('NIGHT');
      // Fee 0.05 % of 16 = 0.008. Up 16 − 15.625 = 0.375 CARB. (50 − 0.008 + 0.375) × 64.00 = 3223.488.
      expect(wallets.find(({ purpose }) => purpose === 'contract')?.total).to.equal('49.99200000');
      // A tenth of 1000 ÷ 64.00 = 1.5625 CARB, 100.00 in EUR.
      expect([equity, marginUsed]).to.deep.equal(['23223.488', '100.00']);
    });
    it('an order needs its margin and its fees within the buying power; a working one takes its margin', async () => {
      const w = await worldOf([...both('GANET.HALM', '41.18', '41.20')]);
      await w.to('09:00:01.000');
      await w.placed({ quantity: '2000', limitPrice: '40.00' });
      expect((await w.money('MAIN')).buyingPower).to.equal('60000.00');
      // 3000 × 40.00 × 0.5 = 60000.00, and 40.00 of fees.
      expect(refusedAs(await w.place({ quantity: '3000', limitPrice: '40.00' }))).to.equal('422 buyingPower');
      // 2998 × 40.00 × 0.5 + 40.00 = 60000.00 just fits.
      expect(refusedAs(await w.place({ quantity: '2998', limitPrice: '40.00' }))).to.equal('accepted');
      expect((await w.money('MAIN')).buyingPower).to.equal('40.00');
    });
  });
});

describe('commission that was agreed', () => {
  afterEach(endWorlds);
  const line = { kind: 'share', basis: 'per-order', rate: money('3'), minimum: null, maximum: null, exchangeFee: money('0'), currency: 'EUR', from: '2026-03-03' } as const; // prettier-ignore

  it('is taken from the broker by a desk whose database is gone, long after it was reported', async () => {
    const w = await marketWorld();
    expect((await w.desk.agree('MAIN', line)).ok).to.equal(true);
    await w.venueStore.forgetReports('MAIN', Number.MAX_SAFE_INTEGER);
    await w.desk.close();
    const fresh = await World.open(MARKET, { desk: new MemoryDeskStore(), venue: w.venueStore });
    expect(fresh.desk.account('MAIN').book.coming).to.deep.equal([line]);
    await fresh.close();
  });

  it('never gives back what an order was charged before it fell', async () => {
    const w = await worldOf([...MARKET, '2026-03-03T09:00:00.000Z GANET.HALM level ask 41.20 300']);
    await w.to('09:00:00.500');
    // 300 of 600 by the first day's schedule, the rest on the next, where all of it would cost three.
    const id = await w.placed({ type: 'limit', limitPrice: '41.20', quantity: '600', timeInForce: 'gtc' });
    await w.desk.agree('MAIN', line);
    await w.to('2026-03-03T09:00:01.000Z');
    const charged = (await w.fills()).filter(({ orderId }) => orderId === id).map(({ fee }) => formatMoney(fee, 'EUR'));
    expect(charged, '0.10 % of 12,360.00, then nothing').to.deep.equal(['12.36', '0.00']);
  });
});
