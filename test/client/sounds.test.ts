import { expect } from 'chai';
import { orderSound, rings, type HeardOrders } from '../../src/client/sounds.ts';

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

  it('tells what goes out, what fires and what is refused, each once', () => {
    const heard: HeardOrders = new Map();
    const order = { id: 'MAIN-1', state: 'new', heldBy: 'venue', plan: null, triggeredAt: null } as const;
    const fired = { ...order, triggeredAt: '2026-03-02T09:00:00.000Z' };
    expect([order, order, fired, { ...fired, state: 'filled' as const }].map((one) => orderSound(one, heard))).to.deep.equal(['sent', null, 'trigger', null]);
    expect(orderSound({ ...order, id: 'MAIN-2', heldBy: 'here', plan: 'MAIN-p1' }, heard), 'an exit held here').to.equal('trigger');
    expect(orderSound({ ...order, id: 'MAIN-3', state: 'rejected' }, heard)).to.equal('rejected');
  });
});
