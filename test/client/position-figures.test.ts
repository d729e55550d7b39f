import { expect } from 'chai';
import { inR, negated, openPercent, openTicks, sumsByCurrency } from '../../src/client/position-figures.ts';
import { instrument } from '../support/world.ts';

const held = (quantity: string, averagePrice: string | null, mark: string | null) => ({ quantity, averagePrice, mark });

describe('how far a position has come', () => {
  const ganet = instrument('GANET.HALM');
  const inverse = instrument('CARBI.VSPR');

  it('is told in percent of its cost, short the other way round', () => {
    expect(openPercent(held('100', '40', '41'), ganet)).to.equal('2.50');
    expect(openPercent(held('-100', '40', '41'), ganet)).to.equal('-2.50');
  });

  it('is told of an inverse contract in percent of the asset it cost', () => {
    // 1,000 at 50 cost 20; at 80 they are worth 12.5, so 7.5 are made: 37.5 %.
    expect(openPercent(held('1000', '50', '80'), inverse)).to.equal('37.50');
  });

  it('is told in ticks of the band at the mark', () => {
    expect(openTicks(held('100', '41.005', '41.02'), ganet)).to.equal('1.5');
    expect(openTicks(held('-100', '41.00', '41.02'), ganet)).to.equal('-2.0');
  });

  it('is told in multiples of what was risked first', () => {
    expect(inR('-45', '30')).to.equal('-1.5');
    expect(inR('-1.55', '100')).to.equal('0.0');
    expect(inR('10', null)).to.equal(null);
    expect(inR('10', '0')).to.equal(null);
  });

  it('is summed by currency, exactly, and by no other', () => {
    const amounts = [
      { currency: 'CARB', amount: '0.00000001' },
      { currency: 'EUR', amount: '0.1' },
      { currency: 'EUR', amount: '0.2' },
      { currency: 'CARB', amount: '-0.00000003' },
    ];
    expect(sumsByCurrency(amounts)).to.deep.equal([
      ['EUR', '0.3'],
      ['CARB', '-0.00000002'],
    ]);
    expect(sumsByCurrency([])).to.deep.equal([]);
    expect(['1.5', '-1.5', '0.00'].map(negated)).to.deep.equal(['-1.5', '1.5', '0.00']);
  });

  it('is not told while flat or without a mark', () => {
    expect(openPercent(held('0', null, '41'), ganet)).to.equal(null);
    expect(openTicks(held('100', '41', null), ganet)).to.equal(null);
  });
});
