import { expect } from 'chai';
import { asPrice } from '../../src/core/instrument/index.ts';
import { readExitPlan, type ExitPlanText, type RunningPlan } from '../../src/core/exits/index.ts';
import { presentPlan } from '../../src/desk/present/index.ts';
import type { Outcome } from '../../src/desk/outcomes.ts';
import type { Result } from '../../src/core/result.ts';
import { readOrder, type OrderRequest, type Refusal } from '../../src/core/orders/index.ts';
import { endWorlds, worldOf } from '../support/scenes.ts';
import { instrument, orderIn, refusedAs, request, type World, type WorldSettings } from '../support/world.ts';

const GANET = 'GANET.HALM';
const QUAY = 'GANET.QUAY';

type StepText = ExitPlanText['steps'][number];
const stop = (value: string, more: object = {}): NonNullable<StepText['stop']> => ({ by: 'ticks', value, order: 'market', ...more });
const target = (value: string, more: object = {}): NonNullable<StepText['stop']> => ({ by: 'ticks', value, order: 'limit', ...more });
const plan = (steps: StepText[], more: Partial<ExitPlanText> = {}): ExitPlanText => ({
  name: 'a plan',
  heldBy: 'venue',
  onSizeChange: 'follow',
  onMissedLevel: 'fire',
  steps,
  ...more,
});
const ONE = plan([{ share: '100', stop: stop('10'), target: target('20') }]);
const HERE: ExitPlanText = { ...ONE, heldBy: 'here' };

/** A deep market of an instrument: 41.20 bid, 41.22 offered, last at 41.21. */
const deep = (id: string): string[] => [
  `09:00:00.000 ${id} level bid 41.20 10000`,
  `09:00:00.000 ${id} level ask 41.22 10000`,
  `09:00:00.000 ${id} trade buy 41.21 1`,
];
const falls = (id: string, time: string, bid: string, price: string): string[] => [
  `${time} ${id} level bid ${bid} 10000`,
  `${time} ${id} level bid 41.20 0`,
  `${time} ${id} trade sell ${price} 5`,
];

const open = async (rows: readonly string[], settings?: WorldSettings): Promise<World> =>
  (await worldOf([...deep(GANET), ...deep(QUAY), ...rows], settings)).to('09:00:00.500');

const plans = (w: World, id = GANET): RunningPlan[] => [...w.desk.account('MAIN').plans.values()].filter((one) => one.instrument === id);
const shown = (w: World, one: RunningPlan | undefined): string => {
  const now = one && w.desk.account('MAIN').plans.get(one.id);
  if (!now) return 'gone';
  const { state, steps } = presentPlan(w.desk.account('MAIN'), now, instrument(now.instrument), () => null);
  return `${state}: ${steps.map((step) => `${step.quantity} ${step.state} ${step.stop?.price ?? '–'}/${step.target?.price ?? '–'}`).join(', ')}`;
};
const sold = async (w: World, id = GANET): Promise<string> =>
  (await w.fills()).flatMap((fill) => (fill.side === 'sell' && fill.instrument === id ? [`${fill.quantity}@${(fill.price / 100).toFixed(2)}`] : [])).join(' ');
const buy = (w: World, quantity: string, exitPlan?: ExitPlanText, id = GANET): Promise<string> =>
  w.placed({ instrument: id, type: 'market', quantity, ...(exitPlan ? { exitPlan } : {}) });
const read = (text: ExitPlanText) => {
  const found = readExitPlan(text);
  if (!found.ok) throw new Error(JSON.stringify(found.refusal));
  return found.value;
};
const putPlan = (w: World, text: ExitPlanText, id = GANET): Promise<Result<Outcome, Refusal>> =>
  w.ask('MAIN', { kind: 'put-plan', instrument: id, plan: read(text) });
const group = (w: World, orders: Partial<OrderRequest>[], onPartialFill: 'reduce' | 'cancel' | null = null): Promise<Result<Outcome, Refusal>> =>
  w.ask('MAIN', {
    kind: 'place-group',
    onPartialFill,
    orders: orders.map((one) => {
      const asked = readOrder(request(one), instrument(one.instrument ?? GANET));
      if (!asked.ok) throw new Error(JSON.stringify(asked.refusal));
      return asked.value;
    }),
  });
