import { expect } from 'chai';
import { balancesOf } from '../../src/client/balances.ts';
import type { ApiAccount } from '../../src/live/index.ts';

const MAIN = {
  id: 'MAIN',
  currency: 'EUR',
  cash: '90000.00',
  equity: '100000.00',
  marginUsed: '12000.00',
  buyingPower: '88000.00',
  wallets: [],
  marginCall: false,
};
const wallet = (asset: string, purpose: string, total: string, inEur: string) => ({ asset, purpose, total, tiedUp: '0', available: total, inEur });
const NIGHT = {
  id: 'NIGHT',
  wallets: [wallet('EUR', 'spot', '20000.00', '20000.00'), wallet('CARB', 'spot', '3', '240.00'), wallet('CARB', 'contract', '50', '4000.00')],
};
const KNOWN = [
  { id: 'GANET.HALM', kind: 'share' as const, ticker: 'GANET', currency: 'EUR' as const, settlesIn: 'EUR' as const },
  { id: 'CARB-EUR.VSPR', kind: 'spot' as const, ticker: 'CARB-EUR', currency: 'EUR' as const, settlesIn: 'EUR' as const },
  { id: 'CARB-PERP.VSPR', kind: 'inverse' as const, ticker: 'CARB-PERP', currency: 'EUR' as const, settlesIn: 'CARB' as const },
];
const order = (account: string, side: 'buy' | 'sell', remainingQuantity: string, instrument: string, opening = true) => ({
  account,
  side,
  remainingQuantity,
  instrument,
  opening,
});
const of = (account: object, ...orders: ReturnType<typeof order>[]) => balancesOf(account as ApiAccount, orders, (id) => KNOWN.find((one) => one.id === id));

describe('the balances of an account', () => {
  it('are its cash and its equity, tied up by what opens in it', () => {
    const rows = of(MAIN, order('MAIN', 'buy', '100', 'GANET.HALM'), order('MAIN', 'sell', '40', 'GANET.HALM', false), order('EVAL', 'buy', '1', 'GANET.HALM'));
    expect(rows.map(({ what, total, tiedUp, available, by }) => [what, total, tiedUp, available, by])).to.deep.equal([
      ['EUR, cash', '90000.00', '12000.00', '88000.00', ['buy 100 GANET.HALM']],
      ['EUR, equity', '100000.00', '12000.00', '88000.00', ['buy 100 GANET.HALM']],
    ]);
    expect(of({ ...MAIN, marginCall: true })[1]?.what).to.equal('EUR, equity: MARGIN CALL, no opening');
  });

  it('are its wallets: what is bought ties up the money, what is sold the asset, contracts their own wallet', () => {
    const rows = of(
      NIGHT,
      order('NIGHT', 'buy', '2', 'CARB-EUR.VSPR'),
      order('NIGHT', 'sell', '1.5', 'CARB-EUR.VSPR', false),
      order('NIGHT', 'sell', '300', 'CARB-PERP.VSPR'),
      order('NIGHT', 'buy', '300', 'CARB-PERP.VSPR', false),
    );
    expect(rows.map(({ what, inEur, by }) => [what, inEur, by])).to.deep.equal([
      ['EUR, spot', '20000.00', ['buy 2 CARB-EUR.VSPR']],
      ['CARB, spot', '240.00', ['sell 1.5 CARB-EUR.VSPR']],
      ['CARB, contract', '4000.00', ['sell 300 CARB-PERP.VSPR']],
    ]);
  });
});
