import { expect } from 'chai';
import { readExitPlan, type ExitPlanText, type RunningPlan } from '../../src/core/exits/index.ts';
import type { OrderRequest } from '../../src/core/orders/index.ts';
import { presentPlan } from '../../src/desk/present/index.ts';
import { endWorlds, worldOf } from '../support/scenes.ts';
import { idOf, instrument, refusedAs, type World } from '../support/world.ts';

const GANET = 'GANET.HALM';
const KELPA = 'KELPA.HALM';

type StepText = ExitPlanText['steps'][number];
type LegText = NonNullable<StepText['stop']>;
type By = LegText['by'];
const stop = (value: string, by: By = 'ticks', more: Partial<LegText> = {}): LegText => ({ by, value, order: 'market', ...more });
const target = (value: string, by: By = 'ticks', more: Partial<LegText> = {}): LegText => ({ by, value, order: 'limit', ...more });
const plan = (steps: readonly StepText[], heldBy: ExitPlanText['heldBy'] = 'venue', more: Partial<ExitPlanText> = {}): ExitPlanText => ({
  heldBy,
  onSizeChange: 'follow',
  onMissedLevel: 'fire',
  steps,
  ...more,
});
const HELD = ['venue', 'here'] as const;

/** GANET at 41.20 to 41.22 and KELPA at 10.01 to 10.02, where its ticks change from 0.005 to 0.01 at 10. */
const MARKET = [
  `09:00:00.000 ${GANET} level bid 41.20 10000`,
  `09:00:00.000 ${GANET} level ask 41.22 10000`,
  `09:00:00.000 ${GANET} trade buy 41.21 1`,
  `09:00:00.000 ${KELPA} level bid 10.01 10000`,
  `09:00:00.000 ${KELPA} level ask 10.02 10000`,
  `09:00:00.000 ${KELPA} trade buy 10.02 1`,
];
const open = async (rows: readonly string[] = []): Promise<World> => (await worldOf([...MARKET, ...rows])).to('09:00:00.500');
const enter = (w: World, side: 'buy' | 'sell', quantity: string, exitPlan: ExitPlanText, id = GANET): Promise<string> =>
  w.placed({ instrument: id, side, type: 'market', quantity, exitPlan });

const running = (w: World): RunningPlan[] => [...w.desk.account('MAIN').plans.values()];
/** A plan in a line: its state, then of each step quantity, state, stop and target. */
function shown(w: World, one: RunningPlan | undefined = running(w)[0]): string {
  const now = one && w.desk.account('MAIN').plans.get(one.id);
  if (!now) return 'gone';
  const { state, steps } = presentPlan(w.desk.account('MAIN'), now, instrument(now.instrument), () => null);
  return `${state}: ${steps.map((step) => `${step.quantity} ${step.state} ${step.stop?.price ?? '–'}/${step.target?.price ?? '–'}`).join(', ')}`;
}
const held = async (w: World): Promise<string> => (await w.position('MAIN')).quantity;

afterEach(endWorlds);

