import { expect } from 'chai';
import { LATELY, halfOf, lately, latelyWords } from '../../src/client/setups.ts';

describe('how a setup has done lately', () => {
  it('counts the last twenty, and R only of those that had a stop', () => {
    const old = Array.from({ length: 10 }, () => ({ netEur: '100', r: '5' }));
    const trips = [...old, ...Array.from({ length: LATELY - 2 }, () => ({ netEur: '-10', r: '-1' })), { netEur: '30', r: '3' }, { netEur: '5', r: null }];
    const done = lately(trips);
    expect([done.count, done.won, done.meanR]).to.deep.equal([20, 2, -15 / 19]);
    expect(done.marks[18]).to.deep.equal({ net: 30, r: 3 });
    expect(latelyWords('Pullback', done)).to.equal('Pullback, the last 20: 2 won, −0.79 R on average');
    expect(latelyWords('Pair', lately([{ netEur: '1', r: null }]))).to.equal('Pair, the last 1: 1 won, none with a stop');
    expect(lately([]).meanR).to.equal(null);
  });

  it('offers half of a size on the step, where there is a half', () => {
    expect([halfOf('300', 0), halfOf('5', 0), halfOf('0.5', 2), halfOf('1', 0), halfOf('x', 0)]).to.deep.equal(['150', '2', '0.25', null, null]);
  });
});
