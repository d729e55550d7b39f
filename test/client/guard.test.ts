import { expect } from 'chai';
import { refuseGesture, type Evidence, type GuardFacts } from '../../src/client/gestures/guard.ts';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import type { Ghost } from '../../src/core/orders/index.ts';

const GHOST: Ghost = { side: 'buy', type: 'limit', price: asPrice(4118), quantity: asQuantity(100), effect: 'rests', words: '' };
const SHOWN: Evidence = { changedAt: 9_000, key: 'buy 4118', painted: GHOST, present: { ...GHOST }, reason: null };
const FINE: GuardFacts = {
  now: 10_000,
  spent: null,
  screenUp: true,
  quoteFresh: true,
  last: null,
  againMs: 250,
  evidence: SHOWN,
  crossesZero: null,
  needsNoPrice: false,
  flattens: false,
};

describe('a gesture', () => {
  const shown = (more: Partial<Evidence>): Partial<GuardFacts> => ({ evidence: { ...SHOWN, ...more } });
  const cases: [name: string, facts: Partial<GuardFacts>, words: RegExp | null][] = [
    ['goes when nothing stands against it', {}, null],
    ['is refused when it woke the window', { spent: 'woke the window' }, /woke the window/],
    ['is refused when it closed a popover', { spent: 'closed a popover' }, /closed a popover/],
    ['is refused within 300 ms of a change', shown({ changedAt: 9_701 }), /changed a moment ago/],
    ['goes 300 ms after a change', shown({ changedAt: 9_700 }), null],
    ['is refused without a link', { screenUp: false }, /no link/],
    ['is refused without a link though it needs no price', { screenUp: false, needsNoPrice: true, evidence: null }, /no link/],
    ['is refused on an old price', { quoteFresh: false }, /price is old/],
    ['goes on an old price when it needs none', { quoteFresh: false, needsNoPrice: true }, null],
    ['is refused a second time within 250 ms', { last: { at: 9_751, key: 'buy 4118' } }, /second press/],
    ['goes a second time after 250 ms', { last: { at: 9_750, key: 'buy 4118' } }, null],
    ['goes at another price at once', { last: { at: 9_990, key: 'buy 4117' } }, null],
    ['is refused where no ghost was painted', shown({ painted: null, reason: 'off the grid' }), /off the grid/],
    ['is refused where none is possible any more', shown({ present: null, reason: 'outside the limits' }), /no longer possible: outside the limits/],
    ['is refused when its effect changed', shown({ present: { ...GHOST, effect: 'fills now' } }), /would have rested and now fills now/],
    ['is refused when its type changed', shown({ present: { ...GHOST, type: 'stop' } }), /was a limit and would now be a stop/],
    ['is refused when its size changed', shown({ present: { ...GHOST, quantity: asQuantity(200) } }), /no longer what would be sent/],
    ['is refused when it would cross zero', { crossesZero: 'it would cross zero' }, /cross zero/],
    ['that flattens goes though it woke the window', { spent: 'woke the window', flattens: true, needsNoPrice: true, evidence: null }, null],
    ['that flattens is refused without a link', { screenUp: false, flattens: true, needsNoPrice: true, evidence: null }, /no link/],
  ];
  for (const [name, facts, words] of cases)
    it(name, () => {
      const refusal = refuseGesture({ ...FINE, ...facts });
      if (words === null) expect(refusal).to.equal(null);
      else expect(refusal).to.match(words);
    });

  it('gives the first reason that holds', () => {
    expect(refuseGesture({ ...FINE, spent: 'woke the window', screenUp: false, ...shown({ painted: null }) })).to.match(/woke/);
  });
});