const membersOf = (done: Result<Outcome, Refusal>): string[] => {
  if (!done.ok || done.value.kind !== 'group') throw new Error(refusedAs(done));
  return done.value.orders.map(({ id }) => id);
};

afterEach(endWorlds);

describe('an exit plan at the venue', () => {
  it('is armed by the fills of its entry, grows with them, and keeps what the trader moved', async () => {
    const w = await open(['09:00:02.000 GANET.HALM level ask 41.20 100']);
    const entry = await w.placed({ limitPrice: '41.20', quantity: '200', exitPlan: ONE });
    const [waiting] = plans(w);
    expect(shown(w, waiting)).to.equal('waiting: 0 waiting –/–');
    await w.to('09:00:02.000');
    expect(shown(w, waiting)).to.equal('armed: 100 armed 41.10/41.40');
    const leg = w.desk.account('MAIN').plans.get(waiting?.id ?? '')?.steps[0]?.stop?.orderId ?? '';
    expect(refusedAs(await w.replace(leg, { stopPrice: '41.05' }))).to.equal('accepted');
    expect(refusedAs(await w.replace(leg, { quantity: '50' }))).to.equal('409');
    expect(shown(w, waiting)).to.equal('armed: 100 armed 41.05/41.40');
    await w.replace(entry, { limitPrice: '41.22' });
    // 100 at 41.20 and 100 at 41.22: 41.21, so 41.41; the stop stays where it was put.
    expect(shown(w, waiting)).to.equal('armed: 200 armed 41.05/41.41');
    expect(await w.shown(leg)).to.equal('new 0/200');
  });

  it('goes on with the other leg where one is taken back, and stops with all of them cancelled', async () => {
    const w = await open([]);
    await buy(w, '100', ONE);
    const [one] = plans(w);
    const legs = w.desk.account('MAIN').plans.get(one?.id ?? '')?.steps[0];
    await w.cancel(legs?.target?.orderId ?? '');
    expect(shown(w, one)).to.equal('armed: 100 armed 41.12/41.42');
    expect((await w.position('MAIN')).unitsWithoutStop).to.equal('0');
    await w.ask('MAIN', { kind: 'cancel-many', instrument: GANET, side: null });
    expect(shown(w, one)).to.match(/^stopped/);
    expect((await w.position('MAIN')).unitsWithoutStop).to.equal('100');
  });

  it('is shared out anew, or cut and never grown, as the position changes', async () => {
    const thirds = ['50', '30', '20'].map((share) => ({ share, stop: stop('50') }));
    const w = await open([]);
    await buy(w, '100', plan(thirds));
    await buy(w, '100', plan(thirds, { onSizeChange: 'keep' }), QUAY).catch(() => undefined);
    const [follow] = plans(w);
    await w.closePosition('MAIN', GANET, { quantity: '33' });
    expect(shown(w, follow)).to.contain('33 armed').and.contain('20 armed').and.contain('14 armed');
    await buy(w, '33');
    expect(shown(w, follow)).to.contain('50 armed').and.contain('30 armed').and.contain('20 armed');
  });

  it('covers no more than is held where a leg fills whole before its cut arrives', async () => {
    for (const onSizeChange of ['follow', 'keep'] as const) {
      const w = await open(['09:00:02.030 GANET.HALM level bid 41.40 500'], { latencyMs: 40 });
      const steps = [
        { share: '60', stop: stop('10'), target: target('5') },
        { share: '40', stop: stop('20') },
      ];
      await buy(w, '30', plan(steps, { onSizeChange }));
      await w.to('09:00:01.985');
      expect(shown(w, plans(w)[0])).to.equal('armed: 18 armed 41.12/41.27, 12 armed 41.02/–');
      // It sells one at 2.025; the cut of the target would come 40 ms later, and the price comes between.
      await w.place({ side: 'sell', type: 'market', quantity: '1' });
      await w.to('09:00:03.000');
      expect((await w.position('MAIN')).quantity).to.equal('11');
      const open_ = plans(w)[0]?.steps.reduce((sum, step) => sum + step.open, 0);
      expect(open_, onSizeChange).to.equal(11);
    }
  });

  it('closes all of a step whose entry grew in the moment its stop was reached, with one order', async () => {
    const w = await worldOf([
      '09:00:00.000 GANET.HALM level bid 41.18 500',
      '09:00:00.000 GANET.HALM level ask 41.20 20',
      '09:00:00.000 GANET.HALM trade buy 41.19 1',
      '09:00:02.000 GANET.HALM level bid 41.12 500',
      '09:00:02.000 GANET.HALM level bid 41.18 0',
      // The second fill lifts the average, and with it the stop, over the bid.
      '09:00:03.000 GANET.HALM level ask 41.40 100',
    ]);
    await w.to('09:00:01.000');
    const steps = [
      { share: '60', stop: stop('10'), target: target('40') },
      { share: '40', stop: stop('30') },
    ];
    await w.placed({ limitPrice: '41.40', quantity: '24', exitPlan: plan(steps) });
    expect(shown(w, plans(w)[0])).to.equal('armed: 12 armed 41.10/41.60, 8 armed 40.90/–');
    await w.to('09:00:04.000');
    expect(await sold(w)).to.equal('14@41.12');
    expect((await w.orders()).length, 'the entry and a leg each').to.equal(4);
  });

  it('joins the plan that runs where a second entry fills', async () => {
    const w = await open([]);
    await buy(w, '100', ONE);
    await buy(w, '50', ONE);
    const [first, second] = plans(w);
    expect([shown(w, first), shown(w, second)]).to.deep.equal(['armed: 150 armed 41.12/41.42', 'stopped: 0 canceled –/–']);
  });

  it('protects what its entry goes on to buy after its first part was closed', async () => {
    const w = await open([
      `09:00:02.000 ${GANET} trade sell 41.10 60`,
      `09:00:03.000 ${GANET} trade buy 41.31 60`,
      `09:00:04.000 ${GANET} trade sell 41.10 40`,
      `09:00:05.000 ${GANET} trade sell 41.00 5`,
    ]);
    await w.placed({ instrument: GANET, limitPrice: '41.10', quantity: '100', exitPlan: ONE });
    await w.to('09:00:02.500');
    const [one] = plans(w);
    expect(shown(w, one)).to.equal('armed: 60 armed 41.00/41.30');
    await w.to('09:00:03.500');
    expect([await sold(w), shown(w, one)]).to.deep.equal(['60@41.30', 'waiting: 0 waiting 41.00/41.30']);
    await w.to('09:00:04.500');
    expect(shown(w, one)).to.equal('armed: 40 armed 41.00/41.30');
    await w.to('09:00:06.000');
    expect(await sold(w)).to.equal('60@41.30 40@41.20');
  });

  it('that is refused by its venue or its account says where', async () => {
    const w = await open([]);
    expect(refusedAs(await w.place({ instrument: QUAY, exitPlan: ONE }))).to.equal('422 /exitPlan/heldBy');
    await buy(w, '100');
    expect(refusedAs(await w.place({ side: 'sell', quantity: '50', limitPrice: '41.50', exitPlan: ONE }))).to.equal('422 /exitPlan');
    expect(refusedAs(await putPlan(w, plan([{ share: '100', stop: { by: 'price', value: '41.205', order: 'market' } }])))).to.equal(
      '422 /plan/steps/0/stop/value',
    );
    expect(refusedAs(await putPlan(w, plan([{ share: '100', stop: { by: 'price', value: '41.30', order: 'market' } }])))).to.equal(
      '422 /plan/steps/0/stop/value',
    );
    expect(refusedAs(await putPlan(w, ONE, QUAY))).to.equal('409');
    expect(refusedAs(await putPlan(w, ONE))).to.equal('accepted');
    expect(refusedAs(await putPlan(w, ONE))).to.equal('409');
  });
});

