import { expect } from 'chai';
import type { Outcome } from '../../src/desk/outcomes.ts';
import { presentRisk, type RiskStateAnswer } from '../../src/desk/present/index.ts';
import type { Result } from '../../src/core/result.ts';
import { readOrder, type OrderIntent, type OrderRequest, type Refusal } from '../../src/core/orders/index.ts';
import { readRules, type RulesText } from '../../src/core/risk/index.ts';
import { endWorlds, worldOf } from '../support/scenes.ts';
import { instrument, refusedAs, request, type World } from '../support/world.ts';

const GANET = 'GANET.HALM';
const BRINE = 'BRINE.HALM';
const INVERSE = 'CARBI.VSPR';
const PLENTY = 100_000;
const showing = (id: string, bid: string, ask: string): string[] => [
  `09:00:00.000 ${id} level bid ${bid} ${PLENTY}`,
  `09:00:00.000 ${id} level ask ${ask} ${PLENTY}`,
  `09:00:00.000 ${id} trade buy ${ask} 1`,
];
const MARKET = [...showing(GANET, '40.99', '41.00'), ...showing(BRINE, '19.99', '20.00'), ...showing(INVERSE, '62.45', '62.50')];

async function under(rules: Partial<RulesText>, rows: readonly string[] = [], account = 'MAIN'): Promise<World> {
  const w = await (await worldOf([...MARKET, ...rows])).to('09:00:00.500');
  await setRules(w, rules, account);
  return w;
}

async function setRules(w: World, text: Partial<RulesText>, account = 'MAIN'): Promise<void> {
  const read = readRules(text);
  if (!read.ok) throw new Error(JSON.stringify(read.refusal));
  const done = await w.ask(account, { kind: 'set-rules', rules: read.value, version: w.desk.account(account).risk.version });
  expect(refusedAs(done)).to.equal('accepted');
}

const stateOf = (w: World, account = 'MAIN'): RiskStateAnswer => presentRisk(w.desk.account(account), w.desk.marks(), w.desk.now(), () => null);
/** What is blocked, each with its instrument where it is of one. */
const blocked = (w: World, account = 'MAIN'): string[] =>
  stateOf(w, account).blocked.map(({ rule, instrument }) => (instrument === null ? rule : `${rule} ${instrument}`));
const deal = (side: 'buy' | 'sell', quantity: string, given: Partial<OrderRequest> = {}) => ({ type: 'market', side, quantity, ...given }) as const;
const buy = (w: World, quantity: string, given?: Partial<OrderRequest>): Promise<string> => w.placed(deal('buy', quantity, given));
const sell = (w: World, quantity: string, given?: Partial<OrderRequest>): Promise<string> => w.placed(deal('sell', quantity, given));
/** An opening order that rests, and what becomes of it. */
const resting = (w: World, given: Partial<OrderRequest> = {}): Promise<Result<Outcome, Refusal>> => w.place({ limitPrice: '40.00', quantity: '1', ...given });
const opens = async (w: World, given: Partial<OrderRequest> = {}): Promise<string> => refusedAs(await resting(w, given));

/** Something that ends at a net result which is its lowest. */
interface Fall {
  readonly by: string;
  readonly account?: string;
  readonly instrument?: string;
  readonly rows?: readonly string[];
  readonly net: string;
  act(w: World): Promise<unknown>;
}

