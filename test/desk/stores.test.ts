import { expect } from 'chai';
import type { Sequelize } from 'sequelize';
import type { OrderState } from '../../src/core/orders/index.ts';
import { rowHash, FIRST_HASH } from '../../src/desk/journal.ts';
import { verifyLog } from '../../src/desk/ledger.ts';
import type { DeskStore, LogRow } from '../../src/desk/store.ts';
import { openDatabase } from '../../src/store/database.ts';
import { DeskStore as SqlDeskStore } from '../../src/store/desk/desk-store.ts';
import { DESK_MIGRATIONS, TABLE_MIGRATIONS } from '../../src/store/desk/migrations.ts';
import { dropFolder, newFolder } from '../support/server.ts';
import { MemoryDeskStore } from '../support/stores.ts';

interface Opened {
  readonly store: DeskStore;
  close(): Promise<void>;
}

const KINDS: readonly [name: string, open: () => Promise<Opened>][] = [
  ['in memory', () => Promise.resolve({ store: new MemoryDeskStore(), close: () => Promise.resolve() })],
  [
    'in SQLite',
    async () => {
      const folder = newFolder();
      const open: Sequelize[] = [
        await openDatabase(folder, 'desk.sqlite', DESK_MIGRATIONS),
        await openDatabase(folder, 'tables.sqlite', TABLE_MIGRATIONS, 'NORMAL'),
      ];
      const store = new SqlDeskStore<OrderState>(open[0] as Sequelize, open[1] as Sequelize);
      const close = async (): Promise<void> => {
        await Promise.all(open.map((one) => one.close()));
        dropFolder(folder);
      };
      return { store, close };
    },
  ],
];

function rows(count: number, from = 1, hash = FIRST_HASH): LogRow[] {
  const made: LogRow[] = [];
  let before = hash;
  for (let seq = from; seq < from + count; seq++) {
    const account = seq % 3 === 0 ? null : seq % 2 ? 'MAIN' : 'OTHER';
    const instrument = seq % 2 ? 'GANET.HALM' : null;
    const row = {
      seq,
      time: seq * 10,
      account,
      by: 'user',
      kind: 'note',
      instrument,
      orderId: `o-${seq % 4}`,
      causedBy: null,
      text: `it's "${seq}"`,
      data: '{"kind":"note"}',
      history: seq % 5 === 0 ? '{}' : null,
      version: 2,
    };
    before = rowHash(before, row);
    made.push({ ...row, hash: before });
  }
  return made;
}

