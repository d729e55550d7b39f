import { expect } from 'chai';
import { asPrice, asQuantity, VENUES } from '../../src/core/instrument/index.ts';
import { localClock, type DayFigures } from '../../src/core/market/index.ts';
import { presentLiveRow } from '../../src/desk/present/market.ts';
import { instrument } from '../support/world.ts';

const GANET = instrument('GANET.HALM');

describe('times in a live list', () => {
  it('are those of the exchange’s clock, in summer too', () => {
    const at = Date.parse('2026-06-19T14:05:07.120Z');
    const figures: DayFigures = {
      instrument: GANET.id,
      open: asPrice(4100),
      last: asPrice(4120),
      high: asPrice(4120),
      low: asPrice(4100),
      previousSettlement: asPrice(4100),
      volume: asQuantity(100),
      usualVolume: null,
      highAt: at,
      lowAt: at,
      halted: false,
      asOf: at,
      live: true,
    };
    expect(presentLiveRow(GANET, 'new highs', { figures, measure: at })['measure']).to.equal('15:05');
    expect([localClock(VENUES.HALM.zone, at), localClock(VENUES.VSPR.zone, at)]).to.deep.equal(['15:05:07.120', '14:05:07.120']);
  });
});
