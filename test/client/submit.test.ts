import { expect } from 'chai';
import fc from 'fast-check';
import { OrderArea, type AreaHost } from '../../src/client/gestures/area.ts';
import { makeSubmit, type Gesture, type Surroundings } from '../../src/client/gestures/submit.ts';
import type { GestureIntent, OrderWish } from '../../src/client/gestures/intent.ts';
import type { DirectSend } from '../../src/client/session.ts';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import type { MarketView } from '../../src/core/orders/index.ts';
import { instrument } from '../support/world.ts';

const BUY: OrderWish = { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', quantity: '100', limitPrice: '41.18' };

/** Surroundings that can be set, and what was done in them, in order. */
function made(given: Partial<{ held: number; direct: DirectSend; up: boolean; fresh: boolean; spent: boolean }> = {}) {
  const state = { now: 10_000, held: 0, direct: 'exits only' as DirectSend, up: true, fresh: true, spent: false, ...given };
  const done: string[] = [];
  const around: Surroundings = {
    now: () => state.now,
    spent: () => (state.spent ? 'closed a popover' : null),
    screenUp: () => state.up,
    quotesFresh: () => state.fresh,
    held: () => state.held,
    directSend: () => state.direct,
    againMs: () => 250,
    refuse: (_pane, words) => done.push(`refused: ${words}`),
    planFor: () => null,
    openSlip: (_pane, wish) => done.push(`slip: ${wish.side} ${wish.quantity} ${wish.type}`),
    send: (_pane, intent) => {
      done.push(`sent: ${intent.kind}${intent.kind === 'place' ? ` ${intent.wish.side} ${intent.wish.quantity}` : ''}`);
      return Promise.resolve(true);
    },
  };
  const submit = makeSubmit(around);
  const act = (intent: GestureIntent, from: Gesture['from'] = 'ladder', more: Partial<Gesture> = {}): string | undefined => {
    submit({ pane: 'p', from, intent, evidence: null, ...more });
    return done[done.length - 1];
  };
  return { state, done, submit, act };
}

describe('what a gesture comes to', () => {
  const place = (wish: Partial<OrderWish> = {}): GestureIntent => ({ kind: 'place', wish: { ...BUY, ...wish } });
  const CLOSE: GestureIntent = { kind: 'close', account: 'MAIN', instrument: 'GANET.HALM' };
  const cases: [name: string, given: Parameters<typeof made>[0], intent: GestureIntent, from: Gesture['from'], then: string | RegExp][] = [
    ['an entry opens the slip with exits only', {}, place(), 'ladder', 'slip: buy 100 limit'],
    ['an entry is sent with all', { direct: 'all' }, place(), 'ladder', 'sent: place buy 100'],
    ['what reduces is sent with exits only', { held: 100 }, place({ side: 'sell' }), 'chart', 'sent: place sell 100'],
    ['what reduces opens the slip with off', { held: 100, direct: 'off' }, place({ side: 'sell' }), 'chart', 'slip: sell 100 limit'],
    ['what would cross zero is refused', { held: 60, direct: 'all' }, place({ side: 'sell' }), 'chart', /cross zero: 60 held, 100 asked/],
    ['what says that it reduces is not', { held: 60, direct: 'all' }, place({ side: 'sell', reduceOnly: true }), 'chart', 'sent: place sell 100'],
    ['the slip sends', { direct: 'off' }, place(), 'review', 'sent: place buy 100'],
    ['the slip sends on an old price, for it was read', { fresh: false }, place(), 'review', 'sent: place buy 100'],
    ['an entry on an old price is refused', { fresh: false, direct: 'all' }, place(), 'tables', /price is old/],
    ['a close goes on an old price', { fresh: false, held: 5 }, CLOSE, 'tables', 'sent: close'],
    ['a close opens the slip with off, for all that is held', { held: -5, direct: 'off' }, CLOSE, 'ladder', 'slip: buy 5 market'],
    ['nothing goes without a link', { up: false, held: 5 }, CLOSE, 'tables', /no link/],
    ['a cancel goes with off', { direct: 'off' }, { kind: 'cancel', order: {} as never }, 'chart', 'sent: cancel'],
    ['a cancel without a link is refused', { up: false }, { kind: 'cancel', order: {} as never }, 'chart', /no link/],
    ['a drag on an old price is refused', { fresh: false }, { kind: 'change', order: {} as never, change: {} }, 'chart', /price is old/],
    ['a press that closed a popover does nothing else', { spent: true, direct: 'all' }, place(), 'ladder', /only closed a popover/],
    ['flatten goes all the same', { spent: true }, { kind: 'flatten', account: 'MAIN', instrument: null }, 'rail', 'sent: flatten'],
  ];
  for (const [name, given, intent, from, then] of cases)
    it(name, () => {
      const said = made(given).act(intent, from);
      if (then instanceof RegExp) expect(said).to.match(then);
      else expect(said).to.equal(then);
    });
});

describe('an order area', () => {
  const GANET = instrument('GANET.HALM');
  type Aim = { readonly price: number; readonly side: 'buy' | 'sell' };

  /** An area over prices, in surroundings that can be set. */
  function area() {
    const around = made({ direct: 'all' });
    const market: { view: MarketView } = {
      view: { state: 'open', bid: asPrice(4118), ask: asPrice(4120), last: null, priceLimits: { lower: null, upper: null } },
    };
    const refused: string[] = [];
    const listed: number[] = [];
    const host: AreaHost<Aim> = {
      pane: 'p',
      surface: 'ladder',
      key: ({ price, side }) => `${price} ${side}`,
      account: () => 'MAIN',
      ask: ({ price, side }) => ({ instrument: GANET, side, price: asPrice(price), quantity: asQuantity(100), market: market.view, want: 'limit' }),
      forbidden: () => null,
      quotesFresh: () => around.state.fresh,
      now: () => around.state.now,
      changedAt: () => 0,
      moved: () => undefined,
      farTicks: () => 5,
      planOn: () => null,
      sendsAtOnce: () => around.state.direct === 'all',
      shown: () => undefined,
      submit: around.submit,
      refuse: (words) => refused.push(words),
      list: ({ price }) => listed.push(price),
    };
    return { ...around, market, refused, listed, area: new OrderArea(host) };
  }
  const REST: Aim = { price: 4115, side: 'buy' };

  it('sends just what was painted', () => {
    const { area: one, done } = area();
    one.point(REST);
    expect(one.paint()?.words).to.equal('buys 100 at 41.15 · rests · SENDS AT ONCE');
    one.down(REST, 10, 10);
    one.up(REST, 11, 11);
    expect(done).to.deep.equal(['sent: place buy 100']);
  });
  for (const state of ['pre-open', 'halted', 'closed'] as const)
    it(`lists what is possible where the market is ${state}, and sends nothing by itself`, () => {
      const { area: one, done, listed, market } = area();
      market.view = { ...market.view, state };
      one.point(REST);
      expect(one.paint()).to.deep.include({ words: `${state}: a press lists what is possible`, sends: false });
      one.down(REST, 10, 10);
      one.up(REST, 11, 11);
      expect([done, listed]).to.deep.equal([[], [4115]]);
    });
  it('sends nothing for a press that nothing was painted for', () => {
    const { area: one, done } = area();
    one.down(REST, 10, 10);
    one.up(REST, 10, 10);
    expect(done).to.deep.equal(['refused: no order was shown there']);
  });
  it('takes a press that travels for no order, and one that ends elsewhere', () => {
    const { area: one, done } = area();
    one.point(REST);
    one.paint();
    one.down(REST, 10, 10);
    one.up(REST, 14, 10);
    one.down(REST, 10, 10);
    one.up({ ...REST, price: 4114 }, 10, 10);
    expect(done).to.deep.equal([]);
  });
  it('says so for a press that began on something else, and nothing for one that was dropped', () => {
    const { area: one, done, refused } = area();
    one.up(REST, 0, 0);
    expect(refused[0]).to.match(/changed a moment ago/);
    one.point(REST);
    one.paint();
    one.down(REST, 0, 0);
    one.drop();
    expect([done, refused.length]).to.deep.equal([[], 1]);
  });
  it('opens the slip for what goes far through the market', () => {
    const { area: one, done } = area();
    const far: Aim = { price: 4126, side: 'buy' };
    one.point(far);
    one.paint();
    one.down(far, 0, 0);
    one.up(far, 0, 0);
    expect(done).to.deep.equal(['slip: buy 100 limit']);
  });
  it('refuses what would now do something else than was painted', () => {
    const { area: one, done, market } = area();
    one.point(REST);
    one.paint();
    one.down(REST, 0, 0);
    market.view = { ...market.view, ask: asPrice(4115) };
    one.up(REST, 0, 0);
    expect(done[0]).to.match(/would have rested and now fills now/);
  });

  it('never sends but what was last painted, stood still for 300 ms, is still true, and was heard, in any order of events', () => {
    const event = fc.oneof(
      fc.record({ do: fc.constantFrom('point' as const, 'down' as const, 'up' as const), price: fc.constantFrom(4115, 4116, 4120, 4121) }),
      fc.record({ do: fc.constant('wait' as const), ms: fc.constantFrom(10, 100, 260, 400) }),
      fc.record({ do: fc.constant('ask' as const), price: fc.constantFrom(4115, 4117, 4120) }),
      fc.record({
        do: fc.constantFrom('paint' as const, 'moved' as const, 'stale' as const, 'fresh' as const, 'lost' as const, 'back' as const, 'drop' as const),
      }),
    );
    // A whole press, into which something may come.
    const press = fc
      .tuple(fc.constantFrom(4115, 4116, 4120, 4121), event)
      .map(([price, between]) => [
        { do: 'point' as const, price },
        { do: 'paint' as const },
        { do: 'wait' as const, ms: 400 },
        { do: 'down' as const, price },
        between,
        { do: 'up' as const, price },
      ]);
    let sent = 0;
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            event.map((one) => [one]),
            press,
          ),
          { maxLength: 30, size: 'max' },
        ),
        (steps) => {
          const events = steps.flat();
          const { area: one, done, state, market } = area();
          // What stands on the screen: where, and what it says.
          let painted: { price: number; words: string | null } | null = null;
          let pressed: { words: string | null; price: number } | null = null;
          let movedAt = -Infinity;
          for (const it of events) {
            const before = done.length;
            const aim = 'price' in it ? { price: it.price, side: 'buy' as const } : REST;
            if (it.do === 'point') one.point(aim);
            else if (it.do === 'paint') {
              const shown = one.paint();
              painted = shown && { price: shown.aim.price, words: shown.ghost?.words ?? null };
            } else if (it.do === 'down') {
              pressed = { words: painted?.price === aim.price ? painted.words : null, price: aim.price };
              one.down(aim, 0, 0);
            } else if (it.do === 'up') {
              one.up(aim, 0, 0);
              if (done.length > before && done[before]?.startsWith('sent')) {
                sent++;
                expect(pressed?.price).to.equal(aim.price);
                const now = `buys ${aim.price >= (market.view.ask ?? 0) ? 'up to' : '100 at'}`;
                expect(pressed?.words ?? '').to.include(now);
                expect(state.up && state.fresh && state.now - movedAt >= 300).to.equal(true);
              }
              pressed = null;
            } else if (it.do === 'wait') state.now += it.ms;
            else if (it.do === 'ask') market.view = { ...market.view, ask: asPrice(it.price) };
            else if (it.do === 'moved') {
              one.moved();
              movedAt = state.now;
            } else if (it.do === 'drop') {
              one.drop();
              pressed = null;
            } else if (it.do === 'stale' || it.do === 'fresh') state.fresh = it.do === 'fresh';
            else if (it.do === 'lost' || it.do === 'back') state.up = it.do === 'back';
          }
        },
      ),
      { numRuns: 1000 },
    );
    expect(sent).to.be.greaterThan(100);
  });
});
