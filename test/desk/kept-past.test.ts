import { expect } from 'chai';
import type { Sequelize } from 'sequelize';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { demoWorld } from '../../demo/universe.ts';
import { CashBook, Lots, statement } from '../../src/core/backoffice/index.ts';
import { foldEntry, newAccountState, type Entry, type Working } from '../../src/core/desk/index.ts';
import type { Instrument } from '../../src/core/instrument/index.ts';
import { parseDay, previousTradingDay, tradingDay, type Day } from '../../src/core/market/index.ts';
import { RoundTrips, type RoundTrip } from '../../src/core/review/index.ts';
import { Past, type PastMark, type PastRow, type PastStore } from '../../src/desk/review/past.ts';
import { demoPast } from '../../src/start/past/index.ts';
import { openDatabase } from '../../src/store/database.ts';
import { TABLE_MIGRATIONS } from '../../src/store/desk/migrations.ts';
import { PastStore as SqlPastStore } from '../../src/store/desk/past-store.ts';
import { dropFolder, newFolder } from '../support/server.ts';

const SEED = 3;
const ALL = ['MAIN', 'EVAL', 'NIGHT'];
const TODAY = parseDay('2026-03-02');

/** What may go wrong with a write: it is lost, or done and not answered. */
type Fault = 'lost' | 'unanswered' | null;

/** The program's own store, of which writes can fail. */
class Failing implements PastStore {
  fault: () => Fault = () => null;
  written = 0;
  private readonly store: PastStore;

  constructor(store: PastStore) {
    this.store = store;
  }

  mark = (): Promise<PastMark | null> => this.store.mark();
  find: PastStore['find'] = (query) => this.store.find(query);
  cutAfter = (seq: number): Promise<void> => this.store.cutAfter(seq);

  async put(rows: readonly PastRow[], mark: PastMark | null): Promise<void> {
    const fault = this.fault();
    if (fault === 'lost') throw new Error('the disk said no');
    await this.store.put(rows, mark);
    this.written += rows.length;
    if (fault === 'unanswered') throw new Error('the answer was lost');
  }
}

