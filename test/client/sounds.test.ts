import { expect } from 'chai';
import { rings } from '../../src/client/sounds.ts';

describe('a sound', () => {
  it('is heard where it is chosen and not silent, and once for a burst', () => {
    const chosen = { sounds: ['fill'], volume: 50 } as const;
    expect(rings('fill', chosen, 1000)).to.equal(true);
    expect(rings('fill', chosen, 1399), 'of the same burst').to.equal(false);
    expect(rings('fill', chosen, 1400)).to.equal(true);
    expect(rings('rejected', chosen, 5000), 'not chosen').to.equal(false);
    expect(rings('fill', { ...chosen, volume: 0 }, 9000), 'silent').to.equal(false);
    expect(rings('fill', chosen, 9001), 'silence is no ring').to.equal(true);
  });
});
