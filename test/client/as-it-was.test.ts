import { expect } from 'chai';
import { changeBack, wishAsItWas } from '../../src/client/gestures/as-it-was.ts';
import type { ApiOrder } from '../../src/live/index.ts';

const order = (more: object): ApiOrder =>
  ({
    id: 'MAIN-1',
    account: 'MAIN',
    instrument: 'GANET.HALM',
    side: 'buy',
    type: 'limit',
    quantity: '300',
    filledQuantity: '0',
    remainingQuantity: '300',
    limitPrice: '41.20',
    limitOffsetTicks: null,
    stopPrice: null,
    triggerOn: 'last',
    trail: null,
    timeInForce: 'day',
    expiresAt: null,
    heldBy: 'venue',
    product: 'overnight',
    restOnly: false,
    reduceOnly: false,
    setup: null,
    ...more,
  }) as unknown as ApiOrder;

describe('an order as it was', () => {
  it('is asked for anew with what it says, and nothing its type does not take', () => {
    expect(wishAsItWas(order({}))).to.deep.equal({
      account: 'MAIN',
      instrument: 'GANET.HALM',
      side: 'buy',
      type: 'limit',
      quantity: '300',
      limitPrice: '41.20',
      timeInForce: 'day',
      heldBy: 'venue',
      product: 'overnight',
    });
  });

  it('is asked for with what it had left, and its end only where it was named', () => {
    const end = '2026-03-06T17:30:00.000Z';
    const half = order({ filledQuantity: '100', remainingQuantity: '200', timeInForce: 'gtc', expiresAt: end, restOnly: true, reduceOnly: true, setup: 'Gap' });
    expect(wishAsItWas(half)).to.deep.include({ quantity: '200', timeInForce: 'gtc', restOnly: true, reduceOnly: true, setup: 'Gap' });
    expect(wishAsItWas(half)).not.to.have.property('expiresAt');
    expect(wishAsItWas(order({ timeInForce: 'gtd', expiresAt: end }))).to.include({ expiresAt: end });
  });

  it('of a stop keeps its trigger; of a limit by offset the offset, not the price that it makes', () => {
    const stop = order({ type: 'stop-limit', stopPrice: '41.50', limitPrice: '41.55', limitOffsetTicks: 5, triggerOn: 'ask' });
    expect(wishAsItWas(stop)).to.include({ stopPrice: '41.50', limitOffsetTicks: 5, triggerOn: 'ask' }).and.not.to.have.property('limitPrice');
    const trail = { unit: 'ticks', value: '20' };
    expect(wishAsItWas(order({ type: 'trailing-stop', limitPrice: null, trail }))).to.deep.include({ trail, triggerOn: 'last' });
  });

  it('is changed back by what a change changed, and where it had nothing there, not at all', () => {
    expect(changeBack(order({}), { limitPrice: '41.30', quantity: '200' })).to.deep.equal({ limitPrice: '41.20', quantity: '300' });
    expect(changeBack(order({}), { stopPrice: '41.30' })).to.equal(null);
  });
});