describe('exits held here and at the venue', () => {
  it('are never mixed, and say what to stop first', async () => {
    const w = await open([]);
    await buy(w, '100', ONE);
    const mixed = await w.place({ side: 'sell', type: 'stop', stopPrice: '41.00', quantity: '100', heldBy: 'here' });
    expect(refusedAs(mixed)).to.equal('409');
    expect(!mixed.ok && mixed.refusal.kind === 'conflict' && mixed.refusal.detail)
      .to.contain('a plan')
      .and.contain('Stop it first');
    await w.ask('MAIN', { kind: 'stop-plan', planId: plans(w)[0]?.id ?? '' });
    expect(refusedAs(await putPlan(w, HERE))).to.equal('accepted');
    expect(refusedAs(await w.place({ side: 'sell', type: 'stop', stopPrice: '41.00', quantity: '100' }))).to.equal('409');
    // A target at the venue goes with anything.
    expect(refusedAs(await w.place({ side: 'sell', limitPrice: '41.90', quantity: '100' }))).to.equal('accepted');
  });

  it('need the trader’s consent', async () => {
    const w = await open([], { consent: false });
    for (const given of [{ exitPlan: HERE }, { type: 'stop', stopPrice: '41.50', heldBy: 'here' }] as Partial<OrderRequest>[]) {
      const done = await w.place({ ...given, ...(given.type ? {} : { limitPrice: '41.00' }) });
      expect(!done.ok && done.refusal.kind === 'conflict' && done.refusal.needs).to.equal('held-here');
    }
  });
});

