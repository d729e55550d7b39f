import { expect } from 'chai';
import fc from 'fast-check';
import {
  applyReport,
  effectOnPosition,
  ghostAt,
  ghostRequest,
  isFinished,
  orderSentence,
  orderState,
  ORDER_STATES,
  layOver,
  limitPriceOf,
  readChange,
  readOrder,
  remainingQuantity,
  requestCancel,
  requestReplace,
  requestedOrder,
  stopProblem,
  type MarketView,
  type Order,
  type OrderChange,
  type OrderReport,
} from '../../src/core/orders/index.ts';
import { canonical } from '../../src/core/canonical.ts';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import { moneyOf } from '../../src/core/number/index.ts';
import { instrument, request } from '../support/world.ts';

const GANET = instrument('GANET.HALM');
const NO_LIMITS = { lower: null, upper: null };
const OPEN: MarketView = { state: 'open', bid: asPrice(4118), ask: asPrice(4120), last: asPrice(4119), priceLimits: NO_LIMITS };

const read = (given: Parameters<typeof request>[0] = {}) => {
  const asked = request(given);
  const found = readOrder(asked, instrument(asked.instrument));
  if (!found.ok) throw new Error(JSON.stringify(found.refusal));
  return found.value;
};
const made = (given: Parameters<typeof request>[0] = {}): Order => {
  const { terms, reduceOnly: _said, ...asked } = read(given);
  return requestedOrder({ ...asked, id: 'o', plan: null, step: null, reduceOnly: false, role: 'entry', opening: true, createdAt: 0 }, terms);
};
const CANCEL = { requestId: 'c', reasonCode: 'user' } as const;
const REPLACE = { requestId: 'r', change: {} } as const;
const trade = (quantity: number): OrderReport => ({
  kind: 'trade',
  fillId: 'f',
  price: asPrice(4120),
  quantity: asQuantity(quantity),
  value: moneyOf(1n),
  fee: moneyOf(1n),
  liquidity: 'added',
});
const told = (order: Order, ...reports: OrderReport[]): Order => reports.reduce((state, report) => applyReport(state, report, 1), order);

