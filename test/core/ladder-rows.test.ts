import { asPrice } from '../../src/core/instrument/index.ts';
import { expect } from 'chai';
import { makesText, rowOf, rowPrices } from '../../src/views/panes/ladder/rows.ts';
import { instrument } from '../support/world.ts';

describe('the rows of a ladder', () => {
  const GANET = instrument('GANET.HALM');
  it('stand on the grid with the centre in the middle, across a change of tick too', () => {
    expect(rowPrices(GANET, asPrice(4118), 5, 1)).to.deep.equal([4120, 4119, 4118, 4117, 4116]);
    expect(rowPrices(instrument('KELPA.HALM'), asPrice(10_000), 5, 1)).to.deep.equal([10_020, 10_010, 10_000, 9_995, 9_990]);
  });
  it('of five ticks stand on their multiples; bids round down, asks up', () => {
    const rows = rowPrices(GANET, asPrice(4118), 4, 5);
    expect(rows).to.deep.equal([4125, 4120, 4115, 4110]);
    expect([rowOf(rows, asPrice(4119), 'bid'), rowOf(rows, asPrice(4119), 'ask')]).to.deep.equal([2, 1]);
  });
  it('hold nothing that lies beyond them', () => {
    const rows = rowPrices(GANET, asPrice(4118), 5, 1);
    expect([
      rowOf(rows, asPrice(4121), 'bid'),
      rowOf(rows, asPrice(4121), 'ask'),
      rowOf(rows, asPrice(4115), 'bid'),
      rowOf(rows, asPrice(4115), 'ask'),
    ]).to.deep.equal([-1, -1, -1, -1]);
  });

  it('say what the position makes there in whole money, nothing without one and no sign at nothing', () => {
    expect([null, 0, 0.4, -0.4, 12.6, -5, 9_999, -20_320, 99_949, 99_999, 100_000, 999_600, -1_234_567].map(makesText)).to.deep.equal([
      '',
      '0',
      '0',
      '0',
      '+13',
      '−5',
      '+9999',
      '−20.3k',
      '+99.9k',
      '+100k',
      '+100k',
      '+1.0M',
      '−1.2M',
    ]);
  });
});
