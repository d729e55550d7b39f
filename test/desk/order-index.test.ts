import { expect } from 'chai';
import fc from 'fast-check';
import type { Order } from '../../src/core/orders/index.ts';
import { OrderIndex } from '../../src/venue/order-index.ts';

interface Held {
  readonly order: Order;
  readonly endsAt: number | null;
}

const order = fc.record({
  instrument: fc.constantFrom('GANET.HALM', 'KELPA.HALM'),
  account: fc.constantFrom('MAIN', 'EVAL'),
  reduceOnly: fc.boolean(),
  type: fc.constantFrom('limit', 'following'),
  endsAt: fc.option(fc.nat(6), { nil: null }),
});
const act = fc.oneof(
  { weight: 4, arbitrary: order.map((of) => ({ do: 'add' as const, of })) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('remove' as const), which: fc.nat(20) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('watch' as const), account: fc.constantFrom('MAIN', 'EVAL'), time: fc.nat(6) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('end' as const), time: fc.nat(7) }) },
);

describe('the broker’s index of working orders', () => {
  it('finds what a plain look through all of them finds, whatever came and went', () => {
    fc.assert(
      fc.property(fc.array(act, { maxLength: 40 }), (acts) => {
        const index = new OrderIndex();
        const held = new Map<string, Held>();
        let watched: { account: string; time: number }[] = [];
        const ids = (holds: (one: Held) => boolean): string[] => [...held.values()].filter(holds).map((one) => one.order.id);
        const drop = (id: string): void => {
          const one = held.get(id) as Held;
          index.remove(one.order, one.endsAt);
          held.delete(id);
        };
        for (const [i, one] of acts.entries()) {
          if (one.do === 'add') {
            const { type, endsAt, ...rest } = one.of;
            const made = { id: `o${i}`, ...rest, terms: { type } } as unknown as Order;
            index.add(made, endsAt);
            held.set(made.id, { order: made, endsAt });
          } else if (one.do === 'remove') {
            const [id] = [...held.keys()].slice(one.which % Math.max(1, held.size));
            if (id !== undefined) drop(id);
          } else if (one.do === 'watch') {
            index.watch({ account: one.account, instrument: 'HALM40-JUN26.HALM' }, one.time);
            if (!watched.some(({ account, time }) => account === one.account && time === one.time)) watched.push({ account: one.account, time: one.time });
          } else {
            const first = Math.min(...[...held.values()].map(({ endsAt }) => endsAt ?? Infinity), ...watched.map(({ time }) => time));
            const due = index.takeEnding(one.time);
            if (first > one.time) {
              expect(due).to.equal(null);
              continue;
            }
            const orders = ids(({ endsAt }) => endsAt === first);
            const positions = watched.filter(({ time }) => time === first).map(({ account }) => account);
            expect((due ?? []).flatMap((ending) => (typeof ending === 'string' ? ending : []))).to.have.members(orders);
            expect((due ?? []).flatMap((ending) => (typeof ending === 'string' ? [] : ending.account))).to.have.members(positions);
            watched = watched.filter(({ time }) => time !== first);
            // What has ended is taken out by whoever ends it.
            for (const id of orders) drop(id);
          }
          for (const instrument of ['GANET.HALM', 'KELPA.HALM']) {
            expect([...index.in(instrument)]).to.deep.equal(ids(({ order: of }) => of.instrument === instrument));
            expect(index.followingIn(instrument)).to.deep.equal(ids(({ order: of }) => of.instrument === instrument && of.terms.type === 'following'));
            expect(index.reducingIn('MAIN', instrument)).to.deep.equal(
              ids(({ order: of }) => of.instrument === instrument && of.account === 'MAIN' && of.reduceOnly),
            );
          }
          expect([...index.instruments()].sort()).to.deep.equal([...new Set([...held.values()].map(({ order: of }) => of.instrument))].sort());
        }
      }),
    );
  });

  it('knows a group by its orders, done ones too, until they are forgotten', () => {
    const index = new OrderIndex();
    for (const id of ['a', 'b']) index.join('g1', id);
    index.join('g2', 'c');
    expect([index.ofGroup('g1'), index.ofGroup('g2'), index.ofGroup('g3')]).to.deep.equal([['a', 'b'], ['c'], []]);
    index.leave('g1', 'a');
    index.leave('g3', 'a');
    expect(index.ofGroup('g1')).to.deep.equal(['b']);
  });
});