describe('where an exit stands (exact rules, Exits 1 to 4)', () => {
  // A long is bought at 41.22, a short sold at 41.20.
  const cases: readonly [what: string, side: 'buy' | 'sell', quantity: string, steps: StepText[], expected: string][] = [
    ['ticks from the average', 'buy', '100', [{ share: '100', stop: stop('10'), target: target('20') }], 'armed: 100 armed 41.12/41.42'],
    ['the same short', 'sell', '100', [{ share: '100', stop: stop('10'), target: target('20') }], 'armed: 100 armed 41.30/41.00'],
    // 40.8078 and 42.0444, both up to the grid.
    [
      'percent of the average, up for a long',
      'buy',
      '100',
      [{ share: '100', stop: stop('1', 'percent'), target: target('2', 'percent') }],
      'armed: 100 armed 40.81/42.05',
    ],
    // 41.612 and 40.376, both down.
    ['and down for a short', 'sell', '100', [{ share: '100', stop: stop('1', 'percent'), target: target('2', 'percent') }], 'armed: 100 armed 41.61/40.37'],
    // 0.001 % is less than a tick: the grid would put the stop on the average itself. It is reached where it stands.
    [
      'a stop is a tick away at least',
      'buy',
      '100',
      [{ share: '100', stop: stop('0.001', 'percent'), target: target('0.001', 'percent') }],
      'done: 100 done 41.21/41.23',
    ],
    ['short too', 'sell', '100', [{ share: '100', stop: stop('0.001', 'percent'), target: target('0.001', 'percent') }], 'done: 100 done 41.21/41.19'],
    [
      'money is by the quantity of the step',
      'buy',
      '100',
      [{ share: '100', stop: stop('50', 'money'), target: target('100', 'money') }],
      'armed: 100 armed 40.72/42.22',
    ],
    // 50 over 60 is 0.8333…, over 40 it is 1.25.
    [
      'of each step its own',
      'buy',
      '100',
      [
        { share: '60', stop: stop('50', 'money') },
        { share: '40', stop: stop('50', 'money') },
      ],
      'armed: 60 armed 40.39/–, 40 armed 39.97/–',
    ],
    [
      'a price is where it is',
      'buy',
      '100',
      [{ share: '100', stop: stop('40.00', 'price'), target: target('43.00', 'price') }],
      'armed: 100 armed 40.00/43.00',
    ],
    [
      'shares are floors, the last takes the rest',
      'buy',
      '100',
      [
        { share: '33.3', stop: stop('10') },
        { share: '33.3', stop: stop('20') },
        { share: '33.4', target: target('20') },
      ],
      'armed: 33 armed 41.12/–, 33 armed 41.02/–, 34 armed –/41.42',
    ],
    [
      'a step that comes to nothing is no step',
      'buy',
      '1',
      [
        { share: '50', stop: stop('10') },
        { share: '50', stop: stop('20') },
      ],
      'armed: 0 canceled –/–, 1 armed 41.02/–',
    ],
  ];
  for (const [what, side, quantity, steps, expected] of cases)
    for (const heldBy of HELD)
      it(`${what}, held ${heldBy === 'venue' ? 'at the venue' : 'here'}`, async () => {
        const w = await open();
        await enter(w, side, quantity, plan(steps, heldBy));
        expect(shown(w)).to.equal(expected);
      });

  it('an average between two ticks is exact: what is worked out from it is taken to the grid once', async () => {
    const w = await open([`09:00:02.000 ${GANET} level ask 41.22 1`, `09:00:02.000 ${GANET} level ask 41.23 1`]);
    await w.to('09:00:02.000');
    await enter(w, 'buy', '2', plan([{ share: '100', stop: stop('10'), target: target('20') }]));
    // 41.225: 41.125 and 41.425, both up.
    expect(shown(w)).to.equal('armed: 2 armed 41.13/41.43');
  });

  it('ticks are those of the band in which the average lies', async () => {
    const w = await open();
    await enter(w, 'buy', '100', plan([{ share: '100', stop: stop('5'), target: target('3') }]), KELPA);
    expect(shown(w)).to.equal('armed: 100 armed 9.970/10.050');
  });

  it('a price off the grid is refused at its step', async () => {
    const w = await open();
    for (const [leg, where] of [
      [{ stop: stop('40.905', 'price') }, 'stop'],
      [{ target: target('41.425', 'price') }, 'target'],
    ] as const)
      expect(refusedAs(await w.place({ limitPrice: '41.00', exitPlan: plan([{ share: '100', ...leg }]) }))).to.equal(`422 /exitPlan/steps/0/${where}/value`);
  });

  it('a stop is typed on the right side of the market, or of the price at which its entry waits', async () => {
    const sides: readonly [what: string, given: Partial<OrderRequest>, right: string, wrong: string][] = [
      ['a limit that waits', { limitPrice: '41.00' }, '40.99', '41.00'],
      ['one that is sold', { side: 'sell', limitPrice: '41.50' }, '41.51', '41.50'],
      ['a limit that trades at once', { limitPrice: '41.30' }, '41.19', '41.20'],
      ['a market order', { type: 'market' }, '41.19', '41.20'],
      ['a market order that sells', { side: 'sell', type: 'market' }, '41.23', '41.22'],
      ['a stop', { type: 'stop', stopPrice: '41.50' }, '41.49', '41.50'],
    ];
    for (const [what, given, right, wrong] of sides) {
      const w = await open();
      const refused = await w.place({ ...given, exitPlan: plan([{ share: '100', stop: stop(wrong, 'price') }]) });
      expect(refusedAs(refused), what).to.equal('422 /exitPlan/steps/0/stop/value');
      expect(!refused.ok && refused.refusal.kind === 'validation' && refused.refusal.suggestion, what).to.deep.equal({ type: 'limit', limitPrice: wrong });
      expect(refusedAs(await w.place({ ...given, exitPlan: plan([{ share: '100', stop: stop(right, 'price') }]) })), what).to.equal('accepted');
    }
  });
});