describe('an exit plan held here', () => {
  const halted = [
    '09:00:01.000 GANET.HALM state halted',
    ...falls(GANET, '09:00:02.000', '41.00', '41.05'),
    '09:00:03.000 GANET.HALM state open',
    '09:00:04.000 GANET.HALM trade sell 41.04 1',
    '09:00:05.000 GANET.HALM trade sell 41.30 1',
    '09:00:06.000 GANET.HALM trade sell 41.06 1',
  ];

  it('fires a level passed in a halt once the market is open', async () => {
    const w = await open(halted);
    await buy(w, '100', HERE);
    await w.to('09:00:02.500');
    expect(await sold(w)).to.equal('');
    await w.to('09:00:03.000');
    expect(await sold(w)).to.equal('100@41.00');
  });

  it('asks instead where it is to ask: resumed it waits until the level is passed anew', async () => {
    const w = await open(halted);
    await buy(w, '100', { ...HERE, onMissedLevel: 'ask' });
    await w.to('09:00:04.000');
    const [one] = plans(w);
    expect([shown(w, one), await sold(w)]).to.deep.equal(['asking: 100 armed 41.12/41.42', '']);
    await w.ask('MAIN', { kind: 'answer-plan', planId: one?.id ?? '', act: 'resume' });
    await w.to('09:00:05.500');
    expect([shown(w, one), await sold(w)]).to.deep.equal(['armed: 100 armed 41.12/41.42', '']);
    await w.to('09:00:06.000');
    expect(await sold(w)).to.equal('100@41.00');
  });

  it('fires at once where the answer is to fire', async () => {
    const w = await open(halted);
    await buy(w, '100', { ...HERE, onMissedLevel: 'ask' });
    await w.to('09:00:04.000');
    await w.ask('MAIN', { kind: 'answer-plan', planId: plans(w)[0]?.id ?? '', act: 'fire' });
    expect(await sold(w)).to.equal('100@41.00');
    expect(refusedAs(await w.ask('MAIN', { kind: 'answer-plan', planId: plans(w)[0]?.id ?? '', act: 'fire' }))).to.equal('409');
  });

  const moveLeg = (w: World, leg: 'stop' | 'target', price: string, step = 0): Promise<Result<Outcome, Refusal>> =>
    w.ask('MAIN', { kind: 'move-leg', planId: plans(w)[0]?.id ?? '', step, leg, price: asPrice(Number(price.replace('.', ''))) });

  it('moves where the trader puts its legs, and fires there and not where they were', async () => {
    const w = await open([...falls(GANET, '09:00:01.000', '41.05', '41.10'), '09:00:02.000 GANET.HALM trade sell 41.04 1']);
    await buy(w, '100', HERE);
    expect(refusedAs(await moveLeg(w, 'stop', '41.05'))).to.equal('accepted');
    expect(refusedAs(await moveLeg(w, 'target', '41.60'))).to.equal('accepted');
    const [one] = plans(w);
    expect(shown(w, one)).to.equal('armed: 100 armed 41.05/41.60');
    await w.to('09:00:01.500');
    expect(await sold(w)).to.equal('');
    await w.to('09:00:02.000');
    expect(await sold(w)).to.equal('100@41.05');
    expect(refusedAs(await moveLeg(w, 'stop', '41.00'))).to.equal('409');
  });

  it('keeps a leg that was moved where it is over a kill, and as its entry goes on', async () => {
    let w = await open(['09:00:01.000 GANET.HALM level ask 41.20 50', '09:00:02.000 GANET.HALM level ask 41.20 50']);
    await w.placed({ limitPrice: '41.20', quantity: '100', exitPlan: HERE });
    await w.to('09:00:01.000');
    await moveLeg(w, 'stop', '41.01');
    w = await w.kill();
    expect(shown(w, plans(w)[0])).to.equal('armed: 50 armed 41.01/41.40');
    await w.to('09:00:02.000');
    expect(shown(w, plans(w)[0])).to.equal('armed: 100 armed 41.01/41.40');
  });

  it('says where a leg can’t go', async () => {
    const w = await open([]);
    await buy(w, '100', HERE);
    const tries = [await moveLeg(w, 'stop', '41.21'), await moveLeg(w, 'target', '41.20'), await moveLeg(w, 'stop', '41.00', 1)];
    expect(
      tries.map((done) => (done.ok || done.refusal.kind !== 'validation' ? '' : done.refusal.errors.map(({ path, message }) => `${path} ${message}`).join())),
    ).to.deep.equal([
      '/price a sell stop at 41.21 must be below the bid, 41.20; a limit order is legal at that price',
      '/price the market is at 41.20 already; a target lies beyond it',
      '/step the plan has 1 steps; accepted: 0 to 0',
    ]);
  });

  it('at the venue is an order: its leg is moved by changing that', async () => {
    const w = await open([]);
    await buy(w, '100', ONE);
    const done = await moveLeg(w, 'stop', '41.00');
    const { orderId } = plans(w)[0]?.steps[0]?.stop ?? {};
    expect(done.ok || done.refusal.kind !== 'conflict' ? '' : done.refusal.detail).to.equal(`Its stop is the order ${orderId}. Change that.`);
  });

  it('lets a target trail from where it was touched', async () => {
    const prices = ['41.42', '41.50', '41.46', '41.44'];
    const rows = prices.map((price, i) => `09:00:0${i + 1}.000 GANET.HALM trade sell ${price} 1`);
    const w = await open(rows);
    await buy(w, '100', plan([{ share: '100', target: target('20', { trail: { unit: 'ticks', value: '5' } }) }], { heldBy: 'here' }));
    const [one] = plans(w);
    await w.to('09:00:02.000');
    expect(shown(w, one)).to.equal('armed: 100 armed –/41.45');
    await w.to('09:00:03.000');
    expect(await sold(w)).to.equal('');
    await w.to('09:00:04.000');
    expect(await sold(w)).to.equal('100@41.20');
  });

  it('is one chain in the activity: what triggered, the order, its fill', async () => {
    const w = await open(falls(GANET, '09:00:01.000', '41.00', '41.05'));
    await buy(w, '100', HERE);
    await w.to('09:00:01.000');
    const rows = w.deskStore.rows;
    const order = rows.find((row) => row.kind === 'order-requested' && row.by === 'plan');
    const fill = rows.find((row) => row.kind === 'order-report' && row.orderId === order?.orderId && row.data.includes('"trade"'));
    expect(fill?.causedBy).to.equal(order?.seq);
  });
});

