import { expect } from 'chai';
import { hereLegs, planFor, setPlanFor } from '../../src/client/exit-plans.ts';
import { moveChange, waitsAt, waitsForStop } from '../../src/client/gestures/moves.ts';
import { asPrice } from '../../src/core/instrument/index.ts';
import type { ApiOrder, ApiRunningPlan, LiveOrder } from '../../src/live/index.ts';
import { readOrder } from '../../src/live/read.ts';
import { storeInMemory } from '../support/storage.ts';
import { instrument } from '../support/world.ts';

type Step = ApiRunningPlan['steps'][number];
const step = (given: Partial<Step>): Step => ({ quantity: '60', closedQuantity: '0', state: 'armed', stop: null, target: null, ...given });
const plan = (given: Partial<ApiRunningPlan>): ApiRunningPlan => ({
  id: 'MAIN-p1',
  name: null,
  account: 'MAIN',
  instrument: 'GANET.HALM',
  heldBy: 'here',
  entryOrderId: null,
  state: 'armed',
  since: '2026-03-02T09:00:00.000Z',
  steps: [step({ stop: { price: '41.00', orderId: null }, target: { price: '42.00', orderId: null } })],
  log: [],
  ...given,
});
const found = (...plans: ApiRunningPlan[]): string[] =>
  hereLegs(plans, 'MAIN', 'GANET.HALM').map(
    ({ step: at, name, price, quantity, suspended }) => `${at} ${name} ${quantity} at ${price}${suspended ? ', suspended' : ''}`,
  );

describe('exits that are held here', () => {
  before(storeInMemory);

  it('are the legs of running plans that no order stands for yet, each with what it would close', () => {
    expect(found(plan({}))).to.deep.equal(['0 stop 60 at 41.00', '0 target 60 at 42.00']);
    const stop = { price: '41.00', orderId: null };
    const steps = [
      step({ state: 'done', stop }),
      step({ quantity: '0.3', closedQuantity: '0.1', stop }),
      step({ stop, target: { price: '42.00', orderId: 'MAIN-9' } }),
    ];
    expect(found(plan({ steps }))).to.deep.equal(['1 stop 0.2 at 41.00', '2 stop 60 at 41.00']);
  });

  it('say when they are suspended, and are none of a plan that waits, has ended or is the venue’s', () => {
    for (const state of ['suspended', 'asking'] as const) expect(found(plan({ state }))[0], state).to.equal('0 stop 60 at 41.00, suspended');
    for (const state of ['waiting', 'done', 'stopped'] as const) expect(found(plan({ state })), state).to.deep.equal([]);
    expect(found(plan({ heldBy: 'venue' }), plan({ account: 'EVAL' }), plan({ instrument: 'BRINE.HALM' }))).to.deep.equal([]);
    expect(found(plan({ steps: [step({ stop: { price: null, orderId: null } })] }))).to.deep.equal([]);
  });

  it('go on the plate of one instrument in one account', () => {
    setPlanFor('MAIN', 'GANET.HALM', 'two steps');
    expect([planFor('MAIN', 'GANET.HALM'), planFor('EVAL', 'GANET.HALM'), planFor('MAIN', 'BRINE.HALM')]).to.deep.equal(['two steps', null, null]);
    setPlanFor('MAIN', 'GANET.HALM', null);
    expect(planFor('MAIN', 'GANET.HALM')).to.equal(null);
  });
});

describe('an order that is moved', () => {
  const GANET = instrument('GANET.HALM');
  const order = (stopPrice: string | null, limitPrice: string | null, triggeredAt: string | null): LiveOrder =>
    readOrder({ quantity: '100', remainingQuantity: '100', stopPrice, limitPrice, triggeredAt } as ApiOrder, GANET);
  const cases: [order: LiveOrder, waits: number | null, change: object][] = [
    [order('40.50', null, null), 4050, { stopPrice: '41.00' }],
    [order('40.50', '40.40', null), 4050, { stopPrice: '41.00' }],
    [order('40.50', '40.40', '2026-03-02T09:00:00.000Z'), 4040, { limitPrice: '41.00' }],
    [order(null, '40.40', null), 4040, { limitPrice: '41.00' }],
  ];
  it('moves its stop until that has triggered, its limit afterwards', () => {
    for (const [one, waits, change] of cases) {
      expect(waitsAt(one)).to.equal(waits);
      expect(moveChange(one, asPrice(4100), GANET)).to.deep.equal(change);
      expect(waitsForStop(one)).to.equal('stopPrice' in change);
    }
    expect(waitsAt(order(null, null, null))).to.equal(null);
  });
});
