import { expect } from 'chai';
import fc from 'fast-check';
import { breakoutPair, pairBounds } from '../../src/client/gestures/breakout.ts';
import { exitMoney, pulledExit, pulledPlan } from '../../src/client/gestures/position-exit.ts';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import { instrument } from '../support/world.ts';
import type { ApiPosition, LivePosition } from '../../src/live/index.ts';
import { readPosition } from '../../src/live/read.ts';

const GANET = instrument('GANET.HALM');
const market = (bid: number | null, ask: number | null) => ({
  state: 'open' as const,
  bid: bid === null ? null : asPrice(bid),
  ask: ask === null ? null : asPrice(ask),
  last: null,
  priceLimits: { lower: null, upper: null },
});
const USUAL = market(4118, 4120);

describe('a breakout pair', () => {
  const pairAt = (id: string, price: number) => {
    const of = instrument(id);
    const bounds = pairBounds(of, asPrice(price), USUAL);
    return bounds && breakoutPair({ account: 'MAIN', instrument: of, quantity: asQuantity(100), market: USUAL }, bounds);
  };

  it('stands as far from the market on both sides, whichever side was pressed', () => {
    const above = pairAt('GANET.HALM', 4150);
    expect(above).to.deep.equal(pairAt('GANET.HALM', 4088));
    expect(above).to.deep.equal({
      ok: true,
      value: [
        { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'stop', quantity: '100', stopPrice: '41.50' },
        { account: 'MAIN', instrument: 'GANET.HALM', side: 'sell', type: 'stop', quantity: '100', stopPrice: '40.88' },
      ],
    });
  });

  it('has both stops beyond the market wherever it is pressed', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 8000 }), (price) => {
        const bounds = pairBounds(GANET, asPrice(price), USUAL);
        expect(bounds === null).to.equal(price >= 4118 && price <= 4120);
        if (!bounds) return;
        expect(bounds.high).to.be.greaterThan(4120);
        expect(bounds.low).to.be.lessThan(4118);
        expect(bounds.high - 4120).to.equal(4118 - bounds.low);
      }),
    );
  });

  it('is held here where the venue takes no stops', () => {
    const pair = pairAt('GANET.QUAY', 4150);
    expect(pair?.ok && pair.value.map(({ type, heldBy }) => `${type} ${heldBy ?? 'venue'}`)).to.deep.equal(['stop here', 'stop here']);
  });

  it('is refused in words where a stop is not legal', () => {
    const inside = { high: asPrice(4119), low: asPrice(4100) };
    const found = breakoutPair({ account: 'MAIN', instrument: GANET, quantity: asQuantity(100), market: USUAL }, inside);
    expect(found).to.deep.equal({ ok: false, refusal: 'a buy stop must be above 41.20; a limit is legal here' });
    expect(pairBounds(GANET, asPrice(4150), market(null, 4120))).to.equal(null);
  });
});

describe('a position that is pulled', () => {
  const held = (quantity: string, averagePrice: string, firstRisk: string | null, of = GANET): LivePosition =>
    readPosition({ quantity, averagePrice, firstRisk, mark: null } as ApiPosition, of);
  const long = held('300', '41.2', null);
  const short = held('-300', '41.2', '60');
  const pulled = (position: LivePosition, price: number, of = GANET) => {
    const found = pulledExit(of, position, asPrice(price), USUAL);
    return found.ok ? `${found.value.leg} ${found.value.quantity} ${found.value.money} ${found.value.r ?? '–'} R, ${found.value.ticks} ticks` : found.refusal;
  };

  it('asks for a stop against it and a target with it', () => {
    expect(pulled(long, 4090)).to.equal('stop 300 -90.00 -1.0 R, 30 ticks');
    expect(pulled(long, 4180)).to.equal('target 300 180.00 – R, 60 ticks');
    expect(pulled(short, 4150)).to.equal('stop 300 -90.00 -1.5 R, 30 ticks');
    expect(pulled(short, 4060)).to.equal('target 300 180.00 3.0 R, 60 ticks');
  });

  it('asks for nothing where it would leave at once', () => {
    expect(pulled(long, 4118)).to.equal('at 41.18 it would leave at once: close does that');
    expect(pulled(held('0', '41.2', null), 4090)).to.equal('nothing is held');
  });

  it('is a plan of one step on all of it, held here where the venue takes no stops', () => {
    const exit = pulledExit(GANET, long, asPrice(4090), USUAL);
    if (!exit.ok) throw new Error(exit.refusal);
    const step = { share: '100', stop: { by: 'price', value: '40.90', order: 'market' } };
    expect(pulledPlan(GANET, exit.value)).to.deep.equal({ heldBy: 'venue', onSizeChange: 'follow', onMissedLevel: 'fire', steps: [step] });
    expect(pulledPlan(instrument('GANET.QUAY'), exit.value)).to.deep.include({ heldBy: 'here', steps: [step] });
  });

  it('makes of an inverse contract what its asset says', () => {
    // 1,000 bought at 50 and sold at 80: 20 − 12.5 = 7.5 of the asset.
    const carbi = instrument('CARBI.VSPR');
    const position = held('1000', '50', null, carbi);
    expect(exitMoney(carbi, position, position.units.quantity, asPrice(80 * 10 ** carbi.priceDecimals))).to.equal('7.50000000');
  });
});