/** A market that moves on: its bid, its ask and a trade there. The quotes before are gone. */
function moves(steps: readonly [time: string, bid: string, ask: string, trade: string][]): string[] {
  let [bidBefore, askBefore] = ['41.20', '41.22'];
  return steps.flatMap(([time, bid, ask, trade]) => {
    const rows = [
      ...(askBefore === ask ? [] : [`${time} ${GANET} level ask ${askBefore} 0`]),
      ...(bidBefore === bid ? [] : [`${time} ${GANET} level bid ${bidBefore} 0`]),
      `${time} ${GANET} level bid ${bid} 10000`,
      `${time} ${GANET} level ask ${ask} 10000`,
      `${time} ${GANET} trade buy ${trade} 1`,
    ];
    [bidBefore, askBefore] = [bid, ask];
    return rows;
  });
}

describe('how an exit moves (exact rules, Exits 6 and 7)', () => {
  const BREAK_EVEN = { kind: 'break-even', afterGain: { by: 'ticks', value: '10' }, plusTicks: 2 } as const;
  const TRAIL = { kind: 'trail', afterGain: { by: 'ticks', value: '10' }, distance: { unit: 'ticks', value: '5' }, incrementTicks: 3 } as const;
  const one = (adjust: LegText['adjust'], heldBy: ExitPlanText['heldBy'], far = '50'): ExitPlanText =>
    plan([{ share: '100', stop: stop(far, 'ticks', { adjust }) }], heldBy);
  const stopAt = (w: World): string => shown(w).split(' ')[3] ?? '';

  /** What happens at each time, and where the stop stands after it. */
  type Move = readonly [time: string, bid: string, ask: string, trade: string, stop: string];
  const cases: readonly [what: string, side: 'buy' | 'sell', adjust: LegText['adjust'], moves: readonly Move[]][] = [
    [
      'to break-even at the first trade that gained enough, once',
      'buy',
      [BREAK_EVEN],
      [
        ['09:00:01.000', '41.30', '41.33', '41.31', '40.72/–'],
        ['09:00:02.000', '41.31', '41.33', '41.32', '41.24/–'],
        ['09:00:03.000', '41.50', '41.52', '41.51', '41.24/–'],
      ],
    ],
    [
      'the same short',
      'sell',
      [BREAK_EVEN],
      [
        ['09:00:01.000', '41.09', '41.12', '41.11', '41.70/–'],
        ['09:00:02.000', '41.09', '41.11', '41.10', '41.18/–'],
        ['09:00:03.000', '40.90', '40.92', '40.91', '41.18/–'],
      ],
    ],
    [
      'after the best by whole steps of its increment, and never back',
      'buy',
      [TRAIL],
      [
        ['09:00:01.000', '41.30', '41.33', '41.31', '40.72/–'],
        ['09:00:02.000', '41.31', '41.33', '41.32', '41.27/–'],
        ['09:00:03.000', '41.33', '41.35', '41.34', '41.27/–'],
        ['09:00:04.000', '41.34', '41.36', '41.35', '41.30/–'],
        ['09:00:05.000', '41.32', '41.34', '41.33', '41.30/–'],
        ['09:00:06.000', '41.60', '41.62', '41.61', '41.56/–'],
      ],
    ],
    [
      'short the other way round',
      'sell',
      [TRAIL],
      [
        ['09:00:01.000', '41.09', '41.11', '41.10', '41.15/–'],
        ['09:00:02.000', '41.07', '41.09', '41.08', '41.15/–'],
        ['09:00:03.000', '41.06', '41.08', '41.07', '41.12/–'],
      ],
    ],
    [
      'first to break-even, then after the best',
      'buy',
      [BREAK_EVEN, { ...TRAIL, afterGain: { by: 'ticks', value: '20' } }],
      [
        ['09:00:01.000', '41.31', '41.33', '41.32', '41.24/–'],
        ['09:00:02.000', '41.39', '41.42', '41.41', '41.24/–'],
        ['09:00:03.000', '41.41', '41.43', '41.42', '41.37/–'],
      ],
    ],
    [
      // 1 % of 41.22 is gained at 41.6322: 41.64 is the first tick there. 0.5 % behind 41.64 is 41.4318, up to 41.44.
      'by percent of the average, and behind by percent of the best',
      'buy',
      [{ kind: 'trail', afterGain: { by: 'percent', value: '1' }, distance: { unit: 'percent', value: '0.5' }, incrementTicks: 1 }],
      [
        ['09:00:01.000', '41.62', '41.64', '41.63', '40.72/–'],
        ['09:00:02.000', '41.63', '41.65', '41.64', '41.44/–'],
      ],
    ],
    [
      // 100 of money on 100 are 1.00: from 42.22 on.
      'by money that the step has made',
      'buy',
      [{ kind: 'break-even', afterGain: { by: 'money', value: '100' }, plusTicks: 0 }],
      [
        ['09:00:01.000', '42.20', '42.22', '42.21', '40.72/–'],
        ['09:00:02.000', '42.21', '42.23', '42.22', '41.22/–'],
      ],
    ],
  ];
  for (const [what, side, adjust, steps] of cases)
    for (const heldBy of HELD)
      it(`${what}, held ${heldBy === 'venue' ? 'at the venue' : 'here'}`, async () => {
        const w = await open(moves(steps.map(([time, bid, ask, trade]) => [time, bid, ask, trade])));
        await enter(w, side, '100', one(adjust, heldBy));
        for (const [time, , , , expected] of steps) {
          await w.to(time);
          expect(stopAt(w), time).to.equal(expected);
        }
      });

  it('a move that the venue would refuse waits for the first row at which it would not', async () => {
    const w = await open([
      // The gain is there, but the bid is still below where the stop would go.
      `09:00:01.000 ${GANET} trade buy 41.32 1`,
      `09:00:02.000 ${GANET} level bid 41.24 100`,
      `09:00:03.000 ${GANET} level bid 41.25 100`,
    ]);
    await enter(w, 'buy', '100', one([BREAK_EVEN], 'venue'));
    await w.to('09:00:01.000');
    expect([stopAt(w), await held(w)]).to.deep.equal(['40.72/–', '100']);
    await w.to('09:00:02.000');
    expect(stopAt(w)).to.equal('40.72/–');
    await w.to('09:00:03.000');
    expect([stopAt(w), await held(w)]).to.deep.equal(['41.24/–', '100']);
  });

  it('is never looser than where it stands: a stop that is tighter already stays', async () => {
    for (const heldBy of HELD) {
      const w = await open(moves([['09:00:01.000', '41.33', '41.35', '41.34'] as never]));
      await enter(w, 'buy', '100', plan([{ share: '100', stop: stop('5', 'ticks', { adjust: [{ ...BREAK_EVEN, plusTicks: -8 }] }) }], heldBy));
      expect(stopAt(w), heldBy).to.equal('41.17/–');
      await w.to('09:00:01.000');
      expect(stopAt(w), heldBy).to.equal('41.17/–');
    }
  });

  it('fires where it was moved to', async () => {
    for (const heldBy of HELD) {
      const w = await open([...moves([['09:00:01.000', '41.31', '41.33', '41.32']]), `09:00:02.000 ${GANET} trade sell 41.24 1`]);
      await enter(w, 'buy', '100', one([BREAK_EVEN], heldBy));
      await w.to('09:00:02.000');
      expect([await held(w), shown(w).split(':')[0]], heldBy).to.deep.equal(['0', 'done']);
      expect((await w.fills()).at(-1)?.price).to.equal(4131);
    }
  });
});

