import { expect } from 'chai';
import fc from 'fast-check';
import { Baskets } from '../../src/desk/baskets/baskets.ts';
import { presentRun } from '../../src/desk/baskets/present.ts';
import type { Basket, BasketRow, BasketStore, Run } from '../../src/desk/baskets/things.ts';
import type { ExitPlanText } from '../../src/core/exits/index.ts';
import { World, refusedAs } from '../support/world.ts';

const RUNS = Number(process.env['KAVIX_RUNS'] ?? 60);

/** Runs as they are on the disk. */
class MemoryBasketStore implements BasketStore {
  readonly kept = new Map<string, string>();

  load(): Promise<Run[]> {
    return Promise.resolve([...this.kept.values()].map((text) => JSON.parse(text) as Run));
  }

  put(run: Run): Promise<void> {
    this.kept.set(run.id, JSON.stringify(run));
    return Promise.resolve();
  }
}

const noPlan = () => (): Promise<ExitPlanText | null> => Promise.resolve(null);

/** A desk with baskets on it, that can be killed as a whole. */
class Shop {
  world: World;
  baskets: Baskets;
  readonly store: MemoryBasketStore;

  private constructor(world: World, store: MemoryBasketStore) {
    this.world = world;
    this.store = store;
    this.baskets = new Baskets({ desk: world.desk, store, planOf: noPlan });
  }

  static async open(world: World, store = new MemoryBasketStore()): Promise<Shop> {
    const shop = new Shop(world, store);
    await shop.baskets.open();
    return shop;
  }

  /** Everything dies; what is kept begins anew. */
  async kill(): Promise<Shop> {
    const { kept } = this.store;
    const left = new MemoryBasketStore();
    for (const [id, text] of kept) left.kept.set(id, text);
    return Shop.open(await this.world.kill(), left);
  }

  async to(clock: string): Promise<void> {
    await this.world.to(clock);
    await this.settled();
  }

  async settled(): Promise<void> {
    await this.world.desk.quiet();
    await this.baskets.settled();
    await this.world.desk.quiet();
  }

  run(id: string): Run {
    const found = this.baskets.find('demo', id);
    if (!found) throw new Error(`no run ${id}`);
    return found;
  }

  async send(basket: Basket, percent: string, pace: 'at-once' | 'one-by-one', id: string): Promise<string> {
    const done = await this.baskets.send('demo', basket, percent, pace, id);
    await this.settled();
    return done.ok ? done.value.run.id : refusedAs(done);
  }
}

const row = (id: string, more: Partial<BasketRow>): BasketRow => ({
  id,
  account: 'MAIN',
  instrument: 'GANET.HALM',
  side: 'buy',
  type: 'limit',
  quantity: '100',
  ...more,
});
const basketOf = (...rows: BasketRow[]): Basket => ({ name: 'a', rows, version: 1, key: 'k' });

const TAPE = [
  ...['GANET.HALM', 'BRINE.HALM'].flatMap((id) => [
    `09:00:00.000 ${id} level bid 41.18 500`,
    `09:00:00.000 ${id} level ask 41.20 300`,
    `09:00:00.000 ${id} level ask 41.21 400`,
    `09:00:00.000 ${id} trade buy 41.20 10`,
  ]),
  '09:00:03.000 GANET.HALM trade sell 41.10 40',
  '09:00:05.000 BRINE.HALM trade sell 41.10 60',
  '09:00:07.000 GANET.HALM trade sell 41.05 500',
  '09:00:09.000 GANET.HALM level bid 41.18 500',
  '09:00:09.000 BRINE.HALM level bid 41.18 500',
].sort();

const shown = async (shop: Shop, id: string): Promise<string[]> =>
  (await presentRun(shop.world.desk, shop.run(id))).rows.map(({ id: name, state, filled, asked }) => `${name} ${state} ${filled}/${asked}`);

