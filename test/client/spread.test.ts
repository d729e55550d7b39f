import { expect } from 'chai';
import { option } from '../../demo/fixed.ts';
import { parseCondition, parseOrder } from '../../src/core/language/index.ts';
import { costOf, exitCondition, exitPhrase, exitProblem, gathered, multiplesOf, spreadWords, worthOf, type SpreadLeg } from '../../src/client/spread.ts';

const call = (strike: number) =>
  option(`GANET-APR26-${strike}C`, `Gannet call ${strike}`, { underlying: 'GANET.HALM', expiry: '2026-04-17', strike: strike * 100, right: 'call' });
const KNOWN = new Map([call(40), call(44)].map((one) => [one.id, one]));
const of = (id: string) => KNOWN.get(id);
const [FORTY, FORTY_FOUR] = ['GANET-APR26-40C.HALM', 'GANET-APR26-44C.HALM'];

describe('a spread that is gathered', () => {
  it('grows by presses on the same side, shrinks by the other, and lets go of a leg of none', () => {
    let legs: readonly SpreadLeg[] = gathered([], FORTY, 'buy', '2.07');
    legs = gathered(legs, FORTY, 'buy', '2.08');
    expect(legs).to.deep.equal([{ instrument: FORTY, quantity: 2, price: '2.08' }]);
    legs = gathered(gathered(legs, FORTY, 'sell', '2.05'), FORTY_FOUR, 'sell', '0.55');
    expect(legs.map(({ quantity }) => quantity)).to.deep.equal([1, -1]);
    expect(gathered(legs, FORTY, 'sell', '2.05').map(({ instrument }) => instrument)).to.deep.equal([FORTY_FOUR]);
  });

  it('is a sentence: what it buys and sells, costs, makes, loses, and where it is even', () => {
    const legs = [
      { instrument: FORTY, quantity: 1, price: '1.67' },
      { instrument: FORTY_FOUR, quantity: -1, price: '0.55' },
    ];
    expect(costOf(legs)).to.equal('1.12');
    expect(spreadWords(legs, { worst: '-112', best: '288', breakEvens: ['41.12'] }, 100, of)).to.equal(
      'buys 40 call, sells 44 call, costs 1.12, at most +2.88, at worst −1.12, even at 41.12',
    );
    const turned = legs.map((leg) => ({ ...leg, quantity: -2 * leg.quantity }));
    expect(spreadWords(turned, { worst: null, best: '224', breakEvens: [] }, 100, of)).to.equal(
      'sells 2 × 40 call, buys 2 × 44 call, brings 2.24, at most +2.24, at worst without end, nowhere even',
    );
    expect(spreadWords(legs.slice(0, 1), null, 100, of)).to.equal('buys 40 call, costs 1.67');
  });

  it('says the best as a multiple of what is at risk', () => {
    expect(multiplesOf({ worst: '-112', best: '288', breakEvens: [] })).to.equal('at most +288.00 EUR, 2.6 R; at worst −112.00 EUR');
    expect(multiplesOf({ worst: '-112', best: null, breakEvens: [] })).to.equal('at most without end; at worst −112.00 EUR');
    expect(multiplesOf({ worst: null, best: '224', breakEvens: [] })).to.equal('at most +224.00 EUR; at worst without end');
    expect(multiplesOf({ worst: '12', best: '24', breakEvens: [] })).to.equal('at most +24.00 EUR; at worst +12.00 EUR');
  });

  const BULL: readonly SpreadLeg[] = [
    { instrument: FORTY, quantity: 1, price: '1.67' },
    { instrument: FORTY_FOUR, quantity: -2, price: '0.55' },
  ];

  it('is worth what closing its legs brings: bids for what was bought, asks for what was sold', () => {
    const quotes: Readonly<Record<string, readonly [string | null, string]>> = { [FORTY]: ['1.80', '1.90'], [FORTY_FOUR]: ['0.30', '0.40'] };
    const priceOf = (id: string, side: 'bid' | 'ask') => quotes[id]?.[side === 'bid' ? 0 : 1] ?? null;
    expect(worthOf(BULL, priceOf)).to.equal('1.00');
    expect(
      worthOf(
        BULL.map((leg) => ({ ...leg, quantity: -leg.quantity })),
        priceOf,
      ),
    ).to.equal('-1.30');
    expect(worthOf(BULL, () => null)).to.equal(null);
  });

  it('is left at a worth: a condition that every leg waits for, in the language of conditions', () => {
    const both = exitCondition(BULL, { target: '2.00', stop: '0.20' });
    expect(both).to.equal(`held and (${FORTY} bid - 2 x ${FORTY_FOUR} ask >= 2.00 or ${FORTY} bid - 2 x ${FORTY_FOUR} ask <= 0.20)`);
    const short = exitCondition(
      BULL.map((leg) => ({ ...leg, quantity: -leg.quantity })),
      { target: '', stop: '-1.50' },
    );
    expect(short).to.equal(`held and -${FORTY} ask + 2 x ${FORTY_FOUR} bid <= -1.50`);
    for (const phrase of [both, short]) expect(parseCondition(phrase), phrase).to.include({ ok: true });
    const orders = BULL.map((leg) => exitPhrase(leg, 'MAIN'));
    expect(orders).to.deep.equal([`sell position ${FORTY} at bid, account MAIN`, `buy position ${FORTY_FOUR} at ask, account MAIN`]);
    for (const phrase of orders) expect(parseOrder(phrase), phrase).to.include({ ok: true });
  });

  it('is not left at a target that it costs already, nor at what is no price', () => {
    expect(exitProblem(BULL, { target: '', stop: '' })).to.equal('write a worth to leave at');
    expect(exitProblem(BULL, { target: 'x', stop: '' })).to.equal('x is no price');
    expect(exitProblem(BULL, { target: '0.57', stop: '' })).to.equal('a target lies above what it costs, 0.57');
    expect(exitProblem(BULL, { target: '', stop: '0.58' })).to.equal('a stop lies below what it costs, 0.57');
    expect(exitProblem(BULL, { target: '0.58', stop: '0.56' })).to.equal(null);
  });
});
