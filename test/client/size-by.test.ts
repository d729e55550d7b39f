import { expect } from 'chai';
import { sizePhrase, type SizeAsked } from '../../src/client/size-by.ts';
import { parseOrder } from '../../src/core/language/index.ts';

const ORDER = { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', limitPrice: '41.20' } as const;
const RISK: SizeAsked = { by: 'risk', amount: '200', to: '40.80' };

describe('the size of an order from what may be risked or spent', () => {
  it('is asked for as an order phrase of the order that it is for', () => {
    expect(sizePhrase(RISK, ORDER)).to.equal('buy risking 200 to 40.80 GANET.HALM at 41.20, account MAIN');
    expect(sizePhrase({ ...RISK, by: 'money' }, ORDER)).to.equal('buy for 200 GANET.HALM at 41.20, account MAIN');
    expect(sizePhrase({ ...RISK, by: 'buying power', amount: '10' }, { ...ORDER, type: 'market', limitPrice: undefined })).to.equal(
      'buy 10 % of buying power GANET.HALM at market, account MAIN',
    );
    expect(sizePhrase(RISK, { ...ORDER, type: 'stop', limitPrice: undefined, stopPrice: '41.50' })).to.contain(' stop 41.50, ');
    const sticking = { ...ORDER, side: 'sell', type: 'stop-limit', limitPrice: undefined, stopPrice: '40.50', limitOffsetTicks: 5 } as const;
    expect(sizePhrase({ ...RISK, to: 'ask + 1 %' }, sticking)).to.equal('sell risking 200 to ask + 1 % GANET.HALM stop 40.50 limit - 5 ticks, account MAIN');
  });

  it('is one that can be read, whatever it follows from', () => {
    const orders = [
      ORDER,
      { ...ORDER, type: 'market', limitPrice: undefined },
      { ...ORDER, type: 'stop', limitPrice: undefined, stopPrice: '41.50' },
      { ...ORDER, type: 'stop-limit', stopPrice: '41.50', limitPrice: '41.60' },
      { ...ORDER, type: 'trailing-stop', limitPrice: undefined, trail: { unit: 'ticks', value: '20' } },
    ] as const;
    for (const by of ['risk', 'money', 'buying power', 'equity', 'position'] as const)
      for (const order of orders) {
        const phrase = sizePhrase({ by, amount: '12.5', to: '40' }, order);
        expect(phrase && parseOrder(phrase).ok, String(phrase)).to.equal(true);
      }
  });

  it('is not asked for while something is missing', () => {
    expect(sizePhrase({ ...RISK, amount: '' }, ORDER)).to.equal(null);
    expect(sizePhrase({ ...RISK, amount: 'much' }, ORDER)).to.equal(null);
    expect(sizePhrase({ ...RISK, to: '' }, ORDER)).to.equal(null);
    expect(sizePhrase(RISK, { ...ORDER, limitPrice: undefined })).to.equal(null);
    expect(sizePhrase(RISK, { ...ORDER, type: 'trailing-stop', trail: { unit: 'money', value: '20' } })).to.equal(null);
  });
});