describe('how a plan ends (exact rules, Exits 15)', () => {
  const PLAN = [{ share: '100', stop: stop('50'), target: target('50') }];
  const endings: readonly [what: string, act: (w: World) => Promise<unknown>, state: string, position: string][] = [
    ['its position was closed by hand', (w) => w.closePosition('MAIN', GANET), 'done', '0'],
    ['the trader stops it', (w) => w.ask('MAIN', { kind: 'stop-plan', planId: running(w)[0]?.id ?? '' }), 'stopped', '100'],
    ['the position is turned round', (w) => w.ask('MAIN', { kind: 'reverse', instrument: GANET, clientOrderId: null }), 'stopped', '-100'],
    ['all is flattened', (w) => w.flatten('MAIN'), 'stopped', '0'],
  ];
  for (const heldBy of HELD)
    for (const [what, act, state, position] of endings)
      it(`${state} where ${what}, held ${heldBy === 'venue' ? 'at the venue' : 'here'}`, async () => {
        const w = await open();
        await enter(w, 'buy', '100', plan(PLAN, heldBy));
        const [before] = running(w);
        await act(w);
        expect([shown(w, before).split(':')[0], await held(w)]).to.deep.equal([state, position]);
        expect(w.desk.account('MAIN').working.size).to.equal(0);
      });

  it('done where its entry ended unfilled', async () => {
    for (const heldBy of HELD) {
      const w = await open();
      const entry = idOf(await w.place({ limitPrice: '41.00', exitPlan: plan(PLAN, heldBy) }));
      const [before] = running(w);
      expect(shown(w, before)).to.equal('waiting: 0 waiting –/–');
      await w.cancel(entry);
      expect(shown(w, before).split(':')[0]).to.equal('done');
    }
  });

  it('runs one at a time: each step closed by its own leg, the rest going on', async () => {
    for (const heldBy of HELD) {
      const w = await open([...moves([['09:00:01.000', '41.42', '41.44', '41.43']]), `09:00:02.000 ${GANET} trade sell 40.90 1`]);
      const steps = [
        { share: '50', stop: stop('30'), target: target('20') },
        { share: '50', stop: stop('30') },
      ];
      await enter(w, 'buy', '100', plan(steps, heldBy));
      await w.to('09:00:01.000');
      expect([shown(w), await held(w)], heldBy).to.deep.equal(['armed: 50 done 40.92/41.42, 50 armed 40.92/–', '50']);
      await w.to('09:00:02.000');
      expect([shown(w), await held(w)], heldBy).to.deep.equal(['done: 50 done 40.92/41.42, 50 done 40.92/–', '0']);
    }
  });
});

