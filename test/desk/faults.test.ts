import { expect } from 'chai';
import fc from 'fast-check';
import { isFinished } from '../../src/core/orders/index.ts';
import { entryHash } from '../../src/desk/journal.ts';
import type { Desk } from '../../src/desk/desk.ts';
import { toJson } from '../../src/store/json.ts';
import type { BrokerReport } from '../../src/venue/messages.ts';
import { MemoryStore, openDesk, request, type DirectLink } from '../support/desk.ts';
import { at, exchangeOf } from '../support/world.ts';

const MARKET = ['09:00:00.000 GANET.HALM state open', '09:00:00.000 GANET.HALM level bid 41.18 5000', '09:00:00.000 GANET.HALM level ask 41.20 5000'];

/** What the desk and the broker each believe, in the parts that must agree. */
function agree(desk: Desk, exchange: ReturnType<typeof exchangeOf>): void {
  for (const [id, state] of desk.accounts) {
    const theirs = exchange.broker.books.get(id);
    expect(state.book.cash, `${id} cash`).to.equal(theirs?.cash);
    expect(Object.values(state.book.positions).map((p) => [p.instrument, p.quantity, p.cost])).to.deep.equal(
      Object.values(theirs?.positions ?? {}).map((p) => [p.instrument, p.quantity, p.cost]),
    );
    for (const order of state.orders.values()) {
      const there = exchange.broker.orders.get(order.id)?.order;
      expect(there, `${order.id} at the broker`).to.not.equal(undefined);
      expect([order.filledQuantity, order.quantity, isFinished(order)], order.id).to.deep.equal([
        there?.filledQuantity,
        there?.quantity,
        there ? isFinished(there) : null,
      ]);
    }
  }
}

const step = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('place' as const),
      side: fc.constantFrom('buy' as const, 'sell' as const),
      ticks: fc.integer({ min: -4, max: 4 }),
      quantity: fc.integer({ min: 1, max: 40 }),
    }),
  },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('replace' as const), which: fc.nat(8), ticks: fc.integer({ min: -4, max: 4 }) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('cancel' as const), which: fc.nat(8) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('flatten' as const) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('repeat' as const), which: fc.nat(8) }) },
);
/** `deaf`: what is sent is lost, as when the program dies between commit and send. */
const fault = fc.record({ how: fc.constantFrom(null, null, 'lost' as const, 'unanswered' as const, 'deaf' as const), diesAfter: fc.boolean() });

/** How often the model is run; the long run asks for more. */
const RUNS = Number(process.env['KAVIX_RUNS'] ?? 150);

describe('a desk that may fail between any two steps', function () {
  this.timeout(Number.MAX_SAFE_INTEGER);

  it('loses no acknowledged order, doubles none, and agrees with the broker after it starts again', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(step, fault), { minLength: 1, maxLength: 14 }), async (steps) => {
        const exchange = exchangeOf(MARKET);
        exchange.run(at('09:00:00.500'));
        const store = new MemoryStore();
        const told: BrokerReport[] = [];
        let { desk, link }: { desk: Desk; link: DirectLink } = await openDesk(exchange, store, told);
        const acknowledged = new Map<string, string>();
        const sent: ReturnType<typeof request>[] = [];
        const restart = async (): Promise<void> => {
          store.fault = () => null;
          desk.feed.stop();
          desk.market.stop();
          ({ desk, link } = await openDesk(exchange, store, told));
        };
        for (const [what, { how, diesAfter }] of steps) {
          let struck = false;
          store.fault = () => {
            if (struck || how === null || how === 'deaf') return null;
            struck = true;
            return how;
          };
          link.deaf = how === 'deaf';
          const ids = [...desk.account('MAIN').orders.keys()];
          if (what.do === 'place' || what.do === 'repeat') {
            const asked =
              what.do === 'repeat'
                ? sent[what.which]
                : request({ side: what.side, limitPrice: ((4119 + what.ticks) / 100).toFixed(2), quantity: String(what.quantity), reduceOnly: false });
            if (!asked) continue;
            sent.push(asked);
            const placed = await desk.place(asked);
            if (placed.ok) {
              const before = acknowledged.get(asked.clientOrderId);
              if (before !== undefined) expect(placed.value.order.id).to.equal(before);
              acknowledged.set(asked.clientOrderId, placed.value.order.id);
            }
          } else if (what.do === 'flatten') await desk.flatten('MAIN', null);
          else {
            const id = ids[what.which % Math.max(1, ids.length)];
            if (id === undefined) continue;
            if (what.do === 'replace') await desk.replace(id, 'MAIN', { limitPrice: ((4119 + what.ticks) / 100).toFixed(2) });
            else await desk.cancel(id, 'MAIN');
          }
          if (how === 'deaf' || diesAfter) await restart();
        }
        await restart();
        await desk.settled();
        agree(desk, exchange);
        for (const [clientOrderId, id] of acknowledged) {
          const state = desk.account('MAIN');
          expect(state.byClientOrderId.get(clientOrderId), clientOrderId).to.equal(id);
          expect([...state.orders.values()].filter((order) => order.clientOrderId === clientOrderId)).to.have.length(1);
        }
        expect(new Set([...exchange.broker.orders.values()].map(({ order }) => order.clientOrderId)).size).to.equal(exchange.broker.orders.size);
        expect(store.entries.filter((entry) => entry.data.kind === 'difference')).to.deep.equal([]);
        let hash = '0'.repeat(64);
        for (const entry of store.entries) {
          hash = entryHash(hash, entry, toJson);
          expect(entry.hash, `entry ${entry.seq}`).to.equal(hash);
        }
        desk.feed.stop();
        desk.market.stop();
      }),
      { numRuns: RUNS },
    );
  });

  it('rebuilds the same state from a snapshot and the entries after it as from all entries', async () => {
    const exchange = exchangeOf(MARKET);
    exchange.run(at('09:00:00.500'));
    const store = new MemoryStore();
    const { desk, link } = await openDesk(exchange, store);
    for (let i = 0; i < 5; i++) await desk.place(request({ quantity: String(10 + i) }));
    await desk.close();
    await desk.place(request({ quantity: '7' }));
    await desk.settled();
    const whole = new MemoryStore();
    whole.entries = store.entries;
    const a = await openDesk(exchange, store, link.told);
    const b = await openDesk(exchange, whole, link.told);
    expect(toJson([...a.desk.account('MAIN').orders.values()])).to.equal(toJson([...b.desk.account('MAIN').orders.values()]));
    expect(toJson(a.desk.account('MAIN').book)).to.equal(toJson(b.desk.account('MAIN').book));
    for (const one of [a.desk, b.desk]) {
      one.feed.stop();
      one.market.stop();
    }
  });

  it('says that nothing was kept when the log can’t be written', async () => {
    const exchange = exchangeOf(MARKET);
    exchange.run(at('09:00:00.500'));
    const { desk, store } = await openDesk(exchange);
    store.fault = () => 'lost';
    const placed = await desk.place(request());
    expect(placed.ok || placed.refusal.kind).to.equal('unavailable');
    expect(desk.account('MAIN').orders.size).to.equal(0);
    store.fault = () => null;
    expect((await desk.place(request())).ok).to.equal(true);
    desk.feed.stop();
    desk.market.stop();
  });
});