describe('runs of baskets', () => {
  const open: Shop[] = [];
  const shopOn = async (tape = TAPE): Promise<Shop> => {
    const shop = await Shop.open(await World.open(tape));
    open.push(shop);
    await shop.to('09:00:01.000');
    return shop;
  };
  afterEach(async () => {
    for (const shop of open.splice(0)) await shop.world.close();
  });

  it('send a part, then the rest, and say what nothing is left of', async () => {
    const shop = await shopOn();
    const basket = basketOf(row('a', { type: 'market' }), row('b', { limitPrice: '41.10' }), row('c', { type: 'market', quantity: '1' }));
    const first = await shop.send(basket, '40', 'at-once', 'one');
    expect(await shown(shop, first)).to.deep.equal(['a filled 40/40', 'b new 0/40', 'c skipped 0/0']);
    const second = await shop.send(basket, '100', 'at-once', 'two');
    expect(await shown(shop, second)).to.deep.equal(['a filled 60/60', 'b new 0/60', 'c filled 1/1']);
    expect(await shown(shop, await shop.send(basket, '100', 'at-once', 'three'))).to.deep.equal(['a skipped 0/0', 'b skipped 0/0', 'c skipped 0/0']);
  });

  it('one by one wait for the order before, stand still while paused, and go on where they were', async () => {
    const shop = await shopOn();
    const id = await shop.send(basketOf(row('a', { limitPrice: '41.10', quantity: '30' }), row('b', { type: 'market' })), '100', 'one-by-one', 'one');
    expect(await shown(shop, id)).to.deep.equal(['a new 0/30', 'b waiting 0/100']);
    await shop.baskets.pause(shop.run(id));
    await shop.to('09:00:04.000');
    expect(await shown(shop, id)).to.deep.equal(['a filled 30/30', 'b waiting 0/100']);
    await shop.baskets.resume(shop.run(id));
    await shop.settled();
    expect([await shown(shop, id), shop.run(id).state]).to.deep.equal([['a filled 30/30', 'b filled 100/100'], 'done']);
  });

  it('cancelled half-way turn round what was filled, once the cancels are confirmed', async () => {
    const shop = await shopOn();
    const id = await shop.send(basketOf(row('a', { limitPrice: '41.10' }), row('b', { type: 'market' })), '100', 'at-once', 'one');
    await shop.to('09:00:04.000');
    expect(await shown(shop, id)).to.deep.equal(['a partially-filled 40/100', 'b filled 100/100']);
    await shop.baskets.cancel(shop.run(id), true);
    await shop.settled();
    expect(await shown(shop, id)).to.deep.equal(['a canceled 40/100', 'b filled 100/100']);
    const position = await shop.world.position('MAIN');
    expect(position.quantity).to.equal('0');
    expect(refusedAs(await shop.baskets.cancel(shop.run(id), false))).to.equal('409');
  });

  it('go on after a refused row, and say why it was', async () => {
    const shop = await shopOn();
    const id = await shop.send(basketOf(row('a', { quantity: '900000', limitPrice: '41.10' }), row('b', { type: 'market' })), '100', 'at-once', 'one');
    expect(await shown(shop, id)).to.deep.equal(['a refused 0/900000', 'b filled 100/100']);
    expect(shop.run(id).rows[0]?.reason).to.match(/It needs/);
  });

  it('asked for again by the same id are the same run, and by other content are refused', async () => {
    const shop = await shopOn();
    const basket = basketOf(row('a', { type: 'market' }));
    expect(await shop.send(basket, '50', 'at-once', 'one')).to.equal(await shop.send(basket, '50.0', 'at-once', 'one'));
    expect(await shop.send(basket, '60', 'at-once', 'one')).to.equal('409');
  });

  it('send no row twice and lose none, whatever is killed, paused, cut off or cancelled meanwhile', async function () {
    this.timeout(600_000);
    const step = fc.oneof(
      { weight: 4, arbitrary: fc.record({ act: fc.constant('send' as const), percent: fc.constantFrom('30', '50', '100'), oneByOne: fc.boolean() }) },
      { weight: 4, arbitrary: fc.record({ act: fc.constant('time' as const), ms: fc.integer({ min: 100, max: 2500 }) }) },
      {
        weight: 5,
        arbitrary: fc.record({
          act: fc.constantFrom('pause' as const, 'resume' as const, 'cancel' as const, 'turn' as const, 'kill' as const, 'down' as const, 'up' as const),
        }),
      },
    );
    const rows = fc.array(
      fc.record({
        instrument: fc.constantFrom('GANET.HALM', 'BRINE.HALM'),
        side: fc.constantFrom('buy' as const, 'sell' as const),
        market: fc.boolean(),
        quantity: fc.integer({ min: 1, max: 300 }),
      }),
      { minLength: 1, maxLength: 5 },
    );
    await fc.assert(
      fc.asyncProperty(rows, fc.array(step, { minLength: 2, maxLength: 12 }), fc.boolean(), async (given, steps, killAtOnce) => {
        const basket = basketOf(
          ...given.map(({ instrument, side, market, quantity }, i) =>
            row(`r${i}`, {
              instrument,
              side,
              quantity: String(quantity),
              ...(market ? { type: 'market' } : { limitPrice: side === 'buy' ? '41.10' : '41.30' }),
            }),
          ),
        );
        let shop = await Shop.open(await World.open(TAPE));
        let now = Date.parse('2026-03-02T09:00:01.000Z');
        await shop.world.desk.advance(now);
        for (const [i, one] of steps.entries()) {
          const [live] = shop.baskets.of('demo', 'a').filter(({ state }) => state === 'sending' || state === 'paused');
          switch (one.act) {
            case 'send':
              if (killAtOnce) void shop.baskets.send('demo', basket, one.percent, one.oneByOne ? 'one-by-one' : 'at-once', `c${i}`).catch(() => undefined);
              else await shop.send(basket, one.percent, one.oneByOne ? 'one-by-one' : 'at-once', `c${i}`);
              break;
            case 'time':
              await shop.world.desk.advance((now += one.ms));
              break;
            case 'pause':
            case 'resume':
              if (live) await shop.baskets[one.act](live);
              break;
            case 'cancel':
            case 'turn':
              if (live) await shop.baskets.cancel(live, one.act === 'turn');
              break;
            case 'kill':
              shop = await shop.kill();
              break;
            case 'down':
            case 'up':
              await shop.world.desk.setLink({ broker: one.act });
              break;
            default:
              one satisfies never;
          }
        }
        await shop.world.desk.setLink({ broker: 'up' });
        for (const live of shop.baskets.of('demo', 'a')) if (live.state === 'paused') await shop.baskets.resume(live);
        await shop.world.desk.advance(now + 10_000);
        await shop.settled();
        await check(shop, basket);
        await shop.world.close();
      }),
      { numRuns: RUNS },
    );
  });
});

