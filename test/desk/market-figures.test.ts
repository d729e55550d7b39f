import { expect } from 'chai';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { busiest, measure, printsASecond } from '../../tools/market.ts';

describe('the demo market’s figures', function () {
  this.timeout(60_000);
  // An index is quoted to the cent and not traded: its ticks say nothing.
  for (const { id } of FIXED_INSTRUMENTS.filter(({ kind }) => kind !== 'index'))
    it(`${id} moves enough ticks, its minutes are rough, and what they did says little of what they will`, () => {
      const { ticks, flat, lag1, lag10, kurtosis } = measure(id);
      expect(ticks, 'ticks on a median day').to.be.within(40, 250);
      expect(flat, 'share of flat minutes').to.be.below(0.3);
      expect(lag1, 'lag 1').to.be.within(-0.1, 0.1);
      expect(lag10, 'size at lag 10').to.be.within(0.04, 0.3);
      expect(kurtosis).to.be.within(4, 200);
    });

  it('volume is high at the open and low about noon', () => {
    expect(measure('GANET.HALM').u).to.be.greaterThan(1.5);
  });

  it('the ten busiest of HALM print one to five times a second in the first half hour', () => {
    for (const id of busiest()) expect(printsASecond(id), id).to.be.within(1, 5);
  });
});
