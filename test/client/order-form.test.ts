import { expect } from 'chai';
import fc from 'fast-check';
import { formOf, stepped, wishOf } from '../../src/client/order-form.ts';
import type { OrderWish } from '../../src/client/gestures/index.ts';
import { momentAsTyped, typedMoment } from '../../src/client/typed-moment.ts';
import type { Instrument } from '../../src/core/instrument/index.ts';
import { instruments } from '../../src/live/index.ts';
import { INSTRUMENTS, instrument } from '../support/world.ts';

const FAROE = 'Atlantic/Faroe';
const GANET = instrument('GANET.HALM');

const price = fc.integer({ min: 100, max: 99_999 }).map((cents) => (cents / 100).toFixed(2));
const moment = fc
  .date({ min: new Date('2026-01-01'), max: new Date('2027-12-31'), noInvalidDate: true })
  .filter((date) => !(date.getUTCMonth() === 9 && date.getUTCDate() >= 25 && date.getUTCHours() < 2))
  .map((date) => date.toISOString());
/** What is asked for together with a type, each as often left out. */
const maybe = (key: string, value: fc.Arbitrary<unknown>): fc.Arbitrary<object> =>
  fc.option(value, { nil: undefined }).map((one) => (one === undefined ? {} : { [key]: one }));
const merged = (...parts: fc.Arbitrary<object>[]): fc.Arbitrary<object> => fc.tuple(...parts).map((all) => Object.assign({}, ...all) as object);
const watched = maybe('triggerOn', fc.constantFrom('bid', 'ask'));
const byType = fc.oneof(
  fc.constant({ type: 'market' }),
  merged(fc.record({ type: fc.constant('limit'), limitPrice: price }), maybe('restOnly', fc.constant(true)), maybe('heldBy', fc.constant('here'))),
  merged(fc.record({ type: fc.constant('stop'), stopPrice: price }), watched),
  merged(fc.record({ type: fc.constant('stop-limit'), stopPrice: price, limitPrice: price }), watched),
  merged(fc.record({ type: fc.constant('stop-limit'), stopPrice: price, limitOffsetTicks: fc.nat(50) }), watched),
  merged(
    fc.record({ type: fc.constant('trailing-stop'), trail: fc.record({ unit: fc.constantFrom('ticks', 'percent', 'money'), value: price }) }),
    maybe('stopPrice', price),
  ),
);
const lifetime = fc.oneof(
  fc.constant({}),
  fc.constant({ timeInForce: 'gtc' }),
  moment.map((expiresAt) => ({ timeInForce: 'gtd', expiresAt })),
);
const wish = merged(
  fc.record({ account: fc.constant('MAIN'), instrument: fc.constantFrom('GANET.HALM', 'GANET.QUAY', 'CARB-EUR.VSPR') }),
  fc.record({ side: fc.constantFrom('buy', 'sell'), quantity: fc.integer({ min: 1, max: 9999 }).map(String) }),
  byType,
  lifetime,
  maybe('exitPlan', fc.constantFrom<unknown>('Two-step', { heldBy: 'here', steps: [] })),
  maybe('setup', fc.constant('opening range')),
  maybe('product', fc.constant('intraday')),
  maybe('reduceOnly', fc.boolean()),
  maybe('crossesZero', fc.constant(true)),
).map((one) => one as OrderWish);

describe('the form of an order', () => {
  before(() => {
    for (const [id, one] of INSTRUMENTS) (instruments as Map<string, Instrument>).set(id, one);
  });

  it('stands for exactly the order it was made of', () => {
    fc.assert(fc.property(wish, (one) => void expect(wishOf(formOf(one), one)).to.deep.equal(one)));
  });

  it('leaves out what another type has no use for', () => {
    const typed = {
      ...formOf({ account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', quantity: '300', limitPrice: '41.20', restOnly: true }),
      stopPrice: '41.30',
    };
    const base = { account: 'MAIN', instrument: 'GANET.HALM' };
    const order = { ...base, side: 'buy', quantity: '300' };
    expect(wishOf(typed, base)).to.deep.equal({ ...order, type: 'limit', limitPrice: '41.20', restOnly: true });
    expect(wishOf({ ...typed, type: 'market' }, base)).to.deep.equal({ ...order, type: 'market' });
    expect(wishOf({ ...typed, type: 'stop' }, base)).to.deep.equal({ ...order, type: 'stop', stopPrice: '41.30' });
    expect(wishOf({ ...typed, timeInForce: 'ioc' }, base), 'what trades at once can’t be asked to rest').to.deep.equal({
      ...order,
      type: 'limit',
      limitPrice: '41.20',
      timeInForce: 'ioc',
    });
  });

  it('takes and shows the end of an order on the clock of its exchange, to the millisecond', () => {
    const until = (text: string): string | null => typedMoment(FAROE, text);
    expect(until('2026-03-02T15:00'), 'winter').to.equal('2026-03-02T15:00:00.000Z');
    expect(until('2026-07-01T15:00'), 'summer').to.equal('2026-07-01T14:00:00.000Z');
    expect(until('2026-07-01T15:00:07.5')).to.equal('2026-07-01T14:00:07.500Z');
    expect(['', '2026-07-01', '2026-02-30T10:00', '2026-07-01T24:00', '2026-07-01T15:0'].map(until)).to.deep.equal([null, null, null, null, null]);
    expect(momentAsTyped(FAROE, '2026-07-01T14:00:00.000Z')).to.equal('2026-07-01T15:00');
    fc.assert(fc.property(moment, (at) => void expect(until(momentAsTyped(FAROE, at))).to.equal(at)));
  });

  it('steps a price by its ticks and a quantity by its steps or the size keys', () => {
    const price = (typed: string, key: string, byTen = false): string | null => stepped(GANET, 'price', typed, key, byTen);
    expect([price('41.20', 'ArrowUp'), price('41.20', 'ArrowDown', true), price('0.01', 'ArrowDown')]).to.deep.equal(['41.21', '41.10', '0.01']);
    expect(price('', 'ArrowUp'), 'nothing to step from').to.equal(null);
    const quantity = (typed: string, key: string, byTen = false): string | null => stepped(GANET, 'quantity', typed, key, byTen);
    expect([quantity('300', 'ArrowUp'), quantity('300', 'ArrowDown', true), quantity('1', 'ArrowDown'), quantity('x', 'ArrowUp')]).to.deep.equal([
      '301',
      '290',
      '1',
      '1',
    ]);
    expect([quantity('50', 'PageUp'), quantity('50', 'PageDown'), quantity('999999', 'PageUp')]).to.deep.equal(['100', '50', '10000']);
  });
});