describe('an order held here', () => {
  it('waits without the venue knowing, triggers on a trade, and ends with its day or its time', async () => {
    const w = await open([...falls(QUAY, '09:00:02.000', '41.00', '41.05'), `09:00:03.000 ${QUAY} state closed`]);
    await buy(w, '100', undefined, QUAY);
    const stops = await w.placed({ instrument: QUAY, side: 'sell', type: 'stop', stopPrice: '41.10', quantity: '100', heldBy: 'here' });
    const day = await w.placed({ instrument: QUAY, type: 'stop', stopPrice: '42.00', quantity: '10', heldBy: 'here' });
    const timed = await w.placed({
      instrument: QUAY,
      type: 'stop',
      stopPrice: '42.00',
      quantity: '10',
      heldBy: 'here',
      timeInForce: 'gtd',
      expiresAt: '2026-03-02T09:00:02.500Z',
    });
    expect([await w.shown(stops), w.exchange.broker.orders.all.has(stops)]).to.deep.equal(['new 0/100', false]);
    expect(refusedAs(await w.replace(stops, { stopPrice: '41.08' }))).to.equal('accepted');
    await w.to('09:00:02.000');
    expect([await w.shown(stops), await sold(w, QUAY)]).to.deep.equal(['filled 100/100', '100@41.00']);
    await w.to('09:00:03.000');
    expect([await w.shown(timed), await w.shown(day)]).to.deep.equal(['expired 0/10 gtd', 'expired 0/10 day-end']);
  });

  it('is suspended while the prices are cut off; passed meanwhile it closes, or comes too late to open', async () => {
    const w = await open(falls(QUAY, '09:00:02.000', '41.00', '41.05'));
    await buy(w, '100', undefined, QUAY);
    const closes = await w.placed({ instrument: QUAY, side: 'sell', type: 'stop', stopPrice: '41.10', quantity: '100', heldBy: 'here' });
    const opens = await w.placed({ instrument: QUAY, side: 'sell', type: 'stop', stopPrice: '41.10', quantity: '10', heldBy: 'here', reduceOnly: false });
    await w.desk.setLink({ data: 'down' });
    expect([await w.shown(closes), await w.shown(opens)]).to.deep.equal(['suspended 0/100', 'suspended 0/10']);
    await w.to('09:00:03.000');
    await w.desk.setLink({ data: 'up' });
    expect([await w.shown(closes), await w.shown(opens)]).to.deep.equal(['filled 100/100', 'rejected 0/10 late']);
  });

  it('is cancelled without the broker’s link, and by Flatten', async () => {
    const w = await open([]);
    const place = (): Promise<string> => w.placed({ instrument: QUAY, type: 'stop', stopPrice: '42.00', quantity: '10', heldBy: 'here' });
    const [first, second] = [await place(), await place()];
    await w.desk.setLink({ broker: 'down' });
    expect(refusedAs(await w.cancel(first))).to.equal('accepted');
    await w.desk.setLink({ broker: 'up' });
    await w.flatten('MAIN');
    expect([await w.shown(first), await w.shown(second)]).to.deep.equal(['canceled 0/10 user', 'canceled 0/10 flatten']);
  });
});