describe('what accounts have been through, kept in tables', function () {
  this.timeout(60_000);
  const folder = newFolder();
  const world = demoWorld(SEED);
  const instruments = new Map(world.profiles.map(({ instrument }) => [instrument.id, instrument]));
  const instrumentOf = (id: string): Instrument => instruments.get(id) as Instrument;
  const accounts = new Map(ACCOUNTS.map((terms) => [terms.id, newAccountState(terms)]));
  const whole = new Map(
    ACCOUNTS.map((terms) => [
      terms.id,
      {
        state: newAccountState(terms),
        trips: new RoundTrips(instrumentOf),
        lots: new Lots(instrumentOf),
        cash: new CashBook(terms, instrumentOf),
        orders: new Map<string, Working>(),
      },
    ]),
  );
  let log: Entry[] = [];
  let database: Sequelize;
  let store: Failing;

  /** A desk whose log has come so far. */
  const deskAt = (upTo: number): ConstructorParameters<typeof Past>[0] => ({
    accounts,
    instrument: instrumentOf,
    entriesAfter: (seq, limit) => Promise.resolve(log.slice(Math.max(0, seq), Math.min(upTo, Math.max(0, seq) + limit))),
    workingOrPast: (id, account) => Promise.resolve(whole.get(account)?.orders.get(id) ?? null),
  });
  const kept = async (upTo = log.length): Promise<Past> => {
    const past = new Past(deskAt(upTo), store);
    await past.of('MAIN');
    return past;
  };
  const allTrips = async (past: Past): Promise<RoundTrip[]> => {
    const all: RoundTrip[] = [];
    for (const id of ALL) all.push(...(await past.trips(id)));
    return all;
  };
  const expectWhole = async (past: Past): Promise<void> => {
    for (const id of ALL) {
      const of = whole.get(id);
      expect(await past.trips(id), `round trips of ${id}`).to.deep.equal(of?.trips.closed);
      expect(await past.missed([id]), `missed of ${id}`).to.deep.equal(of?.trips.missed);
      const days = { from: TODAY - 200, to: TODAY };
      for (const method of ['fifo', 'average'] as const)
        expect(await past.closedLots(id, method, days), `${method} lots of ${id}`).to.deep.equal(of?.lots.closed[method]);
      expect((await past.of(id)).marks, `marks of ${id}`).to.deep.equal(of?.trips.marks);
      expect((await past.of(id)).state.book, `book of ${id}`).to.deep.equal(of?.state.book);
    }
  };

  before(async () => {
    const { entries } = demoPast(world, SEED, ACCOUNTS, new Set(FIXED_INSTRUMENTS.map(({ id }) => id)), 'demo');
    log = entries.map((draft, i) => ({ ...draft, seq: i + 1, causedBy: null, hash: `h${i + 1}` }));
    for (const entry of log) {
      const of = whole.get(entry.account ?? '');
      if (!of) continue;
      const before = of.state.book;
      const touched = foldEntry(of.state, entry, { instrument: instrumentOf, past: (id) => of.orders.get(id) ?? null });
      for (const working of touched.orders) of.orders.set(working.order.id, working);
      of.trips.take(entry, touched, of.state);
      of.lots.take(entry, touched);
      of.cash.take(entry, touched, before, of.state);
    }
    database = await openDatabase(folder, 'tables.sqlite', TABLE_MIGRATIONS, 'NORMAL');
  });
  beforeEach(async () => {
    store = new Failing(new SqlPastStore(database));
    await store.cutAfter(0);
  });
  after(async () => {
    await database.close();
    dropFolder(folder);
  });

  it('is the same as all of it looked at at once', async () => {
    await expectWhole(await kept());
  });

  it('goes on after a start from where it was, wherever it was closed or killed', async () => {
    for (const [at, closed] of [
      [1, true],
      [777, true],
      [1900, false],
      [2311, true],
      [2312, false],
      [log.length - 1, true],
    ] as const) {
      const past = await kept(at);
      if (closed) await past.close();
    }
    await expectWhole(await kept());
  });

  it('goes through nothing again that it had written down', async () => {
    await (await kept()).close();
    const before = store.written;
    const past = await kept();
    await expectWhole(past);
    expect(store.written).to.equal(before);
    expect(await past.newTrips(), 'none of them is new').to.deep.equal([]);
  });

  it('loses nothing to a store that fails, and says that it can’t say just now', async () => {
    const faults: Fault[] = ['lost', 'unanswered', 'lost', null];
    store.fault = () => faults.shift() ?? null;
    const past = new Past(deskAt(log.length), store);
    for (let i = 0; i < 3; i++) {
      const failure = await allTrips(past).then(
        () => null,
        (error: Error) => error.name,
      );
      expect(failure).to.equal('TablesBehind');
    }
    await expectWhole(past);
  });

  it('is made anew where the log is another one than it was made of', async () => {
    await (await kept()).close();
    const own = log;
    log = own.slice(0, 900).map((entry, i) => ({ ...entry, hash: `other${i}` }));
    const other = await kept();
    expect((await allTrips(other)).length).to.be.below((whole.get('MAIN')?.trips.closed.length ?? 0) + 1);
    await other.close();
    log = own;
    await expectWhole(await kept());
  });

  it('drops what was written and lost its log again', async () => {
    await (await kept(1000)).close();
    await kept(2500);
    const own = log;
    log = own.slice(0, 1000);
    const past = await kept();
    const last = log[log.length - 1]?.time ?? 0;
    for (const trip of await allTrips(past)) expect(trip.closedAt).to.be.at.most(last);
    log = own;
    await expectWhole(await kept());
  });

  it('says of days what was then, statements with what there was before', async () => {
    const past = await kept();
    const { state, trips, cash } = whole.get('MAIN') as NonNullable<ReturnType<typeof whole.get>>;
    const days: Day[] = [];
    for (let day = previousTradingDay('HALM', TODAY); days.length < 60; day = previousTradingDay('HALM', day)) days.unshift(day);
    const all = statement(state.terms, days, cash.movements, cash.openedWith('EUR', 'cash'));
    for (const [first, count] of [
      [0, 60],
      [17, 1],
      [30, 12],
      [59, 1],
    ] as const) {
      const span = days.slice(first, first + count);
      expect(await past.statement('MAIN', span, 'EUR', 'cash')).to.deep.equal(all.slice(first, first + count));
    }
    const [from, to] = [days[20] as Day, days[29] as Day];
    const there = (time: number): boolean => tradingDay('HALM', time) >= from && tradingDay('HALM', time) <= to;
    const within = (await past.trips('MAIN')).filter(({ closedAt }) => there(closedAt));
    expect(within).to.deep.equal(trips.closed.filter(({ closedAt }) => there(closedAt)));
    expect(await past.statement('MAIN', [], 'EUR', 'cash')).to.deep.equal([]);
  });

  it('finds a round trip by its name, of the accounts that are asked for', async () => {
    const past = await kept();
    const [first] = whole.get('EVAL')?.trips.closed ?? [];
    expect(await past.trip(first?.id ?? '', ['EVAL'])).to.deep.equal(first);
    expect(await past.trip(first?.id ?? '', ['MAIN'])).to.equal(null);
  });
});