/** Each row went once, no more of it than there is, and what a run says is what its fills say. */
async function check(shop: Shop, basket: Basket): Promise<void> {
  const orders = await shop.world.orders();
  const fills = await shop.world.fills();
  const names = orders.map(({ clientOrderId }) => clientOrderId);
  expect(new Set(names).size, 'no name twice').to.equal(names.length);
  const sent = new Map<string, number>();
  const told = new Set<string>();
  for (const run of shop.baskets.of('demo', 'a')) {
    const { rows, progress } = await presentRun(shop.world.desk, run);
    for (const [i, one] of rows.entries()) {
      const own = orders.filter(({ clientOrderId }) => clientOrderId === `kavix.${run.id}.${i}`);
      expect(
        own.map(({ id }) => id),
        `${run.id} ${one.id}`,
      ).to.deep.equal(one.orderId === null ? [] : [one.orderId]);
      const filled = fills.filter(({ orderId }) => orderId === one.orderId).reduce((sum, { quantity }) => sum + quantity, 0);
      expect(Number(one.filled), one.id).to.equal(filled);
      expect(filled, one.id).to.be.at.most(Number(one.asked));
      if (one.orderId !== null) sent.set(one.id, (sent.get(one.id) ?? 0) + Number(one.asked));
      for (const id of [one.orderId, one.reverseOrderId]) if (id !== null) told.add(id);
      if (one.reverseOrderId !== null) expect(orders.find(({ id }) => id === one.reverseOrderId)?.terms.quantity, one.id).to.equal(filled);
      if (run.state === 'canceled') expect(one.state, `${run.id} ${one.id}`).to.be.oneOf(['canceled', 'filled', 'skipped', 'refused', 'rejected']);
    }
    expect(progress.orders.done).to.be.at.most(progress.orders.all);
  }
  for (const { id, quantity } of basket.rows) expect(sent.get(id) ?? 0, id).to.be.at.most(Number(quantity));
  expect(
    orders.map(({ id }) => id).filter((id) => !told.has(id)),
    'no order that no run knows',
  ).to.deep.equal([]);
}
