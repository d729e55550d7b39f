import { expect } from 'chai';
import type { OrderRequest } from '../../src/core/orders/index.ts';
import { endWorlds, worldOf } from '../support/scenes.ts';
import { refusedAs, type World } from '../support/world.ts';

const GANET = 'GANET.HALM';
const KELPA = 'KELPA.HALM';
/** GANET at 41.20 to 41.22, KELPA at 9.99 to 10.02 where its ticks change at 10. */
const MARKET = [
  `09:00:00.000 ${GANET} level bid 41.20 10000`,
  `09:00:00.000 ${GANET} level ask 41.22 10000`,
  `09:00:00.000 ${GANET} trade buy 41.21 1`,
  `09:00:00.000 ${KELPA} level bid 9.99 10000`,
  `09:00:00.000 ${KELPA} level ask 10.02 10000`,
  `09:00:00.000 ${KELPA} trade buy 10.00 1`,
];
const HELD = ['venue', 'here'] as const;

/** A row a second from the first second on, in words such as `trade buy 41.30 1`. */
const rowsOf = (id: string, rows: readonly string[]): string[] => rows.map((row, i) => `09:00:${String(i + 1).padStart(2, '0')}.000 ${id} ${row}`);

/** What a position of 100 is trailed with, and where its stop stands at first and after each row. */
interface Trail {
  readonly what: string;
  readonly id?: string;
  /** What closes: a long is sold. */
  readonly side: 'buy' | 'sell';
  readonly given: Partial<OrderRequest>;
  readonly first: string;
  readonly rows: readonly (readonly [row: string, then: string])[];
}

const ticks = (value: string) => ({ unit: 'ticks', value }) as const;
const percent = (value: string) => ({ unit: 'percent', value }) as const;
const money = (value: string) => ({ unit: 'money', value }) as const;

const TRAILS: readonly Trail[] = [
  {
    what: 'behind the best trade since it came, and never back',
    side: 'sell',
    given: { trail: ticks('10') },
    first: '41.11',
    rows: [
      ['trade buy 41.30 1', '41.20'],
      ['trade sell 41.25 1', '41.20'],
      ['trade buy 41.31 1', '41.21'],
      ['level bid 41.90 1', '41.21'],
      ['trade sell 41.21 1', 'filled'],
    ],
  },
  {
    what: 'above the lowest for what is bought back',
    side: 'buy',
    given: { trail: ticks('10') },
    first: '41.31',
    rows: [
      ['trade sell 41.15 1', '41.25'],
      ['trade buy 41.20 1', '41.25'],
      ['trade buy 41.26 1', 'filled'],
    ],
  },
  {
    what: 'where it was put, until the trail is tighter',
    side: 'sell',
    given: { trail: ticks('10'), stopPrice: '41.15' },
    first: '41.15',
    rows: [
      ['trade buy 41.24 1', '41.15'],
      ['trade buy 41.25 1', '41.15'],
      ['trade buy 41.26 1', '41.16'],
    ],
  },
  {
    what: 'at once at the trail, where that is tighter than where it was put',
    side: 'sell',
    given: { trail: ticks('10'), stopPrice: '40.00' },
    first: '41.11',
    rows: [['trade buy 41.22 1', '41.12']],
  },
  {
    what: 'behind the bid, with which it fires',
    side: 'sell',
    given: { trail: ticks('10'), triggerOn: 'bid' },
    first: '41.10',
    rows: [
      ['trade buy 42.00 1', '41.10'],
      ['level bid 41.35 10', '41.25'],
      ['level bid 41.30 10', '41.25'],
      ['level bid 41.35 0', '41.25'],
      ['level bid 41.30 0', 'filled'],
    ],
  },
  {
    what: 'above the ask, with which it fires',
    side: 'buy',
    given: { trail: ticks('10'), triggerOn: 'ask' },
    first: '41.32',
    rows: [
      ['level ask 41.15 10', '41.25'],
      ['trade buy 41.50 1', '41.25'],
    ],
  },
  {
    // 41.21 less its hundredth is 40.7979, up to the grid; of 42.00 it is 41.58.
    what: 'by percent of the best, taken up for what sells',
    side: 'sell',
    given: { trail: percent('1') },
    first: '40.80',
    rows: [
      ['trade buy 42.00 1', '41.58'],
      ['trade buy 42.01 1', '41.59'],
    ],
  },
  {
    // 41.6221, and 41.41 of 41.00.
    what: 'by percent, taken down for what buys',
    side: 'buy',
    given: { trail: percent('1') },
    first: '41.62',
    rows: [['trade sell 41.00 1', '41.41']],
  },
  {
    what: 'by money for its quantity, fixed when it came',
    side: 'sell',
    given: { trail: money('30') },
    first: '40.91',
    rows: [['trade buy 41.30 1', '41.00']],
  },
  {
    // 30 for 40 are 0.75.
    what: 'by money for a part',
    side: 'sell',
    given: { trail: money('30'), quantity: '40' },
    first: '40.46',
    rows: [['trade buy 41.30 1', '40.55']],
  },
  {
    // Five of 0.01 below 10.00; 0.005 is the tick below.
    what: 'by ticks of the band in which the best lies',
    id: KELPA,
    side: 'sell',
    given: { trail: ticks('5') },
    first: '9.950',
    rows: [
      ['trade buy 10.02 1', '9.970'],
      ['trade sell 9.975 1', '9.970'],
    ],
  },
  {
    // From 10.00 five of 0.01; from 9.99 five of 0.005 to 10.015, which is no price there: down.
    what: 'by smaller ticks once the best is in the band below',
    id: KELPA,
    side: 'buy',
    given: { trail: ticks('5') },
    first: '10.050',
    rows: [
      ['trade sell 9.990 1', '10.010'],
      ['trade sell 9.950 1', '9.975'],
    ],
  },
];

