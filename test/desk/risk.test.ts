import { expect } from 'chai';
import type { ExitPlanText } from '../../src/core/exits/index.ts';
import { readRules, type RuleName, type RulesText } from '../../src/core/risk/index.ts';
import { BLOCKING_RULES } from '../../src/core/risk/index.ts';
import { previewOrder } from '../../src/desk/preview.ts';
import { presentRisk, type RiskStateAnswer } from '../../src/desk/present/index.ts';
import type { Outcome } from '../../src/desk/outcomes.ts';
import type { Result } from '../../src/core/result.ts';
import { readOrder, type OrderRequest, type Refusal } from '../../src/core/orders/index.ts';
import type { LogRow } from '../../src/desk/store.ts';
import { MemoryDeskStore } from '../support/stores.ts';
import { endWorlds, worldOf } from '../support/scenes.ts';
import { instrument, refusedAs, request, World, type WorldSettings } from '../support/world.ts';

const GANET = 'GANET.HALM';
const BOOK = ['09:00:00.000 GANET.HALM level bid 40.99 100000', '09:00:00.000 GANET.HALM level ask 41.00 100000', '09:00:00.000 GANET.HALM trade buy 41.00 1'];
const falls = (time: string, price: string): string => `${time} GANET.HALM trade sell ${price} 1`;

const open = async (rows: readonly string[], settings?: WorldSettings): Promise<World> => (await worldOf([...BOOK, ...rows], settings)).to('09:00:00.500');
const set = (w: World, text: Partial<RulesText>): Promise<Result<Outcome, Refusal>> => {
  const read = readRules(text);
  if (!read.ok) throw new Error(JSON.stringify(read.refusal));
  return w.ask('MAIN', { kind: 'set-rules', rules: read.value, version: w.desk.account('MAIN').risk.version });
};
const lock = (w: World, until: string, rules: readonly RuleName[] | null = null): Promise<Result<Outcome, Refusal>> =>
  w.ask('MAIN', { kind: 'lock', until: Date.parse(until), rules });
const stateOf = (w: World): RiskStateAnswer => presentRisk(w.desk.account('MAIN'), w.desk.marks(), w.desk.now(), () => null);
const blocked = (w: World): string[] => stateOf(w).blocked.map(({ rule }) => rule);
const buy = (w: World, quantity: string): Promise<string> => w.placed({ type: 'market', quantity });
const tried = async (w: World, given: object = {}): Promise<string> => refusedAs(await w.place({ limitPrice: '40.00', quantity: '1', ...given }));
const held = async (w: World): Promise<string> => (await w.position('MAIN')).quantity;

afterEach(endWorlds);

describe('a day’s loss limit', () => {
  const LIMIT = { dayLossLimit: '300', onDayLoss: 'close-out' } as const;

  it('holds to the cent: one before nothing happens, at it everything is closed', async () => {
    const w = await open([falls('09:00:01.000', '40.75'), falls('09:00:02.000', '40.74')]);
    await set(w, LIMIT);
    await buy(w, '1000');
    const entry = await w.placed({ limitPrice: '40.00', quantity: '10' });
    await w.to('09:00:01.000');
    expect([stateOf(w).netToday, stateOf(w).left, blocked(w)]).to.deep.equal(['-290.00', '10.00', []]);
    await w.to('09:00:02.000');
    expect([blocked(w), stateOf(w).closeOut, await held(w), await w.shown(entry)]).to.deep.equal([['dayLossLimit'], 'done', '0', 'canceled 0/10 close-out']);
    expect(await tried(w)).to.equal('422 dayLossLimit');
  });

  it('blocks and lets positions be where it only blocks; closing works, opening does not', async () => {
    const w = await open([falls('09:00:01.000', '40.74')]);
    await set(w, { dayLossLimit: '300' });
    await buy(w, '1000');
    await w.to('09:00:01.000');
    expect([blocked(w), stateOf(w).closeOut, await held(w)]).to.deep.equal([['dayLossLimit'], null, '1000']);
    expect(refusedAs(await w.ask('MAIN', { kind: 'reverse', instrument: GANET, clientOrderId: null }))).to.equal('422 dayLossLimit');
    expect(refusedAs(await w.closePosition('MAIN', GANET, { percent: '50' }))).to.equal('accepted');
    expect(await tried(w, { side: 'sell', type: 'stop', stopPrice: '40.50', quantity: '500', limitPrice: undefined })).to.equal('accepted');
  });

  it('survives a kill in the middle of its close-out, and closes once', async () => {
    const w = await open([falls('09:00:01.000', '40.74')], { latencyMs: 200 });
    await set(w, LIMIT);
    await buy(w, '1000');
    await w.to('09:00:00.900');
    await w.to('09:00:01.100');
    expect([stateOf(w).closeOut, await held(w)]).to.deep.equal(['running', '1000']);
    const after = await w.kill();
    await after.to('09:00:03.000');
    expect([blocked(after), stateOf(after).closeOut, await held(after), (await after.fills()).filter(({ side }) => side === 'sell').length]).to.deep.equal([
      ['dayLossLimit'],
      'done',
      '0',
      1,
    ]);
    await after.close();
  });

  it('can’t be lifted by a looser rule, nor by none', async () => {
    const w = await open([falls('09:00:01.000', '40.74')]);
    await set(w, LIMIT);
    await buy(w, '1000');
    await w.to('09:00:01.000');
    for (const looser of [{ dayLossLimit: '9000' }, {}]) {
      expect(refusedAs(await set(w, looser))).to.equal('accepted');
      expect(await tried(w)).to.equal('422 dayLossLimit');
    }
  });
});