for (const [name, open] of KINDS)
  describe(`the desk's store ${name}`, () => {
    let opened: Opened;
    let store: DeskStore;
    beforeEach(async () => {
      opened = await open();
      ({ store } = opened);
    });
    afterEach(() => opened.close());

    const seqs = (found: readonly { seq: number }[]): number[] => found.map(({ seq }) => seq);

    it('appends rows and gives them back as they were, exact to the last character', async () => {
      expect(await store.last()).to.deep.include({ seq: 0, hash: FIRST_HASH });
      const written = rows(5);
      await store.append(written.slice(0, 2));
      await store.append(written.slice(2));
      expect(await store.readAfter(0, 10)).to.deep.equal(written);
      expect(seqs(await store.readAfter(2, 2))).to.deep.equal([3, 4]);
      expect((await store.last()).hash).to.equal(written[4]?.hash);
      expect(await verifyLog(store)).to.equal(5);
    });

    it('pages entries oldest first: of accounts and of none, after a number, before one, or the newest', async () => {
      await store.append(rows(20));
      expect(seqs(await store.entries({ accounts: ['MAIN'], limit: 4 }))).to.deep.equal([15, 17, 18, 19]);
      expect(seqs(await store.entries({ accounts: ['MAIN'], before: 15, limit: 3 }))).to.deep.equal([11, 12, 13]);
      expect(seqs(await store.entries({ accounts: ['MAIN'], after: 15, limit: 2 }))).to.deep.equal([17, 18]);
      expect(seqs(await store.entries({ accounts: ['MAIN', 'OTHER'], orderId: 'o-1', limit: 3 }))).to.deep.equal([9, 13, 17]);
      expect(seqs(await store.entries({ accounts: ['MAIN'], instrument: 'GANET.HALM', limit: 2 }))).to.deep.equal([17, 19]);
      expect(seqs(await store.entries({ accounts: ['MAIN', 'OTHER'], withHistory: true, limit: 9 }))).to.deep.equal([5, 10, 15, 20]);
    });

    it('keeps tables: writing a batch twice changes nothing, a newer state replaces the older', async () => {
      const order = { id: 'MAIN-1', seq: 1, account: 'MAIN', instrument: 'GANET.HALM', state: 'new', done: false, groupId: null, value: '{}' } as const;
      const fill = { id: 'f', seq: 2, account: 'MAIN', instrument: 'GANET.HALM', orderId: 'MAIN-1', value: '{"a":1}' };
      const asked = { account: 'MAIN', clientOrderId: "it's", orderId: 'MAIN-1', content: 'x' };
      const batch = { upTo: 2, hash: 'h', orders: [order], fills: [fill], asked: [asked] };
      await store.project(batch);
      await store.project({ ...batch, upTo: 3, orders: [{ ...order, state: 'filled', done: true, value: '{"n":2}' }] });
      expect(await store.watermark()).to.deep.include({ seq: 3, hash: 'h' });
      const found = await store.order('MAIN-1');
      expect([found?.state, Boolean(found?.done), found?.value]).to.deep.equal(['filled', true, '{"n":2}']);
      expect((await store.fills({ accounts: ['MAIN'], limit: 10 })).length).to.equal(1);
      expect(await store.asked('MAIN', "it's")).to.deep.include({ orderId: 'MAIN-1', content: 'x' });
      expect(await store.asked('OTHER', "it's")).to.equal(null);
      expect((await store.orders({ accounts: ['MAIN'], done: false, limit: 10 })).length).to.equal(0);
      expect((await store.orders({ accounts: ['MAIN'], state: 'filled', instrument: 'GANET.HALM', limit: 10 })).length).to.equal(1);
      await store.clearTables();
      expect([await store.order('MAIN-1'), (await store.watermark()).seq]).to.deep.equal([null, 0]);
    });

    it('finds the fills of orders however many came after them', async () => {
      const fill = (seq: number, orderId: string) => ({ id: `f${seq}`, seq, account: 'MAIN', instrument: 'GANET.HALM', orderId, value: '{}' });
      const later = Array.from({ length: 1200 }, (_, i) => fill(i + 3, 'MAIN-9'));
      await store.project({ upTo: 1300, hash: 'h', orders: [], fills: [fill(1, 'MAIN-1'), fill(2, 'MAIN-2'), ...later], asked: [] });
      const found = await store.fills({ accounts: ['MAIN'], orderIds: ['MAIN-1', 'MAIN-2'], limit: Infinity });
      expect(found.map(({ id }) => id)).to.deep.equal(['f1', 'f2']);
      expect((await store.fills({ accounts: ['MAIN'], limit: Infinity })).length).to.equal(1202);
      expect(await store.fills({ accounts: ['OTHER'], orderIds: ['MAIN-1'], limit: Infinity })).to.deep.equal([]);
    });

    it('pages the client order ids of an account, each once', async () => {
      const named = ['b', 'a-10', "it's", 'a-9', 'Ä', 'a'];
      const asked = named.map((clientOrderId, i) => ({ account: i === 3 ? 'OTHER' : 'MAIN', clientOrderId, orderId: `MAIN-${i}`, content: 'x' }));
      await store.project({ upTo: 3, hash: 'h', orders: [], fills: [], asked });
      const paged: string[] = [];
      for (let names = ['']; names.length > 0; paged.push(...names)) names = await store.askedAfter('MAIN', names.at(-1) as string, 2);
      expect(paged.sort()).to.deep.equal(named.filter((name) => name !== 'a-9').sort());
      expect(await store.askedAfter('OTHER', '', 9)).to.deep.equal(['a-9']);
    });

    it('keeps one snapshot an account, the newest', async () => {
      await store.saveSnapshot({ account: 'MAIN', seq: 4, version: 2, state: '{}' });
      await store.saveSnapshot({ account: 'MAIN', seq: 9, version: 2, state: '{"x":1}' });
      expect((await store.snapshots()).map(({ account, seq, state }) => [account, seq, state])).to.deep.equal([['MAIN', 9, '{"x":1}']]);
    });
  });

describe('a log that was changed by other hands', () => {
  it('is known by its hashes, and the first entry that is not what was written is named', async () => {
    const store = new MemoryDeskStore();
    await store.append(rows(6));
    store.rows[3] = { ...(store.rows[3] as LogRow), text: 'something else' };
    const error = await verifyLog(store).then(
      () => null,
      (problem: Error) => problem.message,
    );
    expect(error).to.contain('entry 4 is not what was written');
  });
});