describe('the state of an order', () => {
  const cancelRefused: OrderReport = { kind: 'cancel-rejected', requestId: 'c', reason: 'too late' };
  const cases: [name: string, order: () => Order, state: string][] = [
    ['before any answer is pending-new', () => made(), 'pending-new'],
    ['once accepted is new', () => told(made(), { kind: 'new' }), 'new'],
    ['with a part filled is partially-filled', () => told(made(), { kind: 'new' }, trade(40)), 'partially-filled'],
    ['wholly filled is filled', () => told(made(), { kind: 'new' }, trade(40), trade(60)), 'filled'],
    [
      'filled while a cancel is pending stays pending-cancel',
      () => told(requestCancel(told(made(), { kind: 'new' }), CANCEL, 1), trade(100)),
      'pending-cancel',
    ],
    ['is filled once that cancel is refused', () => told(requestCancel(told(made(), { kind: 'new' }), CANCEL, 1), trade(100), cancelRefused), 'filled'],
    [
      'with a cancel on top of a replace is pending-cancel',
      () => requestCancel(requestReplace(told(made(), { kind: 'new' }), REPLACE, 1), CANCEL, 1),
      'pending-cancel',
    ],
    [
      'filled while a replace is pending stays pending-replace',
      () => told(requestReplace(told(made(), { kind: 'new' }), REPLACE, 1), trade(100)),
      'pending-replace',
    ],
    [
      'replaced to what is filled is filled',
      () =>
        told(requestReplace(told(made(), { kind: 'new' }, trade(40)), REPLACE, 1), {
          kind: 'replaced',
          requestId: 'r',
          terms: { ...made().terms, quantity: asQuantity(40) },
        }),
      'filled',
    ],
    [
      'cancelled with a part filled is canceled',
      () => told(made(), { kind: 'new' }, trade(40), { kind: 'canceled', requestId: null, reasonCode: 'user', reason: null }),
      'canceled',
    ],
    ['at the day’s end is expired', () => told(made(), { kind: 'new' }, { kind: 'expired', reasonCode: 'day-end' }), 'expired'],
    ['refused by the venue is rejected', () => told(made(), { kind: 'rejected', reason: 'no', reasonCode: 'venue' }), 'rejected'],
  ];
  for (const [name, order, state] of cases) it(name, () => expect(orderState(order())).to.equal(state));

  it('shows 0 remaining during a pending cancel of a filled order', () => {
    expect(remainingQuantity(told(requestCancel(told(made(), { kind: 'new' }), CANCEL, 1), trade(100)))).to.equal(0);
  });

  it('is legal after any interleaving of requests and reports, and a finished order never works again', () => {
    const step = fc.oneof(
      fc.constant<OrderReport>({ kind: 'new' }),
      fc.constant<OrderReport>({ kind: 'rejected', reason: 'no', reasonCode: 'venue' }),
      fc.constant<OrderReport>({ kind: 'triggered' }),
      fc.integer({ min: 1, max: 100 }).map(trade),
      fc.constant<OrderReport>({ kind: 'replaced', requestId: 'r', terms: { ...made().terms, quantity: asQuantity(60) } }),
      fc.constant<OrderReport>({ kind: 'canceled', requestId: 'c', reasonCode: 'user', reason: null }),
      fc.constantFrom('c', 'r').map((requestId): OrderReport => ({ kind: 'cancel-rejected', requestId, reason: 'late' })),
      fc.constant<OrderReport>({ kind: 'restated', quantity: asQuantity(50), reasonCode: 'reduced' }),
      fc.constant<OrderReport>({ kind: 'expired', reasonCode: 'day-end' }),
      fc.constant('cancel' as const),
      fc.constant('replace' as const),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 25 }), (steps) => {
        let order = made();
        let ended = false;
        let version = 1;
        for (const one of steps) {
          if (one === 'cancel') order = isFinished(order) ? order : requestCancel(order, CANCEL, 1);
          else if (one === 'replace') order = isFinished(order) || order.pendingReplace ? order : requestReplace(order, REPLACE, 1);
          else order = applyReport(order, one, 1);
          expect(ORDER_STATES).to.include(orderState(order));
          expect(remainingQuantity(order)).to.be.within(0, order.terms.quantity);
          if (order.filledQuantity > 0 && order.ended === null) expect(order.acknowledged).to.equal('accepted');
          expect(order.version).to.be.at.least(version);
          version = order.version;
          if (ended) expect(order.ended).to.not.equal(null);
          ended ||= order.ended !== null;
        }
      }),
      { numRuns: 500 },
    );
  });
});