afterEach(endWorlds);

/** A world in which what is to be closed is held. */
async function holding({ id = GANET, side, rows }: Pick<Trail, 'id' | 'side' | 'rows'>): Promise<World> {
  const w = await (
    await worldOf([
      ...MARKET,
      ...rowsOf(
        id,
        rows.map(([row]) => row),
      ),
    ])
  ).to('09:00:00.500');
  await w.placed({ instrument: id, type: 'market', side: side === 'sell' ? 'buy' : 'sell', quantity: '100' });
  return w;
}

describe('a trailing stop (exact rules, Exits 9 and 10)', () => {
  for (const trail of TRAILS)
    for (const heldBy of HELD)
      it(`${trail.what}, held ${heldBy === 'venue' ? 'at the venue' : 'here'}`, async () => {
        const { id = GANET, side, given, first, rows } = trail;
        const w = await holding(trail);
        const order = await w.placed({ instrument: id, type: 'trailing-stop', side, quantity: '100', heldBy, ...given });
        const stands = async (): Promise<string> => {
          const { state, stopPrice } = await w.order(order);
          return state === 'new' ? (stopPrice ?? '–') : state;
        };
        expect(await stands()).to.equal(first);
        for (const [i, [row, then]] of rows.entries()) {
          await w.to(`09:00:${String(i + 1).padStart(2, '0')}.000`);
          expect(await stands(), row).to.equal(then);
        }
        expect((await w.order(order)).version).to.equal(1);
      });

  it('is refused where its first stop is reached already', async () => {
    for (const heldBy of HELD) {
      const w = await holding({ side: 'sell', rows: [] });
      for (const given of [{ trail: ticks('1') }, { trail: ticks('10'), stopPrice: '41.20' }, { trail: percent('0.001') }])
        expect(refusedAs(await w.place({ type: 'trailing-stop', side: 'sell', quantity: '100', heldBy, ...given })), JSON.stringify(given)).to.match(/^422/);
    }
  });

  it('that is given another trail goes by that at once, looser too', async () => {
    for (const heldBy of HELD) {
      const w = await holding({ side: 'sell', rows: [['trade buy 41.40 1', '']] });
      const order = await w.placed({ type: 'trailing-stop', side: 'sell', quantity: '100', heldBy, trail: ticks('10') });
      await w.to('09:00:01.000');
      expect((await w.order(order)).stopPrice).to.equal('41.30');
      expect(refusedAs(await w.replace(order, { trail: ticks('50') }))).to.equal('accepted');
      expect((await w.order(order)).stopPrice, heldBy).to.equal('40.90');
    }
  });

  it('finds its best again after a kill, from the trades since it came', async () => {
    for (const heldBy of HELD) {
      const w = await holding({ side: 'sell', rows: [['trade buy 41.40 1', ''], ['trade sell 41.35 1', ''], ['trade sell 41.29 1', '']] }); // prettier-ignore
      const order = await w.placed({ type: 'trailing-stop', side: 'sell', quantity: '100', heldBy, trail: ticks('10') });
      await w.to('09:00:02.000');
      const after = await w.kill();
      expect((await after.order(order)).stopPrice, heldBy).to.equal('41.30');
      await after.to('09:00:03.000');
      expect((await after.order(order)).state, heldBy).to.equal('filled');
      await after.close();
    }
  });
});

