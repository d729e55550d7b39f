import { expect } from 'chai';
import { $lamps, lamps, quotesFresh, screenUp } from '../../src/client/lamps.ts';
import { $beat, $link, $screen } from '../../src/live/index.ts';

const NOON = Date.parse('2026-03-02T12:00:00.000Z');

/** A beat that came at a moment of this machine, which says how long ago the server heard venue and broker. */
const beat = (at: number, venueMs = 0, brokerMs = 0): void =>
  $beat.set({
    at,
    now: new Date(NOON).toISOString(),
    venues: { HALM: new Date(NOON - venueMs).toISOString() },
    broker: new Date(NOON - brokerMs).toISOString(),
  });

describe('the lamps', () => {
  beforeEach(() => {
    $screen.set({ open: true, since: 0, heardAt: 1000 });
    $link.set(null);
    beat(1000);
  });
  after(() => {
    $screen.set({ open: false, since: 0, heardAt: 0 });
    $beat.set(null);
  });

  it('are late after two seconds and down after five, each by itself', () => {
    const states = (now: number): string => Object.values(lamps(now)).map(({ state }) => state).join(' '); // prettier-ignore
    expect(states(1000)).to.equal('up up up');
    expect(states(2999)).to.equal('up up up');
    expect(states(3000)).to.equal('late late late');
    expect(states(6000)).to.equal('down down down');
    beat(1000, 2500, 0);
    expect(states(1000)).to.equal('up late up');
    const newest = $beat.get();
    if (newest) $beat.set({ ...newest, venues: { ...newest.venues, QUAY: new Date(NOON).toISOString(), VSPR: new Date(NOON).toISOString() } });
    expect(states(1000), 'one of the venues is enough').to.equal('up late up');
    beat(1000, 0, 5000);
    expect(states(1000)).to.equal('up up down');
  });

  it('tell whole seconds, and none before anything was heard', () => {
    expect(lamps(3900).screen.age).to.equal(2);
    $beat.set(null);
    $screen.set({ open: true, since: 0, heardAt: 0 });
    expect(lamps(3900)).to.deep.equal({ screen: { state: 'down', age: null }, data: { state: 'down', age: null }, broker: { state: 'down', age: null } });
  });

  it('do not hang on this machine’s clock being right', () => {
    beat(1000 + 86_400_000);
    $screen.set({ open: true, since: 0, heardAt: 1000 + 86_400_000 });
    expect(lamps(1500 + 86_400_000).data.state).to.equal('up');
  });

  it('are down at once where the link is said to be', () => {
    $link.set({ broker: 'down', data: 'up', brokerSince: '', dataSince: '' } as never);
    expect([lamps(1000).broker.state, lamps(1000).data.state]).to.deep.equal(['down', 'up']);
    $screen.set({ open: false, since: 0, heardAt: 1000 });
    expect(lamps(1000).screen.state).to.equal('down');
  });

  it('say whether a quote may be acted upon, and whether anything may', () => {
    expect([quotesFresh(1000), screenUp(1000)]).to.deep.equal([true, true]);
    expect([quotesFresh(3500), screenUp(3500)], 'late').to.deep.equal([false, true]);
    expect([quotesFresh(9000), screenUp(9000)], 'down').to.deep.equal([false, false]);
  });

  it('are told anew only where one of them has changed', async function () {
    this.timeout(5000);
    // So far ahead that no pause of the machine makes them late.
    const now = Date.now() + 60_000;
    $screen.set({ open: true, since: 0, heardAt: now });
    beat(now);
    let told = -1;
    const stop = $lamps.subscribe(() => told++);
    // Three looks while all stays as it is.
    await new Promise((resolve) => setTimeout(resolve, 900));
    expect(told).to.equal(0);
    $screen.set({ open: false, since: 0, heardAt: now });
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(told).to.be.at.least(1);
    expect($lamps.get().screen.state).to.equal('down');
    stop();
  });
});