describe('limits of an order', () => {
  const cases: readonly [rule: string, rules: Partial<RulesText>, passes: object, refused: object][] = [
    ['maxOrderQuantity', { maxOrderQuantity: '100' }, { quantity: '100' }, { quantity: '101' }],
    ['maxOrderValue', { maxOrderValue: '4000' }, { quantity: '100' }, { quantity: '101' }],
    ['maxDistancePercent', { maxDistancePercent: '2' }, { limitPrice: '40.18' }, { limitPrice: '40.17' }],
    ['maxPositionQuantity', { maxPositionQuantity: '100' }, { quantity: '100' }, { quantity: '101' }],
    ['dayQuantityCap', { dayQuantityCap: { share: '100' } }, { quantity: '100' }, { quantity: '101' }],
    ['openRisk', { dayLossLimit: '300', openRisk: 'refuse' }, { exitPlan: planOf('100') }, {}],
  ];
  function planOf(ticks: string): object {
    return { heldBy: 'venue', onSizeChange: 'follow', onMissedLevel: 'fire', steps: [{ share: '100', stop: { by: 'ticks', value: ticks, order: 'market' } }] };
  }
  for (const [rule, rules, passes, refused] of cases)
    it(`${rule} is inclusive`, async () => {
      const w = await open([]);
      await set(w, rules);
      expect(await tried(w, refused)).to.equal(`422 ${rule}`);
      expect(await tried(w, passes)).to.equal('accepted');
    });

  it('name every rule that stops it, the first of them first', async () => {
    const w = await open([]);
    await set(w, { maxOrderQuantity: '1', maxOrderValue: '10', maxDistancePercent: '1' });
    const done = await w.place({ limitPrice: '40.00', quantity: '10' });
    expect(!done.ok && done.refusal.kind === 'risk-blocked' && done.refusal.rules).to.deep.equal(['maxOrderQuantity', 'maxOrderValue', 'maxDistancePercent']);
  });
});

