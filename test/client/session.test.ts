import { expect } from 'chai';
import { $directSend, beginsSignedIn, setDirectSend, setSize, sizeOf } from '../../src/client/session.ts';
import { lamps } from '../../src/client/lamps.ts';
import { $beat, $clock, $screen, instruments } from '../../src/live/index.ts';
import { hearShared } from '../../src/live/shared.ts';
import type { Instrument } from '../../src/core/instrument/index.ts';
import { storeInMemory } from '../support/storage.ts';
import { INSTRUMENTS } from '../support/world.ts';

const clock = (time: string) => ({ mode: 'live', market: 'demo', time, speed: 1, tapeEndsAt: null, ended: false }) as const;

describe('what belongs to a session', () => {
  before(() => {
    storeInMemory();
    for (const [id, one] of INSTRUMENTS) (instruments as Map<string, Instrument>).set(id, one);
  });
  beforeEach(() => $clock.set(clock('2026-03-02T10:00:00.000Z')));

  it('is a size by account and instrument: from the first size key, then as chosen, for the trading day', () => {
    expect(sizeOf('MAIN', 'GANET.HALM')).to.equal('50');
    expect(setSize('MAIN', 'GANET.HALM', '300')).to.equal(true);
    expect([sizeOf('MAIN', 'GANET.HALM'), sizeOf('MAIN', 'BRINE.HALM'), sizeOf('OTHER', 'GANET.HALM')]).to.deep.equal(['300', '50', '50']);
    expect([setSize('MAIN', 'GANET.HALM', '0'), setSize('MAIN', 'GANET.HALM', '1.5'), setSize('MAIN', 'GANET.HALM', 'x')]).to.deep.equal([false, false, false]);
    $clock.set(clock('2026-03-03T00:00:00.000Z'));
    expect(sizeOf('MAIN', 'GANET.HALM')).to.equal('50');
  });

  it('turns with the day of the venue: the weekend belongs to Friday at HALM, to itself at VSPR', () => {
    $clock.set(clock('2026-03-06T10:00:00.000Z'));
    setSize('MAIN', 'GANET.HALM', '300');
    setSize('NIGHT', 'CARB-EUR.VSPR', '5');
    $clock.set(clock('2026-03-07T10:00:00.000Z'));
    expect([sizeOf('MAIN', 'GANET.HALM'), sizeOf('NIGHT', 'CARB-EUR.VSPR')]).to.deep.equal(['300', '0.1']);
  });

  it('is no size of another day while the market’s time is not known', () => {
    setSize('MAIN', 'GANET.HALM', '300');
    $clock.set(null);
    expect(sizeOf('MAIN', 'GANET.HALM')).to.equal('50');
  });

  it('is direct send by surface: all falls back at a sign-in and on a new trading day, off stays off', () => {
    setDirectSend('ladder', 'all');
    setDirectSend('chart', 'off');
    expect($directSend.get()).to.deep.equal({ chart: 'off', ladder: 'all', tables: 'exits only' });
    beginsSignedIn();
    expect($directSend.get()).to.deep.equal({ chart: 'off', ladder: 'exits only', tables: 'exits only' });
    setDirectSend('ladder', 'all');
    $clock.set(clock('2026-03-03T10:00:00.000Z'));
    expect($directSend.get().ladder).to.equal('exits only');
    // Choosing something else on the new day brings nothing back.
    setDirectSend('tables', 'off');
    expect($directSend.get()).to.deep.equal({ chart: 'off', ladder: 'exits only', tables: 'off' });
  });

  it('is what another window chose, at once', () => {
    hearShared({ 'direct-send': { day: null, by: { chart: 'off', ladder: 'off', tables: 'off' } } });
    expect($directSend.get()).to.deep.equal({ chart: 'off', ladder: 'off', tables: 'off' });
  });
});

describe('the lamps', () => {
  const NOW = 1_000_000_000_000;
  const beat = (serverNow: number, heard: number, at: number): void => {
    const iso = (time: number): string => new Date(time).toISOString();
    $beat.set({ now: iso(serverNow), venues: { HALM: iso(heard) }, broker: iso(serverNow), at });
    $screen.set({ open: true, since: at, heardAt: at });
  };

  it('tell how old the data is by the server’s word, whatever this machine’s clock says', () => {
    for (const skew of [-3_600_000, -2000, 0, 2000, 3_600_000]) {
      beat(NOW + skew, NOW + skew - 100, NOW);
      expect(lamps(NOW + 300).data.state, `skew ${skew}`).to.equal('up');
      beat(NOW + skew, NOW + skew - 2500, NOW);
      expect(lamps(NOW).data, `skew ${skew}`).to.deep.equal({ state: 'late', age: 2 });
    }
  });
  it('grow late and go down with the time since the last beat', () => {
    beat(NOW, NOW, NOW);
    expect([1999, 2000, 4999, 5000].map((ms) => lamps(NOW + ms).broker.state)).to.deep.equal(['up', 'late', 'late', 'down']);
    expect(lamps(NOW + 6000).screen.state).to.equal('down');
  });
});
