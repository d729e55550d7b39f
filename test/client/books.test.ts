import { expect } from 'chai';
import fc from 'fast-check';
import type { ApiOrder } from '../../src/live/index.ts';
import { $orders, $working, isWorking, takeOrder, takeOrders } from '../../src/live/orders.ts';

const order = (n: number, account: string, instrument: string, state: string): ApiOrder =>
  ({ id: `o${n}`, account, instrument, state, createdAt: new Date(1_000 * n).toISOString() }) as unknown as ApiOrder;

/** What the books should hold, looked through from end to end. */
const plainly = (): Record<string, string[]> => {
  const found: Record<string, string[]> = {};
  const all = [...$orders.get().all.values()].filter(isWorking).sort((a, b) => (a.createdAt < b.createdAt ? -1 : 1)); // prettier-ignore
  for (const { account, instrument, id } of all) (found[`${account} ${instrument}`] ??= []).push(id);
  return found;
};
const kept = (): Record<string, string[]> =>
  Object.fromEntries(Object.entries($working.get()).flatMap(([key, orders]) => (orders.length > 0 ? [[key, orders.map(({ id }) => id)]] : [])));

describe('the books of orders', () => {
  it('hold by account and instrument just what works, after any snapshots and changes', () => {
    const one = fc
      .tuple(fc.integer({ min: 1, max: 12 }), fc.constantFrom('MAIN', 'EVAL'), fc.constantFrom('pending-new', 'new', 'partially-filled', 'filled', 'canceled'))
      .map(([n, account, state]) => order(n, account, n % 2 ? 'GANET.HALM' : 'KELPA.HALM', state));
    const step = fc.oneof(
      one.map((change) => ({ change })),
      fc.uniqueArray(one, { selector: ({ id }) => id, maxLength: 8 }).map((snapshot) => ({ snapshot })),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 30 }), (steps) => {
        takeOrders([]);
        const accounts = new Map<string, string>();
        for (const it of steps) {
          if ('snapshot' in it) {
            accounts.clear();
            for (const { id, account } of it.snapshot) accounts.set(id, account);
            takeOrders(it.snapshot);
          } else {
            // An order never changes its account.
            const account = accounts.get(it.change.id) ?? it.change.account;
            accounts.set(it.change.id, account);
            takeOrder({ ...it.change, account });
          }
          expect(kept()).to.deep.equal(plainly());
        }
      }),
    );
  });

  it('tell those alone who follow the key that changed', () => {
    takeOrders([order(1, 'MAIN', 'GANET.HALM', 'new'), order(2, 'MAIN', 'KELPA.HALM', 'new')]);
    const before = $working.get()['MAIN KELPA.HALM'];
    takeOrder(order(3, 'MAIN', 'GANET.HALM', 'new'));
    expect($working.get()['MAIN KELPA.HALM']).to.equal(before);
    expect($working.get()['MAIN GANET.HALM']?.map(({ id }) => id)).to.deep.equal(['o1', 'o3']);
  });

  it('keep of a long day what works and the newest of what is done', () => {
    takeOrders([order(1, 'MAIN', 'GANET.HALM', 'new')]);
    for (let n = 2; n <= 12_000; n++) takeOrder(order(n, 'MAIN', 'GANET.HALM', 'filled'));
    const all = [...$orders.get().all.values()];
    expect(all.length).to.be.at.most(5501);
    expect(all.some(({ id }) => id === 'o1') && all.some(({ id }) => id === 'o12000')).to.equal(true);
    expect(all.some(({ id }) => id === 'o2')).to.equal(false);
    takeOrders([]);
  });
});