describe('a preview', () => {
  it('tells what an order could lose, what could be lost before it, and what is left', async () => {
    const w = await open([]);
    await set(w, { dayLossLimit: '300' });
    const stopAt = (ticks: string): ExitPlanText => ({
      heldBy: 'venue',
      onSizeChange: 'follow',
      onMissedLevel: 'fire',
      steps: [{ share: '100', stop: { by: 'ticks', value: ticks, order: 'market' } }],
    });
    const told = async (given: Partial<OrderRequest>): Promise<unknown> => {
      const read = readOrder(request({ limitPrice: '40.00', ...given }), instrument(GANET));
      const answer = read.ok ? await previewOrder(w.desk, read.value) : read;
      return answer.ok ? [answer.value.openRisk, answer.value.left] : answer.refusal;
    };
    // 100 × 0.20, and 0.10 % of the 3,980.00 that the stop sells for
    expect(await told({ exitPlan: stopAt('20') })).to.deep.equal([{ order: '23.98', before: '0.00', after: '23.98' }, '300.00']);
    expect(await told({})).to.deep.equal([{ order: null, before: '0.00', after: null }, '300.00']);
    await w.placed({ limitPrice: '40.50', exitPlan: stopAt('50') });
    expect(await told({ exitPlan: stopAt('20') })).to.deep.equal([{ order: '23.98', before: '54.00', after: '77.98' }, '300.00']);
  });

  it('tells of each rule that is set whether it stops the order, and else what is left of it', async () => {
    const w = await open([]);
    await set(w, {
      dayLossLimit: '300',
      instrumentLossLimit: '150',
      coolDownAfterLosses: 3,
      coolDownMinutes: 15,
      noTradeWindows: [{ from: '09:00', to: '09:01' }],
      dayQuantityCap: { share: '1000' },
      maxOrderQuantity: '400',
      maxOrderValue: '50000',
      maxDistancePercent: '5',
      maxOrdersPerMinute: 10,
      maxPositionQuantity: '500',
      openRisk: 'warn',
    });
    await w.to('09:02:00.000');
    await w.placed({ limitPrice: '40.50', quantity: '50' });
    const read = readOrder(request({ limitPrice: '40.00', quantity: '100' }), instrument(GANET));
    const answer = read.ok ? await previewOrder(w.desk, read.value) : read;
    const checks = answer.ok ? answer.value.checks : [];
    const names: readonly string[] = BLOCKING_RULES.filter((rule) => rule !== 'buyingPower');
    expect(checks.filter(({ rule }) => names.includes(rule)).map(({ rule, result, message }) => `${rule} ${result}: ${message}`)).to.deep.equal([
      'dayLossLimit pass: 300.00 left today, of a limit of 300.00',
      'instrumentLossLimit pass: 150.00 left in GANET.HALM, of a limit of 150.00',
      'coolDown pass: 0 of 3 losing round trips in a row',
      'noTradeWindows pass: no no-trade window now',
      'dayQuantityCap pass: 850 of 1000 share units of the day left after it',
      'maxOrderQuantity pass: 100 of at most 400 in one order',
      'maxOrderValue pass: worth 4000.00 of at most 50000.00',
      'maxDistancePercent pass: 2.43 % of at most 5 % from the market',
      'maxOrdersPerMinute pass: 1 of 10 opening orders within the last minute',
      'maxPositionQuantity pass: position of up to 150, at most 500',
      'openRisk warn: It has no stop, so what it could lose is more than the 300.00 that are left of the day.',
    ]);
  });
});

describe('a lock', () => {
  const UNTIL = '2026-03-16T09:00:00.000Z';

  it('lets rules be tightened and itself be lengthened, and nothing else', async () => {
    const w = await open([]);
    await set(w, { dayLossLimit: '300', maxOrderQuantity: '100' });
    expect(refusedAs(await lock(w, UNTIL))).to.equal('accepted');
    expect(refusedAs(await set(w, { dayLossLimit: '301', maxOrderQuantity: '100' }))).to.equal('423 dayLossLimit');
    expect(refusedAs(await set(w, { dayLossLimit: '200', maxOrderQuantity: '101' }))).to.equal('423 maxOrderQuantity');
    expect(refusedAs(await set(w, { dayLossLimit: '250', maxOrderQuantity: '100' }))).to.equal('accepted');
    expect(refusedAs(await lock(w, '2026-03-15T09:00:00.000Z'))).to.equal('423 dayLossLimit');
    expect(refusedAs(await lock(w, '2026-03-17T09:00:00.000Z'))).to.equal('accepted');
    expect(refusedAs(await lock(w, '2026-03-01T09:00:00.000Z'))).to.equal('422 /until');
  });

  it('needs the broker, and answers only once that has it', async () => {
    const w = await open([]);
    await set(w, { dayLossLimit: '300' });
    await w.desk.setLink({ broker: 'down' });
    expect(refusedAs(await lock(w, UNTIL))).to.equal('503');
    expect(refusedAs(await set(w, { dayLossLimit: '200' }))).to.equal('accepted');
    await w.desk.setLink({ broker: 'up' });
    await lock(w, UNTIL);
    expect(w.exchange.broker.status('MAIN').lodged?.locks.dayLossLimit).to.equal(Date.parse(UNTIL));
    await w.desk.setLink({ broker: 'down' });
    expect(refusedAs(await set(w, { dayLossLimit: '150' }))).to.equal('503');
  });

  it('stands where the desk’s own database is gone', async () => {
    const w = await open([]);
    await set(w, { dayLossLimit: '300', openRisk: 'refuse' });
    await lock(w, UNTIL);
    const fresh = await World.open([...BOOK], { desk: new MemoryDeskStore(), venue: w.venueStore });
    expect([stateOf(fresh).lockedUntil, stateOf(fresh).dayLossLimit]).to.deep.equal([UNTIL, '300.00']);
    expect(refusedAs(await set(fresh, {}))).to.match(/^423/);
    await fresh.close();
  });

  it('is over at its very end', async () => {
    const w = await open([]);
    await set(w, { dayLossLimit: '300' });
    await lock(w, '2026-03-02T09:00:05.000Z');
    await w.to('09:00:04.999');
    expect(refusedAs(await set(w, { dayLossLimit: '400' }))).to.equal('423 dayLossLimit');
    await w.to('09:00:05.000');
    expect(refusedAs(await set(w, { dayLossLimit: '400' }))).to.equal('accepted');
  });
});