describe('the terms of an order', () => {
  const problems = (given: Parameters<typeof request>[0]): string[] => {
    const asked = request(given);
    const found = readOrder(asked, instrument(asked.instrument));
    if (found.ok || found.refusal.kind !== 'validation') return [];
    return found.refusal.errors.map((problem) => `${problem.path} ${(problem.nearest ?? []).join(' ')}`.trim());
  };
  const cases: [name: string, given: Parameters<typeof request>[0], wrong: string[]][] = [
    ['take a plain limit order', {}, []],
    ['name the prices around one off the grid', { limitPrice: '41.205' }, ['/limitPrice 41.20 41.21']],
    ['know the finer tick below 10', { instrument: 'KELPA.HALM', limitPrice: '9.985' }, []],
    ['name the coarser tick from 10', { instrument: 'KELPA.HALM', limitPrice: '10.005' }, ['/limitPrice 10.000 10.010']],
    ['name the quantities around one off the step', { quantity: '1.5' }, ['/quantity 1 2']],
    ['ask for a minimum', { quantity: '0' }, ['/quantity 1']],
    ['refuse a price that the type has no use for', { type: 'market', limitPrice: '41.20' }, ['/limitPrice']],
    ['need a price where the type does', { type: 'stop' }, ['/stopPrice']],
    ['need exactly one limit of a stop-limit', { type: 'stop-limit', stopPrice: '41.30', limitPrice: '41.40', limitOffsetTicks: 2 }, ['/limitOffsetTicks']],
    ['refuse a stop at QUAY', { instrument: 'GANET.QUAY', type: 'stop', stopPrice: '41.30' }, ['/type']],
    ['refuse a stop at VSPR', { instrument: 'CARB-EUR.VSPR', type: 'stop', stopPrice: '70.00' }, ['/type']],
    ['take a stop-limit at VSPR', { instrument: 'CARB-EUR.VSPR', type: 'stop-limit', stopPrice: '70.00', limitOffsetTicks: 2 }, []],
    ['take limit orders only for options', { instrument: 'GANET-APR26-40C.HALM', type: 'market' }, ['/type']],
    ['refuse an index', { instrument: 'HALM40.HALM' }, ['/instrument']],
    ['refuse ioc for a stop', { type: 'stop', stopPrice: '41.30', timeInForce: 'ioc' }, ['/timeInForce']],
    ['need a time for gtd', { timeInForce: 'gtd' }, ['/expiresAt']],
    ['take a trail in ticks', { type: 'trailing-stop', trail: { unit: 'ticks', value: '12' } }, []],
    ['refuse half a tick', { type: 'trailing-stop', trail: { unit: 'ticks', value: '1.5' } }, ['/trail/value']],
    ['refuse a trail of all of it', { type: 'trailing-stop', trail: { unit: 'percent', value: '100' } }, ['/trail/value']],
    ['need a trail', { type: 'trailing-stop' }, ['/trail']],
    ['refuse a time without gtd', { expiresAt: '2026-03-09T09:00:00.000Z' }, ['/expiresAt']],
  ];
  for (const [name, given, wrong] of cases) it(name, () => expect(problems(given)).to.deep.equal(wrong));

  it('give a stop-limit with an offset its limit beyond the stop price', () => {
    const limit = (side: 'buy' | 'sell') => limitPriceOf(read({ side, type: 'stop-limit', stopPrice: '41.30', limitOffsetTicks: 3 }).terms, side, GANET);
    expect([limit('buy'), limit('sell')]).to.deep.equal([4133, 4127]);
  });
});

describe('a change laid over an order', () => {
  const over = (given: Parameters<typeof request>[0], text: Parameters<typeof readChange>[0]): unknown => {
    const change = readChange(text, GANET, 'venue');
    const laid = change.ok ? layOver(made(given).terms, change.value) : change;
    if (laid.ok) return laid.value;
    return laid.refusal.kind === 'validation' ? laid.refusal.errors.map(({ path }) => path) : laid.refusal.kind;
  };
  const STOP = { type: 'stop', side: 'sell', stopPrice: '40.90' } as const;
  const STOP_LIMIT = { type: 'stop-limit', side: 'sell', stopPrice: '40.90', limitOffsetTicks: 5 } as const;
  const PRICED = { type: 'stop-limit', side: 'sell', stopPrice: '40.90', limitPrice: '40.80' } as const;

  it('changes what it says and nothing else', () => {
    expect(over({}, { limitPrice: '40.50' })).to.deep.equal({ type: 'limit', limit: 4050, restOnly: false, quantity: 100, lifetime: { kind: 'day' } });
    expect(over(STOP_LIMIT, { stopPrice: '40.80' })).to.deep.include({ stop: 4080, limit: { by: 'offset', ticks: 5 } });
  });
  it('to a type without its price is refused at that price', () => {
    expect(over({}, { type: 'stop' })).to.deep.equal(['/stopPrice']);
    expect(over(STOP, { type: 'limit' })).to.deep.equal(['/limitPrice']);
    expect(over(STOP_LIMIT, { type: 'limit' })).to.deep.equal(['/limitPrice']);
    expect(over(STOP, { type: 'trailing-stop' })).to.deep.equal(['/trail']);
  });
  it('keeps a price that the new type has too', () => {
    expect(over(PRICED, { type: 'limit' })).to.deep.include({ type: 'limit', limit: 4080 });
    expect(over(STOP_LIMIT, { type: 'stop' })).to.deep.include({ type: 'stop', stop: 4090 });
  });
  it('with a price that the type has no use for is refused there', () => {
    expect(over({}, { stopPrice: '40.00' })).to.deep.equal(['/stopPrice']);
    expect(over(STOP, { restOnly: true })).to.deep.equal(['/restOnly']);
    expect(over({}, { timeInForce: 'ioc' })).to.deep.include({ lifetime: { kind: 'ioc' } });
    expect(over(STOP, { timeInForce: 'fok' })).to.deep.equal(['/timeInForce']);
  });
  it('ends the following of a close', () => {
    const following = { type: 'following', limit: asPrice(4110), quantity: asQuantity(100), lifetime: { kind: 'day' } } as const;
    const change: OrderChange = { limit: asPrice(4112) };
    const laid = layOver(following, change);
    expect(laid.ok && laid.value).to.deep.equal({ type: 'limit', limit: 4112, restOnly: false, quantity: 100, lifetime: { kind: 'day' } });
  });
});