describe('a group of orders', () => {
  const TWO: Partial<OrderRequest>[] = [
    { side: 'buy', limitPrice: '41.10', quantity: '100' },
    { side: 'buy', limitPrice: '41.00', quantity: '100' },
  ];

  it('goes at once or not at all', async () => {
    const w = await open([]);
    const bad = await group(w, [TWO[0] ?? {}, { side: 'sell', type: 'stop', stopPrice: '41.30', quantity: '100', reduceOnly: false }]);
    expect([refusedAs(bad), (await w.orders()).length]).to.deep.equal(['422 /orders/1/stopPrice', 0]);
    expect(refusedAs(await group(w, [TWO[0] ?? {}, { ...TWO[1], quantity: '50' }]))).to.equal('422 /orders/1/quantity');
    const ids = membersOf(await group(w, TWO));
    expect(await Promise.all(ids.map((id) => w.shown(id)))).to.deep.equal(['new 0/100', 'new 0/100']);
  });

  it('counts each of its orders against the buying power', async () => {
    const w = await open([]);
    const large = TWO.map((one) => ({ ...one, quantity: '3000' }));
    expect(refusedAs(await group(w, large))).to.equal('422 buyingPower');
    expect(
      refusedAs(
        await group(
          w,
          large.map((one) => ({ ...one, quantity: '2000' })),
        ),
      ),
    ).to.equal('accepted');
  });

  it('is made of working orders, and changes their quantity together', async () => {
    const w = await open(['09:00:02.000 GANET.HALM level ask 41.10 40']);
    const [a = '', b = ''] = [await w.placed(TWO[0]), await w.placed(TWO[1])];
    const ids = membersOf(await w.ask('MAIN', { kind: 'link-orders', orderIds: [a, b], onPartialFill: null }));
    expect(ids).to.deep.equal([a, b]);
    expect(refusedAs(await w.ask('MAIN', { kind: 'link-orders', orderIds: [a, b], onPartialFill: null }))).to.equal('409');
    await w.replace(a, { quantity: '80' });
    expect([await w.shown(a), await w.shown(b)]).to.deep.equal(['new 0/80', 'new 0/80 oco']);
    await w.to('09:00:02.000');
    expect([await w.shown(a), await w.shown(b)]).to.deep.equal(['partially-filled 40/80', 'new 0/40 oco']);
    await w.cancel(a);
    expect(await w.shown(b)).to.equal('new 0/40 oco');
  });

  it('is not made where a fill comes first', async () => {
    const w = await open(['09:00:01.020 GANET.HALM trade sell 41.09 1'], { latencyMs: 40 });
    const [a = '', b = ''] = [await w.placed(TWO[0]), await w.placed(TWO[1])];
    await w.to('09:00:01.000');
    await w.ask('MAIN', { kind: 'link-orders', orderIds: [a, b], onPartialFill: null });
    await w.to('09:00:01.200');
    expect([await w.shown(a), (await w.find(b)).group]).to.deep.equal(['filled 100/100', null]);
    expect(w.desk.account('MAIN').links.size).to.equal(0);
  });
});

