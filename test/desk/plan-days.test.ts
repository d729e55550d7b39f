import { expect } from 'chai';
import type { ExitPlanText } from '../../src/core/exits/index.ts';
import { readRules } from '../../src/core/risk/index.ts';
import { presentPlan } from '../../src/desk/present/index.ts';
import { endWorlds, worldOf } from '../support/scenes.ts';
import { instrument, type World } from '../support/world.ts';

const GANET = 'GANET.HALM';
const FUTURE = 'HALM40M-JUN26.HALM';
const HELD = ['venue', 'here'] as const;
type Holder = (typeof HELD)[number];
const where = (heldBy: Holder): string => `held ${heldBy === 'venue' ? 'at the venue' : 'here'}`;

const MARKET = [`09:00:00.000 ${GANET} level bid 41.20 10000`, `09:00:00.000 ${GANET} level ask 41.22 10000`, `09:00:00.000 ${GANET} trade buy 41.21 1`];
/** A stop 50 ticks away and a target 100. */
const planOf = (heldBy: Holder): ExitPlanText => ({
  heldBy,
  onSizeChange: 'follow',
  onMissedLevel: 'fire',
  steps: [{ share: '100', stop: { by: 'ticks', value: '50', order: 'market' }, target: { by: 'ticks', value: '100', order: 'limit' } }],
});
const open = async (rows: readonly string[] = []): Promise<World> => (await worldOf([...MARKET, ...rows])).to('09:00:00.500');

/** The newest plan of an account, in a line: its state, then quantity, state, stop and target of its step. */
function shown(w: World, account = 'MAIN'): string {
  const plan = [...w.desk.account(account).plans.values()].at(-1);
  if (!plan) return 'none';
  const { state, steps } = presentPlan(w.desk.account(account), plan, instrument(plan.instrument), () => null);
  return `${state}: ${steps.map((step) => `${step.quantity} ${step.state} ${step.stop?.price ?? '–'}/${step.target?.price ?? '–'}`).join(', ')}`;
}
const held = async (w: World, account = 'MAIN', id = GANET): Promise<string> => (await w.position(account, id)).quantity;
function nothingWorks(w: World, account = 'MAIN'): void {
  expect(w.desk.account(account).working.size, 'working orders').to.equal(0);
}

afterEach(endWorlds);