// 100 at 41.00 cost 0.10 % = 4.10; sold at 40.99 they cost 4.10 again, by rounding half up.
const FALLS: readonly Fall[] = [
  {
    by: 'a price',
    rows: [`09:00:02.000 ${GANET} trade sell 40.90 1`],
    net: '-14.10',
    act: async (w) => {
      await buy(w, '100');
      await w.to('09:00:03.000');
    },
  },
  { by: 'a fee', net: '-4.10', act: (w) => buy(w, '100') },
  {
    by: 'a fill',
    net: '-9.20',
    act: async (w) => {
      await buy(w, '100');
      await sell(w, '100');
    },
  },
  {
    // Settled at its last trade, 41.00; the new day has none yet, so the mid of 40.80 and 40.90 counts.
    by: 'the day’s turn',
    rows: ['bid 40.99 0', 'ask 41.00 0', 'bid 40.80 100', 'ask 40.90 100'].map((level) => `09:00:02.000 ${GANET} level ${level}`),
    net: '-15.00',
    act: async (w) => {
      await buy(w, '100');
      await w.to('2026-03-02T23:59:59.999Z');
      expect(blocked(w)).to.deep.equal([]);
      await w.to('2026-03-03T00:00:00.000Z');
    },
  },
  {
    // 1000 at 62.50 are 16 CARB, 20 at 50.00: 4 lost, and a fee of 0.008, each 50.00 EUR.
    by: 'an inverse contract',
    account: 'NIGHT',
    instrument: INVERSE,
    rows: [`09:00:02.000 ${INVERSE} trade sell 50.00 1`],
    net: '-200.40',
    act: async (w) => {
      await buy(w, '1000', { account: 'NIGHT', instrument: INVERSE });
      await w.to('09:00:03.000');
    },
  },
];
const TWO: Fall = {
  by: 'two instruments together',
  rows: [`09:00:02.000 ${GANET} trade sell 40.90 1`, `09:00:03.000 ${BRINE} trade sell 19.90 1`],
  net: '-26.10',
  act: async (w) => {
    await buy(w, '100');
    await buy(w, '100', { instrument: BRINE });
    await w.to('09:00:02.500');
    expect(blocked(w)).to.deep.equal([]);
    await w.to('09:00:04.000');
  },
};

/** A limit so many cents above what a fall loses. */
const limitAt = ({ net }: Fall, cents: number): string => ((cents - Math.round(Number(net) * 100)) / 100).toFixed(2);
const NEXT_DAY = '2026-03-03T00:00:00.000Z';

afterEach(endWorlds);

describe('a limit on what is lost (exact rules, Risk 1 to 4)', () => {
  const LIMITS = [
    ['dayLossLimit', [...FALLS, TWO], (): string => 'dayLossLimit'],
    ['instrumentLossLimit', FALLS, ({ instrument = GANET }: Fall): string => `instrumentLossLimit ${instrument}`],
  ] as const;
  for (const [rule, falls, said] of LIMITS)
    for (const fall of falls)
      it(`${rule} by ${fall.by}: not one cent before, at it, and past it`, async () => {
        const { account = 'MAIN' } = fall;
        for (const [cents, expected] of [
          [1, []],
          [0, [said(fall)]],
          [-1, [said(fall)]],
        ] as const) {
          const w = await under({ [rule]: limitAt(fall, cents) }, fall.rows, account);
          await fall.act(w);
          expect([stateOf(w, account).netToday, blocked(w, account)], `${cents} cents away`).to.deep.equal([fall.net, expected]);
          const of = { account, instrument: fall.instrument ?? GANET };
          expect(await opens(w, of), `${cents} cents away`).to.equal(cents > 0 ? 'accepted' : `422 ${rule}`);
        }
      });

  it('of an instrument is of that one alone, whatever the other lost', async () => {
    // GANET lost 14.10, BRINE 12.00.
    for (const [limit, expected] of [
      ['14.11', []],
      ['14.10', [GANET]],
      ['12.01', [GANET]],
      ['12.00', [GANET, BRINE]],
    ] as const) {
      const w = await under({ instrumentLossLimit: limit }, TWO.rows);
      await buy(w, '100');
      await buy(w, '100', { instrument: BRINE });
      await w.to('09:00:04.000');
      expect(blocked(w), limit).to.deep.equal(expected.map((id) => `instrumentLossLimit ${id}`));
      for (const instrument of [GANET, BRINE])
        expect(await opens(w, { instrument, limitPrice: '15.00' }), `${instrument} at ${limit}`).to.equal(
          (expected as readonly string[]).includes(instrument) ? '422 instrumentLossLimit' : 'accepted',
        );
    }
  });

  it('cancels what works and opens, there alone where it is of an instrument, and says why', async () => {
    for (const [rules, ganet, brine] of [
      [{ dayLossLimit: '4.10' }, 'canceled 0/1 risk', 'canceled 0/1 risk'],
      [{ instrumentLossLimit: '4.10' }, 'canceled 0/1 risk', 'new 0/1'],
      [{ instrumentLossLimit: '4.10', onInstrumentLoss: 'close-out' }, 'canceled 0/1 close-out', 'new 0/1'],
    ] as const) {
      const w = await under(rules);
      const here = await w.placed({ limitPrice: '40.00', quantity: '1' });
      const there = await w.placed({ instrument: BRINE, limitPrice: '15.00', quantity: '1' });
      await buy(w, '100');
      expect([await w.shown(here), await w.shown(there)]).to.deep.equal([ganet, brine]);
      expect((await w.position('MAIN')).quantity).to.equal('onInstrumentLoss' in rules ? '0' : '100');
    }
  });

  it('stands until the day’s end though the price comes back, and the next day begins anew', async () => {
    const w = await under({ dayLossLimit: '14.10' }, [`09:00:02.000 ${GANET} trade sell 40.90 1`, `09:00:05.000 ${GANET} trade buy 45.00 1`]);
    await buy(w, '100');
    await w.to('09:00:06.000');
    expect([stateOf(w).netToday, blocked(w), stateOf(w).blocked[0]?.until]).to.deep.equal(['395.90', ['dayLossLimit'], NEXT_DAY]);
    await w.flatten('MAIN');
    await w.to('2026-03-02T23:59:59.999Z');
    expect(await opens(w)).to.equal('422 dayLossLimit');
    await w.to(NEXT_DAY);
    expect([blocked(w), await opens(w)]).to.deep.equal([[], 'accepted']);
  });

  it('that is made tighter can be reached at once', async () => {
    const w = await under({ dayLossLimit: '300' });
    await buy(w, '100');
    await setRules(w, { dayLossLimit: '4.10' });
    expect(blocked(w)).to.deep.equal(['dayLossLimit']);
  });
});

