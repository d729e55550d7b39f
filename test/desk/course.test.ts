import { expect } from 'chai';
import type { ExitPlanText } from '../../src/core/exits/index.ts';
import { asPrice, formatPrice } from '../../src/core/instrument/index.ts';
import { exitLevels, type ExitLevel } from '../../src/core/review/index.ts';
import { endWorlds, worldOf } from '../support/scenes.ts';
import { instrument, type World } from '../support/world.ts';

const GANET = 'GANET.HALM';
const START = Date.parse('2026-03-02T09:00:00.000Z');
const OPENED = START + 1000;
const CLOSED = START + 10_000;

const TAPE = [
  `09:00:00.000 ${GANET} level bid 41.20 10000`,
  `09:00:00.000 ${GANET} level ask 41.22 10000`,
  `09:00:00.000 ${GANET} trade buy 41.21 1`,
  // The target's price trades here.
  `09:00:08.000 ${GANET} level ask 41.22 0`,
  `09:00:08.000 ${GANET} level ask 41.60 10000`,
  `09:00:08.000 ${GANET} level bid 41.50 10000`,
  `09:00:08.000 ${GANET} trade buy 41.50 5`,
];

const planOf = (heldBy: 'venue' | 'here'): ExitPlanText => ({
  name: 'a plan',
  heldBy,
  onSizeChange: 'follow',
  onMissedLevel: 'fire',
  steps: [{ share: '100', stop: { by: 'ticks', value: '10', order: 'market' }, target: { by: 'ticks', value: '20', order: 'limit' } }],
});

const second = (time: number): number => (time - START) / 1000;
const shown = (levels: readonly ExitLevel[]): string[] =>
  levels.map(({ kind, price, from, to }) => `${kind} ${formatPrice(instrument(GANET), price)} ${second(from)}–${second(to)}`);
const levelsOf = async (w: World, from = OPENED, to = CLOSED): Promise<string[]> =>
  shown(exitLevels(instrument(GANET), await w.desk.entries({ accounts: ['MAIN'], instrument: GANET, limit: 1000 }), from, to));

describe('where the exits of a round trip stood', () => {
  afterEach(endWorlds);

  for (const heldBy of ['venue', 'here'] as const)
    it(`is told from when they were asked for to their end, and by each move: held ${heldBy === 'here' ? 'here' : 'at the venue'}`, async () => {
      const world = await (await worldOf(TAPE)).to('09:00:01.000');
      await world.placed({ type: 'market', quantity: '100', exitPlan: planOf(heldBy) });
      await world.to('09:00:04.000');
      const [plan] = [...world.desk.account('MAIN').plans.values()];
      const leg = plan?.steps[0]?.stop;
      if (heldBy === 'venue') await world.replace(leg?.orderId ?? '', { stopPrice: '41.05' });
      else await world.ask('MAIN', { kind: 'move-leg', planId: plan?.id ?? '', step: 0, leg: 'stop', price: asPrice(4105) });
      await world.to('09:00:09.000');
      expect((await world.position('MAIN')).quantity).to.equal('0');
      expect(await levelsOf(world)).to.deep.equal(['stop 41.12 1–4', 'target 41.42 1–8', 'stop 41.05 4–8']);
      // Only what lies between is told.
      expect(await levelsOf(world, START + 5000, START + 6000)).to.deep.equal(['target 41.42 5–6', 'stop 41.05 5–6']);
      expect(await levelsOf(world, START + 9000, CLOSED)).to.deep.equal([]);
    });

  it('is told of orders that only close, without a plan, and not of those that open', async () => {
    const w = await (await worldOf(TAPE)).to('09:00:01.000');
    await w.placed({ type: 'market', quantity: '100' });
    await w.placed({ limitPrice: '41.00', quantity: '50' });
    const stop = await w.placed({ type: 'stop', stopPrice: '41.10', side: 'sell', quantity: '100', reduceOnly: true });
    await w.to('09:00:03.000');
    await w.cancel(stop);
    await w.to('09:00:05.000');
    await w.placed({ limitPrice: '41.50', side: 'sell', quantity: '40', reduceOnly: true });
    await w.to('09:00:09.000');
    expect(await levelsOf(w)).to.deep.equal(['stop 41.10 1–3', 'target 41.50 5–8']);
  });
});