describe('what goes beside a plan (exact rules, Exits 8 and 12)', () => {
  const reducing = (given: Partial<OrderRequest>): Partial<OrderRequest> => ({ side: 'sell', quantity: '10', limitPrice: undefined, ...given });
  const orders: readonly [what: string, given: Partial<OrderRequest>, venue: string, here: string][] = [
    ['a stop at the venue', reducing({ type: 'stop', stopPrice: '41.00' }), 'accepted', '409'],
    ['a stop-limit at the venue', reducing({ type: 'stop-limit', stopPrice: '41.00', limitPrice: '40.90' }), 'accepted', '409'],
    ['a trailing stop at the venue', reducing({ type: 'trailing-stop', trail: { unit: 'ticks', value: '30' } }), 'accepted', '409'],
    ['a limit at the venue', reducing({ type: 'limit', limitPrice: '42.00' }), 'accepted', 'accepted'],
    ['a stop held here', reducing({ type: 'stop', stopPrice: '41.00', heldBy: 'here' }), '409', 'accepted'],
    ['a limit held here', reducing({ type: 'limit', limitPrice: '42.00', heldBy: 'here' }), '409', 'accepted'],
    ['an order that adds', { limitPrice: '41.00', quantity: '10' }, 'accepted', 'accepted'],
    ['a market order that reduces', reducing({ type: 'market' }), 'accepted', 'accepted'],
  ];
  for (const [what, given, venue, here] of orders)
    for (const heldBy of HELD)
      it(`${what}, beside one held ${heldBy === 'venue' ? 'at the venue' : 'here'}`, async () => {
        const w = await open();
        await enter(w, 'buy', '100', plan([{ share: '100', stop: stop('50') }], heldBy));
        expect(refusedAs(await w.place(given))).to.equal(heldBy === 'venue' ? venue : here);
      });

  it('a second one is refused on a position that has one, and joins it where it comes with an entry', async () => {
    for (const heldBy of HELD) {
      const w = await open();
      const text = plan([{ share: '100', stop: stop('50') }], heldBy);
      await enter(w, 'buy', '100', text);
      const read = readExitPlan(text);
      if (!read.ok) throw new Error('not read');
      expect(refusedAs(await w.ask('MAIN', { kind: 'put-plan', instrument: GANET, plan: read.value }))).to.equal('409');
      await enter(w, 'buy', '50', text);
      expect(
        running(w).map((one) => shown(w, one)),
        heldBy,
      ).to.deep.equal(['armed: 150 armed 40.72/–', 'stopped: 0 canceled –/–']);
    }
  });
});