describe('a day’s quantity (exact rules, Risk 8)', () => {
  it('counts both sides and what works, and lets through what just fits', async () => {
    const w = await under({ dayQuantityCap: { share: '300' } });
    await buy(w, '100');
    await sell(w, '100');
    expect(await opens(w, { quantity: '50' })).to.equal('accepted');
    expect(await opens(w, { quantity: '51' })).to.equal('422 dayQuantityCap');
    expect(await opens(w, { quantity: '50', instrument: BRINE, limitPrice: '15.00' })).to.equal('accepted');
    expect(await opens(w, { quantity: '1', instrument: BRINE, limitPrice: '15.00' })).to.equal('422 dayQuantityCap');
  });

  it('blocks once it is used up; closing goes on and is counted', async () => {
    const w = await under({ dayQuantityCap: { share: '300' } });
    await buy(w, '299');
    expect(blocked(w)).to.deep.equal([]);
    await buy(w, '1');
    expect(blocked(w)).to.deep.equal(['dayQuantityCap']);
    await sell(w, '300');
    expect([(await w.position('MAIN')).quantity, await opens(w)]).to.deep.equal(['0', '422 dayQuantityCap']);
    await w.to(NEXT_DAY);
    expect([blocked(w), await opens(w)]).to.deep.equal([[], 'accepted']);
  });

  it('ends the newest that works where closing fills leave no room for all', async () => {
    const w = await under({ dayQuantityCap: { share: '300' } });
    await buy(w, '100');
    const older = await w.placed({ limitPrice: '40.00', quantity: '100' });
    const newer = await w.placed({ limitPrice: '39.90', quantity: '100' });
    await sell(w, '100');
    expect([await w.shown(older), await w.shown(newer)]).to.deep.equal(['new 0/100', 'canceled 0/100 risk']);
  });

  it('is of a kind alone', async () => {
    const w = await under({ dayQuantityCap: { future: '1' } });
    await buy(w, '300');
    expect([blocked(w), await opens(w)]).to.deep.equal([[], 'accepted']);
  });
});

describe('a window in which nothing opens (exact rules, Risk 9)', () => {
  const WINDOW = { noTradeWindows: [{ from: '09:10', to: '09:20' }] };

  it('holds from its first moment until before its last', async () => {
    const w = await under(WINDOW);
    for (const [time, expected] of [
      ['09:09:59.999', 'accepted'],
      ['09:10:00.000', '422 noTradeWindows'],
      ['09:19:59.999', '422 noTradeWindows'],
      ['09:20:00.000', 'accepted'],
    ] as const) {
      await w.to(time);
      expect([await opens(w), blocked(w)], time).to.deep.equal([expected, expected === 'accepted' ? [] : ['noTradeWindows']]);
    }
  });

  it('leaves what works, which may fill inside, and lets positions be closed', async () => {
    const w = await under(WINDOW, [`09:15:00.000 ${GANET} level ask 40.00 ${PLENTY}`]);
    const before = await w.placed({ limitPrice: '40.00', quantity: '10' });
    await w.to('09:15:00.000');
    expect(await w.shown(before)).to.equal('filled 10/10');
    expect(refusedAs(await w.closePosition('MAIN', GANET))).to.equal('accepted');
  });

  it('refuses what is held here and opens where it triggers inside', async () => {
    const w = await under(WINDOW, [`09:15:00.000 ${GANET} trade buy 41.50 1`]);
    const waits = await w.placed({ type: 'stop', stopPrice: '41.50', quantity: '10', heldBy: 'here' });
    await w.to('09:15:00.000');
    expect(await w.shown(waits)).to.match(/^rejected 0\/10/);
  });
});

