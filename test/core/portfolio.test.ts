import { asHalves, asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import { expect } from 'chai';
import fc from 'fast-check';
import { moneyOf, formatMoney, formatScaled, inCents, money, sumOf } from '../../src/core/number/index.ts';
import {
  applyFill,
  averagePrice,
  bookFill,
  dayResult,
  commissionOf,
  flatPosition,
  openAccount,
  turnDay,
  unrealised,
  valueAt,
  type DayPosition,
  type FillTerms,
  type Position,
} from '../../src/core/portfolio/index.ts';
import { account, at, instrument } from '../support/world.ts';

const GANET = instrument('GANET.HALM');
const CARBI = instrument('CARBI.VSPR');
const SALMO = instrument('SALMO-JUN26.HALM');

const fill = (side: 'buy' | 'sell', quantity: number, price: number, fee = 0n): FillTerms => ({
  side,
  quantity: asQuantity(quantity),
  price: asPrice(price),
  fee: moneyOf(fee),
  product: 'overnight',
  time: at('09:00:00.000'),
});

function after(of: typeof GANET, fills: readonly FillTerms[]): { position: Position; realised: bigint } {
  let position = flatPosition(of.id, 0);
  let realised = 0n;
  for (const one of fills) {
    const applied = applyFill(of, position, one);
    position = applied.position;
    realised += applied.realised;
  }
  return { position, realised };
}

describe('a position', () => {
  it('averages its entries by weight and realises what a reduction brought over its cost', () => {
    const { position, realised } = after(GANET, [fill('buy', 100, 4100), fill('buy', 200, 4130), fill('sell', 150, 4140)]);
    expect(formatScaled(averagePrice(GANET, position.quantity, position.cost) ?? 0n, 8)).to.equal('41.20000000');
    expect(formatMoney(moneyOf(realised), 'EUR')).to.equal('30.00');
    expect(position.quantity).to.equal(150);
  });

  it('of inverse contracts averages harmonically and gains in the base asset', () => {
    // The published case: 1,000 at 60 and 1,000 at 90, closed at 80.
    const opened = after(CARBI, [fill('buy', 1000, 6000), fill('buy', 1000, 9000)]);
    expect(formatScaled(averagePrice(CARBI, asQuantity(2000), opened.position.cost) ?? 0n, 8)).to.equal('71.99999999');
    const closed = applyFill(CARBI, opened.position, fill('sell', 2000, 8000));
    expect(formatMoney(closed.realised, 'CARB')).to.equal('2.77777778');
    expect(closed.position.cost).to.equal(0n);
  });

  it('that crosses zero closes in one part and opens the rest at the fill’s price', () => {
    const { position, realised } = after(GANET, [fill('buy', 100, 4100), fill('sell', 250, 4200)]);
    expect(formatMoney(moneyOf(realised), 'EUR')).to.equal('100.00');
    expect(position.quantity).to.equal(-150);
    expect(formatScaled(averagePrice(GANET, position.quantity, position.cost) ?? 0n, 8)).to.equal('42.00000000');
  });

  it('counts money by the multiplier', () => {
    const { realised } = after(SALMO, [fill('sell', 2, 720), fill('buy', 2, 715)]);
    expect(formatMoney(moneyOf(realised), 'EUR')).to.equal('50.00');
  });

  it('carried over the day’s turn counts from the settlement price for the day, from its average for all', () => {
    const { position } = after(GANET, [fill('buy', 100, 4100)]);
    const carried = turnDay(GANET, position, asPrice(4150));
    expect(formatMoney(unrealised(GANET, asQuantity(100), carried.dayCost, asHalves(4160 * 2)), 'EUR')).to.equal('10.00');
    expect(formatMoney(unrealised(GANET, asQuantity(100), carried.cost, asHalves(4160 * 2)), 'EUR')).to.equal('60.00');
    const closed = applyFill(GANET, carried, fill('sell', 100, 4140));
    expect(formatMoney(closed.position.dayRealised, 'EUR')).to.equal('-10.00');
    expect(formatMoney(closed.realised, 'EUR')).to.equal('40.00');
  });

  const trades = fc.array(
    fc.record({
      side: fc.constantFrom('buy' as const, 'sell' as const),
      quantity: fc.integer({ min: 1, max: 900 }),
      price: fc.integer({ min: 100, max: 9999 }),
    }),
    { minLength: 1, maxLength: 30 },
  );

  it('sums to zero between the two sides of every trade', () => {
    fc.assert(
      fc.property(trades, fc.integer({ min: 100, max: 9999 }), (all, mark) => {
        const mine = after(
          GANET,
          all.map((t) => fill(t.side, t.quantity, t.price)),
        );
        const theirs = after(
          GANET,
          all.map((t) => fill(t.side === 'buy' ? 'sell' : 'buy', t.quantity, t.price)),
        );
        const open = (p: Position): bigint => unrealised(GANET, p.quantity, p.cost, asHalves(mark * 2));
        expect(mine.realised + open(mine.position) + theirs.realised + open(theirs.position)).to.equal(0n);
      }),
    );
  });

  it('once flat has realised exactly what its sells brought over its buys', () => {
    fc.assert(
      fc.property(trades, fc.integer({ min: 100, max: 9999 }), (all, last) => {
        const net = all.reduce((sum, t) => sum + (t.side === 'buy' ? t.quantity : -t.quantity), 0);
        const closing = net === 0 ? [] : [{ side: net > 0 ? ('sell' as const) : ('buy' as const), quantity: Math.abs(net), price: last }];
        const whole = [...all, ...closing];
        const { position, realised } = after(
          GANET,
          whole.map((t) => fill(t.side, t.quantity, t.price)),
        );
        const cash = whole.reduce((sum, t) => sum + (t.side === 'sell' ? 1n : -1n) * valueAt(GANET, asQuantity(t.quantity), asPrice(t.price)), 0n);
        expect(position.quantity).to.equal(0);
        expect(position.cost).to.equal(0n);
        expect(realised).to.equal(cash);
      }),
    );
  });
});

describe('a fee', () => {
  const line = (id: string, kind: string) => {
    const found = account(id).commission.find((one) => one.kind === kind);
    if (!found) throw new Error('no such line');
    return found;
  };
  const cases = [
    { of: GANET, account: 'MAIN', quantity: 10, price: 4120, fee: '2.00', why: 'the minimum' },
    { of: GANET, account: 'MAIN', quantity: 300, price: 4120, fee: '12.36', why: '0.10 % of the value' },
    { of: GANET, account: 'MAIN', quantity: 5000, price: 4120, fee: '40.00', why: 'the maximum' },
    { of: SALMO, account: 'MAIN', quantity: 3, price: 720, fee: '6.00', why: 'commission and exchange fee a contract' },
    { of: SALMO, account: 'EVAL', quantity: 3, price: 720, fee: '5.10', why: 'the small account’s own rate' },
    { of: instrument('CARB-EUR.VSPR'), account: 'NIGHT', quantity: 12_345, price: 6408, fee: '0.08', why: 'a fraction, rounded half up to a cent' },
    { of: CARBI, account: 'NIGHT', quantity: 1000, price: 6400, fee: '0.00781250', why: 'in CARB' },
  ];
  for (const { of, account: id, quantity, price, fee, why } of cases)
    it(`is ${fee} for ${quantity} of ${of.id} in ${id}: ${why}`, () => {
      expect(formatMoney(commissionOf(line(id, of.kind), of, asQuantity(quantity), valueAt(of, asQuantity(quantity), asPrice(price))), of.settlesIn)).to.equal(
        fee,
      );
    });

  it('of several fills is the fee of the whole', () => {
    const of = line('MAIN', 'share');
    let charged = 0n;
    let quantity = 0;
    let value = 0n;
    for (const [size, price] of [
      [10, 4120],
      [40, 4121],
      [450, 4119],
    ] as const) {
      quantity += size;
      value += valueAt(GANET, asQuantity(size), asPrice(price));
      charged += commissionOf(of, GANET, asQuantity(quantity), moneyOf(value)) - charged;
    }
    expect(charged).to.equal(commissionOf(of, GANET, asQuantity(500), moneyOf(value)));
    expect(formatMoney(commissionOf(of, GANET, asQuantity(10), valueAt(GANET, asQuantity(10), asPrice(4120))), 'EUR')).to.equal('2.00');
  });
});

describe('an account', () => {
  it('pays for shares in cash and keeps futures’ results only', () => {
    const main = openAccount(account('MAIN'));
    const bought = bookFill(main, GANET, fill('buy', 100, 4120, money('4.12'))).book;
    expect(formatMoney(bought.cash, 'EUR')).to.equal('95875.88');
    const future = bookFill(main, SALMO, fill('buy', 1, 720, money('2.00'))).book;
    expect(formatMoney(future.cash, 'EUR')).to.equal('99998.00');
  });

  it('moves spot between its wallets and inverse results in the contract wallet', () => {
    const night = openAccount(account('NIGHT'));
    const bought = bookFill(night, instrument('CARB-EUR.VSPR'), fill('buy', 25_000, 6400, money('0.16'))).book;
    expect(bought.wallets.map((wallet) => `${wallet.asset} ${formatScaled(wallet.total, 8, 2)}`)).to.deep.equal(['EUR 19839.84', 'CARB 2.50', 'CARB 50.00']);
  });

  it('settles shares on the second trading day after', () => {
    const friday = { ...fill('buy', 100, 4120), time: Date.parse('2026-03-06T10:00:00.000Z') };
    const [lot] = bookFill(openAccount(account('MAIN')), GANET, friday).book.unsettled;
    expect(new Date(lot?.settlesAt ?? 0).toISOString()).to.equal('2026-03-10T00:00:00.000Z');
  });
});

describe('the day of an account', () => {
  const position = (account: string, id: string, currency: string, [realised, unrealised, fees]: [string, string, string], mark: string | null = '1'): DayPosition =>
    ({ account, instrument: id, currency, mark, day: { realised, unrealised, fees }, openRisk: null, unitsWithoutStop: '0' }); // prettier-ignore
  const day = (...positions: DayPosition[]): string[] | null => {
    const found = dayResult(positions, 'MAIN');
    return found && [found.realised, found.open, found.net].map(inCents);
  };

  it('adds what its positions made, exactly, and takes the fees off', () => {
    const tenths = Array.from({ length: 3 }, (_, i) => position('MAIN', `A${i}.HALM`, 'EUR', ['0.1', '0.2', '0.01']));
    expect(day(...tenths, position('OTHER', 'B.HALM', 'EUR', ['99', '99', '0']))).to.deep.equal(['0.27', '0.60', '0.87']);
    expect(day()).to.deep.equal(['0.00', '0.00', '0.00']);
  });

  it('takes CARB at its mark, and is not known without one', () => {
    const inverse = (mark: string | null): DayPosition => position('MAIN', 'CARBI.VSPR', 'CARB', ['0.5', '-0.25', '0.01'], mark);
    expect(day(inverse('60.00'))).to.deep.equal(['29.40', '-15.00', '14.40']);
    expect(day(inverse('60.00'), position('OTHER', 'CARB-EUR.VSPR', 'EUR', ['0', '0', '0'], '70.00'))).to.deep.equal(['34.30', '-17.50', '16.80']);
    expect(day(inverse(null))).to.equal(null);
  });

  it('tells what the stops would lose, CARB at its mark, and what has none', () => {
    const risky = (id: string, currency: string, openRisk: string | null, unitsWithoutStop: string): DayPosition => ({
      ...position('MAIN', id, currency, ['0', '0', '0'], '60.00'),
      openRisk,
      unitsWithoutStop,
    });
    const found = dayResult(
      [risky('GANET.HALM', 'EUR', '48.20', '0'), risky('KELPA.HALM', 'EUR', '10', '50'), risky('CARBI.VSPR', 'CARB', '0.5', '0')],
      'MAIN',
    );
    expect(found && [inCents(found.openRisk), found.withoutStop]).to.deep.equal(['88.20', ['KELPA.HALM']]);
  });

  it('adds quantities of any steps without a binary rest', () => {
    expect(sumOf(['8.05', '2.224'])).to.equal('10.274');
    expect(sumOf(['300', '1200'])).to.equal('1500');
    expect(sumOf([])).to.equal('0');
    fc.assert(
      fc.property(fc.array(fc.bigInt({ min: 0n, max: 10n ** 12n })), (steps) => {
        expect(sumOf(steps.map((step) => formatScaled(step, 4, 0)))).to.equal(
          formatScaled(
            steps.reduce((a, b) => a + b, 0n),
            4,
            0,
          ),
        );
      }),
    );
  });
});
