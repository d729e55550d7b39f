import { expect } from 'chai';
import fc from 'fast-check';
import { sizeWorth, type AskedMarket } from '../../src/client/size-worth.ts';
import { asHalves, asPrice, type Instrument } from '../../src/core/instrument/index.ts';
import { instrument } from '../support/world.ts';

const line = (kind: string, basis: string, rate: string, minimum: string | null = null, exchangeFee = '0') =>
  ({ kind, basis, rate, minimum, maximum: null, exchangeFee, currency: kind === 'inverse' ? 'CARB' : 'EUR', from: '2026-01-01' }) as const;
const account = (
  buyingPower: string,
  commission: ReturnType<typeof line>[],
  wallets: { asset: string; purpose: 'spot' | 'contract'; available: string }[] = [],
) => ({
  buyingPower,
  commission,
  wallets: wallets.map((one) => ({ ...one, total: one.available, tiedUp: '0', inEur: '0.00' })),
});
const market = (price: number | null): AskedMarket => ({
  instrument: (id) => instrument(id),
  mark: () => (price === null ? null : asHalves(price * 2)),
  ask: () => (price === null ? null : asPrice(price)),
});
const GANET = instrument('GANET.HALM');
const worth = (of: Instrument, size: string, price: number | null, given: ReturnType<typeof account>) => sizeWorth(of, size, given, market(price));

describe('what a size is worth', () => {
  it('is its value at the ask, and of what is traded by its ticks what one makes on it', () => {
    expect(worth(GANET, '300', 4120, account('0', []))).to.deep.equal({ value: '12360.00 EUR', tick: null, canBuy: null });
    const future = instrument('SALMO-JUN26.HALM');
    const units = 68.65 * 10 ** future.priceDecimals;
    expect(worth(future, '2', Math.round(units), account('0', []))?.tick).to.equal('50.00');
  });

  it('is not told without an ask, nor for what is no quantity', () => {
    expect(worth(GANET, '300', null, account('1000', []))).to.equal(null);
    expect(worth(GANET, '1.5', 4120, account('1000', []))).to.equal(null);
  });

  it('has no money per tick for what is not', () => {
    expect(worth(instrument('CARBI.VSPR'), '100', 6000, account('0', []))?.tick).to.equal(null);
  });

  it('buys as much as margin and fees leave room for, by hand', () => {
    // 50 % of 41.20 a share and 0.05 % of its value: 20.6206 each.
    const percent = account('1000', [line('share', 'percent', '0.05')]);
    expect(GANET.margin.overnight).to.equal(5000);
    expect(worth(GANET, '50', 4120, percent)?.canBuy).to.equal('48');
    // A minimum of 5.00 takes its room first.
    expect(worth(GANET, '50', 4120, account('1000', [line('share', 'percent', '0.05', '5')]))?.canBuy).to.equal('48');
    expect(worth(GANET, '50', 4120, account('20.65', [line('share', 'percent', '0.05')]))?.canBuy).to.equal('1');
    expect(worth(GANET, '50', 4120, account('20.61', [line('share', 'percent', '0.05')]))?.canBuy).to.equal(null);
  });

  it('buys spot from its wallet, whole', () => {
    const spot = instrument('CARB-EUR.VSPR');
    const wallet = account('0', [line('spot', 'percent', '0')], [{ asset: 'EUR', purpose: 'spot', available: '1000' }]);
    expect(worth(spot, '0.1', 6250, wallet)?.canBuy).to.equal('16');
  });

  it('fits the room, and one step more would not', () => {
    fc.assert(
      fc.property(fc.integer({ min: 100, max: 9_999_999 }), fc.integer({ min: 100, max: 20_000 }), (cents, price) => {
        const room = (cents / 100).toFixed(2);
        const most = worth(GANET, '50', price, account(room, [line('share', 'per-unit', '0.01')]))?.canBuy ?? '0';
        const needs = (many: number): number => Math.round((many * price) / 2) / 100 + many * 0.01;
        expect(needs(Number(most))).to.be.at.most(cents / 100 + 0.006);
        expect(needs(Number(most) + 1)).to.be.above(cents / 100 - 0.006);
      }),
    );
  });
});