describe('a cool-down (exact rules, Risk 10)', () => {
  const RULES = { coolDownMinutes: 15, coolDownAfterLosses: 2 } as const;
  const HIGHER = [`09:05:00.000 ${GANET} level bid 41.50 ${PLENTY}`, `09:06:00.000 ${GANET} level bid 41.50 0`];
  const trip = async (w: World): Promise<void> => {
    await buy(w, '100');
    await sell(w, '100');
  };

  it('begins with the loss that is one too many, ends what opens, and is over at its very end', async () => {
    const w = await under(RULES);
    await trip(w);
    expect(blocked(w)).to.deep.equal([]);
    const working = await w.placed({ limitPrice: '40.00', quantity: '1' });
    await trip(w);
    expect([blocked(w), await w.shown(working), await opens(w)]).to.deep.equal([['coolDown'], 'canceled 0/1 risk', '422 coolDown']);
    await w.to('09:15:00.499');
    expect(await opens(w)).to.equal('422 coolDown');
    await w.to('09:15:00.500');
    expect([blocked(w), await opens(w)]).to.deep.equal([[], 'accepted']);
    // The count began anew with it.
    await trip(w);
    expect(blocked(w)).to.deep.equal([]);
  });

  it('counts losses in a row: one that made something begins anew', async () => {
    const w = await under(RULES, HIGHER);
    await trip(w);
    await w.to('09:05:00.000');
    await trip(w);
    await w.to('09:06:00.000');
    await trip(w);
    expect(blocked(w)).to.deep.equal([]);
    await trip(w);
    expect(blocked(w)).to.deep.equal(['coolDown']);
  });

  it('a round trip that made only less than its fees is lost', async () => {
    const w = await under({ coolDownMinutes: 15, coolDownAfterLosses: 1 }, [
      `09:05:00.000 ${GANET} level bid 41.08 ${PLENTY}`,
      `09:06:00.000 ${GANET} level bid 41.09 ${PLENTY}`,
    ]);
    // 100 bought and sold again cost 4.10 and 4.11: 8.00 do not cover it, 9.00 do.
    await buy(w, '200');
    await w.to('09:06:00.000');
    await sell(w, '200');
    expect(blocked(w)).to.deep.equal([]);
    const lower = await under({ coolDownMinutes: 15, coolDownAfterLosses: 1 }, [`09:05:00.000 ${GANET} level bid 41.08 ${PLENTY}`]);
    await buy(lower, '200');
    await lower.to('09:05:00.000');
    await sell(lower, '200');
    expect(blocked(lower)).to.deep.equal(['coolDown']);
  });

  it('goes on over the day’s turn, where the count of losses begins anew', async () => {
    const w = await under(RULES);
    await w.to('2026-03-02T23:50:00.000Z');
    await trip(w);
    await w.to(NEXT_DAY);
    await trip(w);
    expect(blocked(w)).to.deep.equal([]);
    const late = await under(RULES);
    await late.to('2026-03-02T23:50:00.000Z');
    await trip(late);
    await trip(late);
    await late.to('2026-03-03T00:04:59.999Z');
    expect(await opens(late)).to.equal('422 coolDown');
    await late.to('2026-03-03T00:05:00.000Z');
    expect(await opens(late)).to.equal('accepted');
  });

  it('begins where an instrument’s limit is reached, for the whole account', async () => {
    const w = await under({ instrumentLossLimit: '4.10', coolDownMinutes: 15 });
    await buy(w, '100');
    expect(blocked(w).sort()).to.deep.equal(['coolDown', `instrumentLossLimit ${GANET}`]);
    expect(await opens(w, { instrument: BRINE, limitPrice: '15.00' })).to.equal('422 coolDown');
  });
});

