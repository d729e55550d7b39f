import { expect } from 'chai';
import { layerActs, type LayerFacts } from '../../src/client/layer-acts.ts';
import { asPrice } from '../../src/core/instrument/index.ts';
import type { ApiOrder, ApiPosition } from '../../src/live/index.ts';
import { readOrder, readPosition } from '../../src/live/read.ts';
import { staveOf } from '../../src/views/act/stave.ts';
import { readExitPlan, type ExitPlanText } from '../../src/core/exits/index.ts';
import { asQuantity } from '../../src/core/instrument/index.ts';
import { instrument } from '../support/world.ts';

const GANET = instrument('GANET.HALM');
const MARKET = { state: 'open', bid: asPrice(4118), ask: asPrice(4120), last: asPrice(4119), priceLimits: { lower: null, upper: null } } as const;
const position = (quantity: string, averagePrice = '41.2037') => readPosition({ quantity, averagePrice, mark: null } as ApiPosition, GANET);
const order = (given: Partial<ApiOrder>) =>
  readOrder(
    {
      id: 'o',
      quantity: '300',
      remainingQuantity: '300',
      opening: false,
      limitPrice: null,
      stopPrice: null,
      triggeredAt: null,
      state: 'new',
      ...given,
    } as ApiOrder,
    GANET,
  );

const facts = (given: Partial<LayerFacts> = {}): LayerFacts => ({
  account: 'MAIN',
  instrument: GANET,
  size: '300',
  market: MARKET,
  aim: asPrice(4115),
  position: undefined,
  working: [],
  through: 0,
  ...given,
});
const said = (given: Partial<LayerFacts> = {}): Record<string, string> =>
  Object.fromEntries(layerActs(facts(given)).map(({ key, words, does }) => [key, does ? words : `– ${words}`]));
const wishes = (key: string, given: Partial<LayerFacts> = {}): unknown => layerActs(facts(given)).find((act) => act.key === key)?.does?.intents;

describe('the keys of the order layer', () => {
  it('say what each would do now', () => {
    expect(said()).to.deep.equal({
      b: 'buys 300 at 41.15 · rests',
      s: 'sells 300 on a stop at 41.15, then market · rests',
      t: 'buys up to 41.20 now: 300 at about 41.20',
      h: 'sells down to 41.18 now: 300 at about 41.18',
      j: 'buys 300 at 41.18 · rests',
      o: 'sells 300 at 41.20 · rests',
      c: '– no position',
      r: '– no position',
      e: '– no position',
      x: '– no entry works',
      f: 'flattens GANET',
      'Shift+f': 'flattens all of MAIN',
    });
  });

  it('say why not where something lacks', () => {
    const bare = said({ aim: null, market: { ...MARKET, bid: null, ask: null } });
    expect([bare['b'], bare['t'], bare['h']]).to.deep.equal(['– aim first: pointer or ↑ ↓', '– no ask', '– no bid']);
    expect(said({ size: '' })['j']).to.equal('– no size is set');
  });

  it('send what they say, resting limits as such', () => {
    expect(wishes('j')).to.deep.equal([
      { kind: 'place', wish: { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', quantity: '300', type: 'limit', limitPrice: '41.18', restOnly: true } },
    ]);
    expect(wishes('t', { through: 2 })).to.deep.equal([
      { kind: 'place', wish: { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', quantity: '300', type: 'limit', limitPrice: '41.22' } },
    ]);
  });

  it('close and reverse a position, and bring its stops to even, in the direction of gain', () => {
    const stop = order({ stopPrice: '40.90' });
    const long = said({ position: position('200'), working: [stop, order({ id: 'e', opening: true })] });
    expect([long['c'], long['r'], long['e'], long['x']]).to.deep.equal([
      'sells 200 at market',
      'sells 400 at market',
      'its stop to 41.21',
      'cancels 1; exits stay',
    ]);
    expect(said({ position: position('-200'), working: [stop] })['e']).to.equal('its stop to 41.20');
    expect(said({ position: position('200', '41.2'), working: [stop] })['e']).to.equal('its stop to 41.20');
    expect(said({ position: position('200') })['e']).to.equal('– no stop to move');
  });
});

describe('a plan as it is drawn', () => {
  it('has each leg at its distance, as long as its share, with its money', () => {
    const text: ExitPlanText = {
      heldBy: 'venue',
      onSizeChange: 'follow',
      onMissedLevel: 'fire',
      steps: [
        { share: '60', stop: { by: 'ticks', value: '10', order: 'market' }, target: { by: 'ticks', value: '20', order: 'limit' } },
        { share: '40', stop: { by: 'ticks', value: '30', order: 'market' } },
      ],
    };
    const read = readExitPlan(text);
    if (!read.ok) throw new Error('no plan');
    const rungs = (long: boolean) =>
      staveOf(read.value, GANET, long, asPrice(4120), asQuantity(100)).map(({ step, leg, price, away, quantity, money }) => [
        step,
        leg,
        price,
        away,
        quantity,
        money,
      ]);
    expect(rungs(true)).to.deep.equal([
      [0, 'stop', '41.10', -10, 60, '-6.00'],
      [0, 'target', '41.40', 20, 60, '12.00'],
      [1, 'stop', '40.90', -30, 40, '-12.00'],
    ]);
    expect(rungs(false)).to.deep.equal([
      [0, 'stop', '41.30', 10, 60, '-6.00'],
      [0, 'target', '41.00', -20, 60, '12.00'],
      [1, 'stop', '41.50', 30, 40, '-12.00'],
    ]);
  });
});
