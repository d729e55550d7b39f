import { expect } from 'chai';
import { distanceWords } from '../../src/client/waiting.ts';

describe('how far a condition is from being true', () => {
  const last = { from: 0, to: 4, value: '40' };
  it('is told in figures and percent', () => {
    expect(distanceWords('last > 42', false, [last])).to.equal('last 40: 5.00 % away');
    expect(distanceWords('last > vwap', false, [last, { from: 7, to: 11, value: '50' }])).to.equal('last 40, vwap 50: 25 % away');
    expect(distanceWords('last > 42', true, [{ ...last, value: '42.5' }])).to.equal('true now: last 42.5');
  });
  it('is told without percent where there are no two figures, and says what is not known', () => {
    expect(distanceWords('last > vwap', null, [last, { from: 7, to: 11, value: null }])).to.equal('not known: last 40, vwap unknown');
    expect(distanceWords('halted', false, [])).to.equal('');
    expect(distanceWords('halted', true, [])).to.equal('true now');
    expect(distanceWords('sector is "Salt"', false, [{ from: 0, to: 6, value: 'Rail' }])).to.equal('sector Rail');
  });
});