describe('a group of orders that is held here', () => {
  const holding = async (rows: readonly string[], settings = {}): Promise<World> => {
    const w = await open(rows, settings);
    await w.placed({ instrument: QUAY, type: 'market', quantity: '100' });
    return w;
  };
  const EXITS: Partial<OrderRequest>[] = [
    { instrument: QUAY, side: 'sell', type: 'stop', stopPrice: '40.95', quantity: '100', heldBy: 'here' },
    { instrument: QUAY, side: 'sell', limitPrice: '41.60', quantity: '100', heldBy: 'here' },
  ];

  it('is held in one place, all of it or none', async () => {
    const w = await holding([]);
    const mixed = await group(w, [EXITS[0] ?? {}, { ...EXITS[1], heldBy: 'venue' }]);
    expect(refusedAs(mixed)).to.equal('422 /orders/1/heldBy');
    const ids = membersOf(await group(w, EXITS));
    expect(await Promise.all(ids.map((id) => w.shown(id)))).to.deep.equal(['new 0/100', 'new 0/100']);
    expect((await w.find(ids[0] ?? '')).group).to.not.equal(null);
    expect((await w.find(ids[0] ?? '')).group?.id).to.equal((await w.find(ids[1] ?? '')).group?.id);
  });

  it('lets one that triggers and fills end the others, in the commit of the fill', async () => {
    const w = await holding(['09:00:02.000 GANET.QUAY trade sell 40.95 10']);
    const [stop = '', limit = ''] = membersOf(await group(w, EXITS));
    await w.to('09:00:02.000');
    expect([await w.shown(stop), await w.shown(limit)]).to.deep.equal(['filled 100/100', 'canceled 0/100 oco']);
    expect((await w.position('MAIN', QUAY)).quantity).to.equal('0');
    const filled = w.deskStore.rows.filter(({ orderId, kind }) => orderId === stop && kind === 'order-report').at(-1);
    const ended = w.deskStore.rows.find(({ orderId, text }) => orderId === limit && text.includes('cancelled'));
    expect((ended?.seq ?? 0) - (filled?.seq ?? 0)).to.equal(1);
  });

  it('lowers the others by what is filled, and by what the position loses', async () => {
    const w = await holding(['09:00:02.000 GANET.QUAY level bid 41.60 30', '09:00:03.000 GANET.QUAY trade sell 40.95 10']);
    const [stop = '', limit = ''] = membersOf(await group(w, EXITS));
    await w.to('09:00:02.000');
    expect([await w.shown(limit), await w.shown(stop)]).to.deep.equal(['partially-filled 30/100', 'new 0/70 oco']);
    await w.to('09:00:03.000');
    expect((await w.position('MAIN', QUAY)).quantity).to.equal('0');
    expect((await w.fills()).filter(({ side }) => side === 'sell').reduce((sum, { quantity }) => sum + Number(quantity), 0)).to.equal(100);
  });

  it('that two of fire at once takes no more than one of them was for', async () => {
    const w = await open(['09:00:02.000 GANET.QUAY trade buy 41.90 10']);
    const ups = ['41.70', '41.80'].map((stopPrice) => ({ instrument: QUAY, side: 'buy', type: 'stop', stopPrice, quantity: '100', heldBy: 'here' }) as const);
    const ids = membersOf(await group(w, ups));
    await w.to('09:00:02.000');
    expect(await Promise.all(ids.map((id) => w.shown(id)))).to.deep.equal(['filled 100/100', 'canceled 0/100 oco']);
    expect((await w.position('MAIN', QUAY)).quantity).to.equal('100');
  });

  it('is made of orders that wait here, and changes their quantity together; a cancel leaves the others', async () => {
    const w = await holding([]);
    const [a = '', b = ''] = [await w.placed(EXITS[0]), await w.placed(EXITS[1])];
    const atVenue = await w.placed({ instrument: QUAY, side: 'sell', limitPrice: '42.00', quantity: '100' });
    expect(refusedAs(await w.ask('MAIN', { kind: 'link-orders', orderIds: [a, atVenue], onPartialFill: null }))).to.equal('422 /orderIds/1');
    expect(membersOf(await w.ask('MAIN', { kind: 'link-orders', orderIds: [a, b], onPartialFill: null }))).to.deep.equal([a, b]);
    await w.replace(a, { quantity: '80' });
    expect([await w.shown(a), await w.shown(b)]).to.deep.equal(['new 0/80', 'new 0/80 oco']);
    await w.cancel(a);
    expect(await w.shown(b)).to.equal('new 0/80 oco');
  });

  it('is the same after a kill between the trigger and the fill', async () => {
    const w = await holding(['09:00:02.000 GANET.QUAY trade sell 40.95 10'], { latencyMs: 40 });
    await w.to('09:00:01.000');
    const [stop = '', limit = ''] = membersOf(await group(w, EXITS));
    await w.to('09:00:02.010');
    const after = await w.kill();
    await after.to('09:00:03.000');
    expect([await after.shown(stop), await after.shown(limit)]).to.deep.equal(['filled 100/100', 'canceled 0/100 oco']);
    await after.close();
  });

  it('waits here no longer than there is something to reduce', async () => {
    const w = await holding([]);
    const stop = await w.placed(EXITS[0]);
    await w.closePosition('MAIN', QUAY, { quantity: '40' });
    expect(await w.shown(stop)).to.equal('new 0/60 reduced');
    await w.closePosition('MAIN', QUAY);
    expect(await w.shown(stop)).to.equal('canceled 0/60 flat');
  });
});