describe('an order against a position', () => {
  const effect = (side: 'buy' | 'sell', quantity: number, position: number, given: { reduceOnly?: boolean; crossesZero?: boolean } = {}) => {
    const wanted = { side, quantity: asQuantity(quantity), reduceOnly: given.reduceOnly ?? null, crossesZero: given.crossesZero ?? false };
    const result = effectOnPosition(wanted, asQuantity(position), GANET);
    return result.ok ? `${result.value.opening ? 'opens' : 'reduces'} ${result.value.quantity} ${result.value.role}` : result.refusal.kind;
  };
  const cases: [name: string, found: () => string, expected: string][] = [
    ['not larger than it reduces', () => effect('sell', 100, 200), 'reduces 100 close'],
    ['larger than it is refused', () => effect('sell', 300, 200), 'validation'],
    ['larger that says so opens as a whole', () => effect('sell', 300, 200, { crossesZero: true }), 'opens 300 entry'],
    ['larger with reduceOnly is cut to it', () => effect('sell', 300, 200, { reduceOnly: true }), 'reduces 200 close'],
    ['with reduceOnly false opens', () => effect('sell', 100, 200, { reduceOnly: false }), 'opens 100 entry'],
    ['with it opens', () => effect('buy', 100, 200), 'opens 100 entry'],
    ['with reduceOnly when flat is a conflict', () => effect('sell', 100, 0, { reduceOnly: true }), 'conflict'],
    ['of a short reduces by buying', () => effect('buy', 50, -200), 'reduces 50 close'],
  ];
  for (const [name, found, expected] of cases) it(name, () => expect(found()).to.equal(expected));

  it('larger than it says what it closes and opens, and what would be accepted', () => {
    const result = effectOnPosition({ side: 'sell', quantity: asQuantity(150), reduceOnly: null, crossesZero: false }, asQuantity(100), GANET);
    expect(result.ok).to.equal(false);
    if (result.ok || result.refusal.kind !== 'validation') return;
    expect(result.refusal.errors[0]?.message).to.contain('closes 100, opens 50 short');
    expect(result.refusal.suggestion).to.deep.equal({ reduce: { quantity: '100' }, cross: { crossesZero: true } });
  });

  it('of spot never sells more than was bought', () => {
    const result = effectOnPosition(
      { side: 'sell', quantity: asQuantity(20_000), reduceOnly: null, crossesZero: true },
      asQuantity(10_000),
      instrument('CARB-EUR.VSPR'),
    );
    expect(result.ok || result.refusal.kind !== 'validation' ? null : result.refusal.suggestion).to.deep.equal({ reduce: { quantity: '1' }, cross: null });
  });
});

describe('a stop’s side of the market', () => {
  const legal = (
    side: 'buy' | 'sell',
    stopPrice: number,
    market: Partial<Record<'bid' | 'ask' | 'last', null>> = {},
    triggerOn: 'last' | 'bid' | 'ask' = 'last',
  ): boolean => {
    const terms = { type: 'stop', stop: asPrice(stopPrice), triggerOn } as const;
    return stopProblem(terms, side, GANET, { ...OPEN, ...market }) === null;
  };
  it('is above the ask for a buy and below the bid for a sell', () => {
    expect([legal('buy', 4120), legal('buy', 4121), legal('sell', 4118), legal('sell', 4117)]).to.deep.equal([false, true, false, true]);
  });
  it('is told against the price it triggers on', () => expect([legal('buy', 4119, {}, 'bid'), legal('buy', 4118, {}, 'bid')]).to.deep.equal([true, false]));
  it('is told against the last trade where that side is empty, and not at all without one', () => {
    expect([legal('buy', 4119, { ask: null }), legal('buy', 4120, { ask: null }), legal('buy', 1, { ask: null, last: null })]).to.deep.equal([
      false,
      true,
      true,
    ]);
  });
});