describe('what an order may be (exact rules, Risk 6 and 7)', () => {
  it('so many opening orders a minute: one that is a minute old no longer counts', async () => {
    const w = await under({ maxOrdersPerMinute: 2 });
    await w.to('09:00:01.000');
    expect(await opens(w)).to.equal('accepted');
    await w.to('09:00:01.500');
    expect([await opens(w), await opens(w)]).to.deep.equal(['accepted', '422 maxOrdersPerMinute']);
    await w.to('09:01:00.999');
    expect(await opens(w)).to.equal('422 maxOrdersPerMinute');
    await w.to('09:01:01.000');
    expect([await opens(w), await opens(w)]).to.deep.equal(['accepted', '422 maxOrdersPerMinute']);
  });

  it('counts orders that are asked for together one after the other, as a list and as a group', async () => {
    const wanted = (given: Partial<OrderRequest> = {}): OrderIntent => {
      const read = readOrder(request({ limitPrice: '40.00', quantity: '1', ...given }), instrument(GANET));
      if (!read.ok) throw new Error(JSON.stringify(read.refusal));
      return read.value;
    };
    const w = await under({ maxOrdersPerMinute: 2 });
    const many = await w.desk.placeMany('MAIN', [wanted(), wanted(), wanted()]);
    const rules = many.ok && many.value.map((one) => (one.ok ? 'accepted' : one.refusal.kind === 'risk-blocked' && one.refusal.rule));
    expect(rules).to.deep.equal(['accepted', 'accepted', 'maxOrdersPerMinute']);
    const other = await under({ maxOrdersPerMinute: 2 });
    const group = (...orders: OrderIntent[]) => other.ask('MAIN', { kind: 'place-group', onPartialFill: null, orders });
    expect(refusedAs(await group(wanted(), wanted(), wanted()))).to.equal('422 maxOrdersPerMinute');
    expect(refusedAs(await group(wanted(), wanted()))).to.equal('accepted');
    expect(await opens(other)).to.equal('422 maxOrdersPerMinute');
  });

  it('what reduces passes every rule, and what would open with it passes none', async () => {
    const w = await under({});
    await buy(w, '100');
    await setRules(w, {
      dayLossLimit: '1',
      instrumentLossLimit: '1',
      dayQuantityCap: { share: '1' },
      noTradeWindows: [{ from: '00:00', to: '23:59' }],
      maxOrderQuantity: '1',
      maxOrderValue: '1',
      maxDistancePercent: '0.01',
      maxOrdersPerMinute: 1,
      maxPositionQuantity: '1',
      coolDownMinutes: 15,
    });
    for (const given of [
      { side: 'sell', quantity: '30', limitPrice: '45.00' },
      { side: 'sell', quantity: '30', limitPrice: undefined, type: 'stop', stopPrice: '39.00' },
      { side: 'sell', quantity: '10', limitPrice: undefined, type: 'market' },
    ] as const)
      expect(await opens(w, given)).to.equal('accepted');
    expect(await opens(w, { side: 'sell', quantity: '500', limitPrice: '45.00', crossesZero: true })).to.equal('422 dayLossLimit');
    expect(refusedAs(await w.ask('MAIN', { kind: 'reverse', instrument: GANET, clientOrderId: null }))).to.equal('422 dayLossLimit');
    expect(refusedAs(await w.closePosition('MAIN', GANET, { percent: '50' }))).to.equal('accepted');
    expect(refusedAs(await w.flatten('MAIN'))).to.equal('accepted');
    expect((await w.position('MAIN')).quantity).to.equal('0');
  });

  it('a change passes them too, but for one that only lowers the quantity', async () => {
    const w = await under({ maxOrderQuantity: '100' });
    const working = await w.placed({ limitPrice: '40.00', quantity: '100' });
    await setRules(w, { maxOrderQuantity: '50' });
    expect(refusedAs(await w.replace(working, { limitPrice: '39.90' }))).to.equal('422 maxOrderQuantity');
    expect(refusedAs(await w.replace(working, { quantity: '80' }))).to.equal('accepted');
    expect(refusedAs(await w.replace(working, { quantity: '81' }))).to.equal('422 maxOrderQuantity');
  });
});