describe('reverse', () => {
  it('turns a position round in one order, after its exits are gone', async () => {
    const w = await open([]);
    await buy(w, '100', ONE);
    const order = orderIn(await w.ask('MAIN', { kind: 'reverse', instrument: GANET, clientOrderId: null }));
    expect([order.opening, (await w.position('MAIN')).quantity, shown(w, plans(w)[0]).split(':')[0]]).to.deep.equal([true, '-100', 'stopped']);
    expect([...w.desk.account('MAIN').working.keys()]).to.deep.equal([]);
  });

  it('that is refused cancels nothing', async () => {
    const w = await open([]);
    await buy(w, '4000');
    const resting = await w.placed({ side: 'sell', limitPrice: '41.90', quantity: '4000' });
    expect(refusedAs(await w.ask('MAIN', { kind: 'reverse', instrument: GANET, clientOrderId: null }))).to.equal('422 buyingPower');
    expect(await w.shown(resting)).to.equal('new 0/4000');
    expect(refusedAs(await w.ask('MAIN', { kind: 'reverse', instrument: QUAY, clientOrderId: null }))).to.equal('409');
  });
});

describe('what a position risked first', () => {
  const firstRisk = async (w: World): Promise<string | null> => (await w.position('MAIN')).firstRisk;

  it('is told once a stop works for it, and stays when that moves and over a kill', async () => {
    const w = await open([]);
    await buy(w, '200');
    expect(await firstRisk(w)).to.equal(null);
    const id = await w.placed({ side: 'sell', type: 'stop', stopPrice: '41.00', quantity: '100' });
    expect(await firstRisk(w)).to.equal('44.00');
    await w.replace(id, { stopPrice: '41.10' });
    expect(await firstRisk(w)).to.equal('44.00');
    const again = await w.kill();
    expect(await firstRisk(again)).to.equal('44.00');
  });

  it('counts a stop that a plan holds here', async () => {
    const w = await open([]);
    await buy(w, '200', HERE);
    expect(await firstRisk(w)).to.equal('20.00');
  });

  it('ends with the position, and is another one through zero', async () => {
    const w = await open([]);
    await buy(w, '200', ONE);
    expect(await firstRisk(w)).to.equal('20.00');
    await w.placed({ side: 'sell', type: 'market', quantity: '300', crossesZero: true });
    expect(await firstRisk(w)).to.equal(null);
    await w.placed({ side: 'buy', type: 'stop', stopPrice: '41.30', quantity: '100' });
    expect(await firstRisk(w)).to.equal('10.00');
  });
});
