import { expect } from 'chai';
import fc from 'fast-check';
import { TAG_PX, standApart } from '../../src/views/panes/chart/tag-rows.ts';

describe('tags of orders', () => {
  it('stand at their own prices while they have room', () => {
    expect(standApart([200, 100], 12, 400)).to.deep.equal([200, 100]);
  });
  it('stand below one another where their prices are close, in the order of the prices', () => {
    expect(standApart([110, 100, 104], 12, 400)).to.deep.equal([148, 100, 124]);
  });
  it('never cover one another nor leave the plot, as long as it has room for all', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -50, max: 650 }), { maxLength: 20 }), (heights) => {
        const found = [...standApart(heights, TAG_PX / 2, 600 - TAG_PX / 2)].sort((a, b) => a - b);
        found.forEach((middle, i) => {
          expect(middle).to.be.within(TAG_PX / 2, 600 - TAG_PX / 2);
          if (i > 0) expect(middle - (found[i - 1] ?? 0)).to.be.at.least(TAG_PX);
        });
      }),
    );
  });
});