describe('a position with a plan that something else ends', () => {
  for (const heldBy of HELD) {
    it(`the broker’s close of what is held intraday ends the plan and its legs, ${where(heldBy)}`, async () => {
      const w = await open();
      await w.placed({ type: 'market', quantity: '100', product: 'intraday', exitPlan: planOf(heldBy) });
      expect(shown(w)).to.equal('armed: 100 armed 40.72/42.22');
      await w.to('17:20:00.000');
      expect([shown(w).split(':')[0], await held(w)]).to.deep.equal(['done', '0']);
      nothingWorks(w);
      expect((await w.fills()).map(({ side, quantity }) => `${side} ${quantity}`)).to.deep.equal(['buy 100', 'sell 100']);
    });

    it(`the last day of a future ends the plan and its legs, ${where(heldBy)}`, async () => {
      const day = '2026-06-19T';
      const w = await open([
        `${day}08:00:00.000Z ${FUTURE} level bid 4100.0 100`,
        `${day}08:00:00.000Z ${FUTURE} level ask 4100.5 100`,
        `${day}08:00:00.000Z ${FUTURE} trade buy 4100.5 1`,
        `${day}08:00:00.000Z HALM40.HALM trade buy 4110.00 1`,
      ]);
      await w.to(`${day}09:00:00.000Z`);
      await w.placed({ account: 'EVAL', instrument: FUTURE, type: 'market', quantity: '2', exitPlan: planOf(heldBy) });
      expect(shown(w, 'EVAL')).to.equal('armed: 2 armed 4075.5/4150.5');
      await w.to(`${day}16:30:00.000Z`);
      expect([shown(w, 'EVAL').split(':')[0], await held(w, 'EVAL', FUTURE)]).to.deep.equal(['done', '0']);
      nothingWorks(w, 'EVAL');
    });

    it(`a day’s limit that closes all stops the plan and closes once, ${where(heldBy)}`, async () => {
      const w = await open([`09:00:01.000 ${GANET} trade sell 40.80 1`]);
      const rules = readRules({ dayLossLimit: '40', onDayLoss: 'close-out' });
      if (!rules.ok) throw new Error('not read');
      await w.ask('MAIN', { kind: 'set-rules', rules: rules.value, version: 1 });
      await w.placed({ type: 'market', quantity: '100', exitPlan: planOf(heldBy) });
      await w.to('09:00:01.000');
      expect([shown(w).split(':')[0], await held(w)]).to.deep.equal(['stopped', '0']);
      nothingWorks(w);
      expect((await w.fills()).filter(({ side }) => side === 'sell').map(({ quantity }) => quantity)).to.deep.equal([100]);
    });

    it(`goes on over the day’s turn, also where its entry ends with the day, ${where(heldBy)}`, async () => {
      const w = await open([
        `09:00:01.000 ${GANET} level ask 41.00 60`,
        `2026-03-03T10:00:00.000Z ${GANET} level bid 40.40 1000`,
        `2026-03-03T10:00:00.000Z ${GANET} level bid 41.20 0`,
        `2026-03-03T10:00:00.000Z ${GANET} trade sell 40.45 1`,
      ]);
      const entry = await w.placed({ limitPrice: '41.00', quantity: '100', exitPlan: planOf(heldBy) });
      await w.to('09:00:01.000');
      expect(shown(w)).to.equal('armed: 60 armed 40.50/42.00');
      await w.to('2026-03-03T00:00:00.000Z');
      expect([await w.shown(entry), shown(w)]).to.deep.equal(['expired 60/100 day-end', 'armed: 60 armed 40.50/42.00']);
      await w.to('2026-03-03T10:00:00.000Z');
      expect([shown(w).split(':')[0], await held(w)]).to.deep.equal(['done', '0']);
      nothingWorks(w);
    });

    it(`an entry that ends unfilled by itself ends the plan, ${where(heldBy)}`, async () => {
      for (const [given, ends] of [
        [{}, '2026-03-03T00:00:00.000Z'],
        [{ timeInForce: 'gtd', expiresAt: '2026-03-02T09:05:00.000Z' }, '09:05:00.000'],
      ] as const) {
        const w = await open();
        await w.placed({ limitPrice: '40.00', quantity: '100', exitPlan: planOf(heldBy), ...given });
        expect(shown(w)).to.equal('waiting: 0 waiting –/–');
        await w.to(ends);
        expect(shown(w).split(':')[0]).to.equal('done');
      }
    });

    it(`an ioc entry that fills in part is protected for what it filled, ${where(heldBy)}`, async () => {
      const w = await open([`09:00:01.000 ${GANET} level ask 41.22 60`]);
      await w.to('09:00:01.000');
      const entry = await w.placed({ limitPrice: '41.22', quantity: '100', timeInForce: 'ioc', exitPlan: planOf(heldBy) });
      expect([await w.shown(entry), shown(w)]).to.deep.equal(['canceled 60/100 ioc', 'armed: 60 armed 40.72/42.22']);
    });

    it(`waits out a halt, and closes at the open what was passed in it, ${where(heldBy)}`, async () => {
      const w = await open([
        `09:00:01.000 ${GANET} state halted`,
        `09:00:02.000 ${GANET} level bid 41.20 0`,
        `09:00:02.000 ${GANET} level bid 40.30 1000`,
        `09:00:02.000 ${GANET} trade sell 40.40 1`,
        `09:00:03.000 ${GANET} state open`,
        `09:00:04.000 ${GANET} trade sell 40.39 1`,
      ]);
      await w.placed({ type: 'market', quantity: '100', exitPlan: planOf(heldBy) });
      await w.to('09:00:02.500');
      expect([shown(w), await held(w)]).to.deep.equal(['armed: 100 armed 40.72/42.22', '100']);
      await w.to('09:00:04.000');
      expect([shown(w).split(':')[0], await held(w)]).to.deep.equal(['done', '0']);
      expect((await w.fills()).at(-1)?.price).to.equal(4030);
    });

    it(`is turned with its position: a larger order the other way ends it, ${where(heldBy)}`, async () => {
      const w = await open();
      await w.placed({ type: 'market', quantity: '100', exitPlan: planOf(heldBy) });
      await w.placed({ side: 'sell', type: 'market', quantity: '250', crossesZero: true });
      expect([shown(w).split(':')[0], await held(w)]).to.deep.equal(['done', '-150']);
      nothingWorks(w);
    });

    it(`what is sold by hand is no more covered, to the last unit, ${where(heldBy)}`, async () => {
      const w = await open();
      await w.placed({ type: 'market', quantity: '100', exitPlan: planOf(heldBy) });
      for (const [sells, covers] of [
        ['30', 70],
        ['69', 1],
      ] as const) {
        await w.placed({ side: 'sell', type: 'market', quantity: sells });
        expect(shown(w)).to.equal(`armed: ${covers} armed 40.72/42.22`);
        const legs = [...w.desk.account('MAIN').working.values()].map(({ order }) => order.terms.quantity - order.filledQuantity);
        expect(legs).to.deep.equal(heldBy === 'venue' ? [covers, covers] : []);
      }
      await w.placed({ side: 'sell', type: 'market', quantity: '1' });
      expect(shown(w).split(':')[0]).to.equal('done');
      nothingWorks(w);
    });
  }
});