describe('what was missed while it was cut off (exact rules, Exits 14)', () => {
  /** Falls to 41.10, and comes back to just below where it was; the quotes go along. */
  const DIP = [
    'trade buy 41.21 1',
    'level bid 41.05 10000',
    'level bid 41.20 0',
    'trade sell 41.10 1',
    'level bid 41.18 10000',
    'level ask 41.20 10000',
    'trade buy 41.20 1',
  ].map((row): readonly [string, string] => [row, '']);
  const away = async (w: World, from: string, to: string): Promise<void> => {
    await w.to(from);
    await w.desk.setLink({ data: 'down' });
    await w.to(to);
    await w.desk.setLink({ data: 'up' });
  };
  const here = { type: 'stop', side: 'sell', quantity: '20', heldBy: 'here' } as const;

  it('is judged by the trades since, not by those before it came, whatever else waits in its instrument', async () => {
    const w = await holding({ side: 'sell', rows: DIP });
    // Its best is of the first second: what it has to look at goes back further than the stop beside it is old.
    const old = await w.placed({ type: 'trailing-stop', side: 'sell', quantity: '50', heldBy: 'here', trail: ticks('50') });
    await w.to('09:00:08.000');
    const young = await w.placed({ ...here, stopPrice: '41.15' });
    await away(w, '09:00:09.000', '09:00:10.000');
    expect([(await w.order(old)).state, (await w.order(young)).state]).to.deep.equal(['new', 'new']);
  });

  it('is not judged by the trades before it was changed', async () => {
    for (const change of [{ trail: ticks('5') }, { stopPrice: '41.16' }]) {
      const w = await holding({ side: 'sell', rows: DIP });
      const order = await w.placed({ type: 'trailing-stop', side: 'sell', quantity: '50', heldBy: 'here', trail: ticks('50') });
      await w.to('09:00:08.000');
      expect(refusedAs(await w.replace(order, change))).to.equal('accepted');
      await away(w, '09:00:09.000', '09:00:10.000');
      expect((await w.order(order)).state, JSON.stringify(change)).to.equal('new');
    }
  });

  it('on the bid or ask is not raised by what was traded elsewhere', async () => {
    const w = await holding({ side: 'sell', rows: [['trade buy 41.60 1', '']] });
    const order = await w.placed({ type: 'trailing-stop', side: 'sell', quantity: '50', heldBy: 'here', trail: ticks('10'), triggerOn: 'bid' });
    await away(w, '09:00:00.800', '09:00:02.000');
    expect(await w.order(order)).to.include({ state: 'new', stopPrice: '41.10' });
  });

  it('says of a plan which level was passed, and how far the price went', async () => {
    const said = async (onMissedLevel: 'fire' | 'ask', level: string): Promise<string | undefined> => {
      const w = await holding({ side: 'sell', rows: DIP });
      const plan = { heldBy: 'here', onSizeChange: 'keep', onMissedLevel, steps: [{ share: '100', stop: { by: 'price', value: level, order: 'market' } }] } as const; // prettier-ignore
      await w.placed({ type: 'market', side: 'buy', quantity: '10', exitPlan: plan });
      await w.desk.setLink({ data: 'down' });
      const before = [...w.desk.account('MAIN').plans.values()][0]?.log.length ?? 0;
      await w.to('09:00:10.000');
      await w.desk.setLink({ data: 'up' });
      return [...w.desk.account('MAIN').plans.values()][0]?.log[before]?.text;
    };
    expect(await said('fire', '41.15')).to.equal('Its stop at 41.15 was passed, low 41.10: it fires.');
    expect(await said('ask', '41.15')).to.equal('Its stop at 41.15 was passed, low 41.10: it asks what to do.');
    expect(await said('fire', '41.05')).to.equal('It goes on: nothing was passed meanwhile.');
  });

  it('and with a plan beside it each is judged by its own', async () => {
    const w = await holding({ side: 'sell', rows: DIP });
    const plan = { heldBy: 'here', onSizeChange: 'keep', onMissedLevel: 'fire', steps: [{ share: '100', stop: { by: 'ticks', value: '100', order: 'market' } }] } as const; // prettier-ignore
    await w.placed({ type: 'market', side: 'buy', quantity: '10', exitPlan: plan });
    await w.to('09:00:08.000');
    const young = await w.placed({ ...here, stopPrice: '41.15' });
    await away(w, '09:00:09.000', '09:00:10.000');
    expect((await w.order(young)).state).to.equal('new');
  });
});