describe('a ghost', () => {
  const ghost = (side: 'buy' | 'sell', price: number, want: 'limit' | 'stop' | 'either', of = GANET, market = OPEN) => {
    const found = ghostAt({ instrument: of, side, price: asPrice(price), quantity: asQuantity(300), market, want });
    return found.ok ? `${found.value.type} ${found.value.effect}` : found.refusal;
  };
  it('rests a limit away from the market and fills one through it', () => {
    expect([ghost('buy', 4119, 'limit'), ghost('buy', 4120, 'limit'), ghost('sell', 4119, 'limit'), ghost('sell', 4118, 'limit')]).to.deep.equal([
      'limit rests',
      'limit fills now',
      'limit rests',
      'limit fills now',
    ]);
  });
  it('from the chart is a stop beyond the market and a limit before it', () => {
    expect([ghost('buy', 4121, 'either'), ghost('buy', 4120, 'either'), ghost('sell', 4117, 'either'), ghost('sell', 4118, 'either')]).to.deep.equal([
      'stop rests',
      'limit fills now',
      'stop rests',
      'limit fills now',
    ]);
  });
  it('is a stop-limit where only that is legal, and nothing where no stop is', () => {
    const carb = instrument('CARB-EUR.VSPR');
    expect(ghost('buy', 4121, 'stop', carb)).to.equal('stop-limit rests');
    expect(ghost('buy', 4121, 'stop', instrument('GANET.QUAY'))).to.contain('QUAY takes no stop orders');
  });
  it('says what it would fill at about, from the visible depth', () => {
    const found = ghostAt({
      instrument: GANET,
      side: 'buy',
      price: asPrice(4125),
      quantity: asQuantity(300),
      market: OPEN,
      want: 'limit',
      levels: [
        { price: asPrice(4120), quantity: asQuantity(100) },
        { price: asPrice(4123), quantity: asQuantity(500) },
      ],
    });
    expect(found.ok && found.value.words).to.equal('buys up to 41.25 now: 300 at about 41.22');
  });
  it('that rests is sent with restOnly', () => {
    const found = ghostAt({ instrument: GANET, side: 'buy', price: asPrice(4119), quantity: asQuantity(300), market: OPEN, want: 'limit' });
    expect(found.ok && ghostRequest(found.value, GANET)).to.deep.equal({
      instrument: 'GANET.HALM',
      side: 'buy',
      quantity: '300',
      type: 'limit',
      limitPrice: '41.19',
      restOnly: true,
    });
  });
});

describe('the sentence of an order', () => {
  it('holds side, quantity, instrument and each given price', () => {
    const order = made({ type: 'stop-limit', side: 'sell', stopPrice: '40.98', limitPrice: '40.90', timeInForce: 'gtc' });
    expect(orderSentence(order, GANET)).to.equal(
      'Sell 100 GANET.HALM at 40.90 or better when the last trade is 40.98 or lower, until cancelled, held at the venue, MAIN.',
    );
  });
});

describe('two requests', () => {
  it('with other spelling of the same values are the same', () => {
    const one = request({ clientOrderId: 'x', limitPrice: '41.20' });
    const said = (given: Parameters<typeof request>[0]): string => canonical(read({ ...one, ...given }));
    expect(said({})).to.equal(said({ limitPrice: '41.2', timeInForce: 'day', restOnly: false }));
    expect(said({})).to.equal(canonical(Object.fromEntries(Object.entries(read(one)).reverse())));
    expect(said({})).to.not.equal(said({ limitPrice: '41.21' }));
  });
});