describe('a record of rule changes that is not what was written', () => {
  it('leaves closing orders only, and says why', async () => {
    const w = await open([]);
    await set(w, { maxOrderQuantity: '100' });
    await buy(w, '50');
    const state = w.desk.account('MAIN');
    state.risk = { ...state.risk, rules: { ...state.risk.rules, maxOrderQuantity: null } };
    await w.desk.close();
    const after = await World.open([...BOOK], { desk: w.deskStore, venue: w.venueStore });
    expect(stateOf(after).broken).to.equal(true);
    const done = await after.place({ limitPrice: '40.00', quantity: '1' });
    expect(!done.ok && done.refusal.kind === 'conflict' && done.refusal.detail).to.contain('only closing orders');
    expect(refusedAs(await after.closePosition('MAIN', GANET))).to.equal('accepted');
    await after.close();
  });

  /** A world begun again after a row of the log was edited. */
  async function edited(is: (row: LogRow) => boolean, as: (row: LogRow) => Partial<LogRow>): Promise<World> {
    const w = await open([]);
    await set(w, { maxOrderQuantity: '100' });
    await buy(w, '50');
    const store = new MemoryDeskStore();
    store.rows = w.deskStore.rows.map((row) => (is(row) ? { ...row, ...as(row) } : row));
    await w.desk.close();
    return World.open([...BOOK], { desk: store, venue: w.venueStore });
  }

  it('and so does an edited entry of the log, of whatever kind', async () => {
    const kinds: readonly (readonly [kind: string, as: (row: LogRow) => Partial<LogRow>])[] = [
      ['risk', (row) => ({ data: row.data.replaceAll('"100"', '"9000"') })],
      ['order-report', () => ({ text: 'nothing happened' })],
      ['order-requested', (row) => ({ hash: row.hash.replace(/^./, (first) => (first === '0' ? '1' : '0')) })],
    ];
    for (const [kind, as] of kinds) {
      const w = await edited((row) => row.kind === kind && row.account === 'MAIN', as);
      expect([kind, stateOf(w).broken]).to.deep.equal([kind, true]);
      expect((await w.place({ limitPrice: '40.00', quantity: '1' })).ok, kind).to.equal(false);
      expect(refusedAs(await w.closePosition('MAIN', GANET)), kind).to.equal('accepted');
      await w.close();
    }
  });

  it('the other accounts go on, and an entry that can’t be read any more ends the start in words', async () => {
    const w = await edited(
      ({ kind, account }) => kind === 'order-report' && account === 'MAIN',
      () => ({ text: 'nothing happened' }),
    );
    expect(w.desk.account('EVAL').risk.broken).to.equal(false);
    await w.close();
    const found = await edited(
      ({ kind }) => kind === 'order-report',
      () => ({ data: '{"kind":"order-report"' }),
    ).then(
      () => 'started',
      (error: Error) => error.message,
    );
    expect(found).to.contain('is not what was written, and can’t be read any more'.replace('’', "'"));
  });
});
