import { expect } from 'chai';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { demoWorld } from '../../demo/universe.ts';
import { statement, CashBook } from '../../src/core/backoffice/index.ts';
import { foldEntry, newAccountState, type AccountState, type Entry, type Working } from '../../src/core/desk/index.ts';
import type { Instrument } from '../../src/core/instrument/index.ts';
import { parseDay, previousTradingDay, type Day } from '../../src/core/market/index.ts';
import { formatMoney } from '../../src/core/number/index.ts';
import { openAccount } from '../../src/core/portfolio/index.ts';
import { RoundTrips } from '../../src/core/review/index.ts';
import { demoPast, type DemoPast } from '../../src/start/past/index.ts';

const SEED = 3;
const FIXED = new Set(FIXED_INSTRUMENTS.map(({ id }) => id));
const FIRST = parseDay('2026-03-02');

interface Folded {
  readonly state: AccountState;
  readonly trips: RoundTrips;
  readonly cash: CashBook;
}

describe('the past of a new demo world', () => {
  const world = demoWorld(SEED);
  const instruments = new Map(world.profiles.map(({ instrument }) => [instrument.id, instrument]));
  const instrumentOf = (id: string): Instrument => instruments.get(id) as Instrument;
  let past: DemoPast;
  const folded = new Map<string, Folded>();

  before(function () {
    this.timeout(60_000);
    past = demoPast(world, SEED, ACCOUNTS, FIXED, 'demo');
    for (const terms of ACCOUNTS)
      folded.set(terms.id, { state: newAccountState(terms), trips: new RoundTrips(instrumentOf), cash: new CashBook(terms, instrumentOf) });
    const orders = new Map<string, Working>();
    for (const entry of past.entries as Entry[]) {
      const { state, trips, cash } = folded.get(entry.account ?? '') as Folded;
      const before = state.book;
      const touched = foldEntry(state, entry, { instrument: instrumentOf, past: (id) => orders.get(id) ?? null });
      for (const working of touched.orders) orders.set(working.order.id, working);
      trips.take(entry, touched, state);
      cash.take(entry, touched, before, state);
    }
  });

  const of = (account: string): Folded => folded.get(account) as Folded;

  it('leaves each account with the cash it begins with, and the broker with the same book as its activity', () => {
    for (const terms of ACCOUNTS.filter(({ user }) => user === 'demo')) {
      const { state } = of(terms.id);
      const held = past.held.find(({ book }) => book.account === terms.id);
      expect(state.book, terms.id).to.deep.equal(held?.book);
      expect([held?.seq, held?.forgotten, held?.highest], terms.id).to.deep.equal([state.lastReport, state.lastReport, state.count]);
      expect(state.book.cash, terms.id).to.equal(terms.cash);
      for (const wallet of openAccount(terms).wallets) expect(state.book.wallets, terms.id).to.deep.include(wallet);
      expect([...state.working.keys()], terms.id).to.deep.equal([]);
    }
    expect(past.held.some(({ book }) => book.account === 'OTHER')).to.equal(false);
  });

  it('is flat but for holdings of MAIN in six sectors, all settled, none of them of the fixed world', () => {
    const open = [...folded].flatMap(([account, { state }]) => Object.values(state.book.positions).map(({ instrument }) => ({ account, instrument })));
    expect(open.map(({ account }) => account)).to.deep.equal(Array(6).fill('MAIN'));
    expect(new Set(open.map(({ instrument }) => instrumentOf(instrument).sector)).size).to.equal(6);
    expect(of('MAIN').state.book.unsettled).to.deep.equal([]);
    expect(past.entries.some(({ instrument }) => instrument !== null && FIXED.has(instrument))).to.equal(false);
  });

  it('has its habits, missed entries, stops that were moved, days ended by a rule, a lock, and money that came and went', () => {
    const setups = new Set([...folded.values()].flatMap(({ trips }) => trips.closed.map(({ setup }) => setup)));
    expect([...setups].sort()).to.deep.equal(['Evening dip', 'Opening break', 'Pair', 'Pullback']);
    expect(of('MAIN').trips.missed.length).to.be.above(3);
    expect(past.entries.filter(({ data }) => data.kind === 'replace-requested').length).to.be.above(3);
    const said = past.entries.filter(({ data }) => data.kind === 'risk').map(({ text }) => text);
    expect(said.filter((text) => text.startsWith('Day limit reached'))).to.have.length(2);
    expect(said.filter((text) => text.includes('locked until'))).to.have.length(1);
    expect([...of('MAIN').state.cash.values()].map(({ request }) => `${request.kind} ${formatMoney(request.amount, 'EUR')} ${request.state}`)).to.deep.equal([
      'deposit 50000.00 paid',
      'withdrawal 1500.00 paid',
    ]);
    expect([...of('MAIN').trips.marks.values()].some(({ note }) => (note ?? '') !== '')).to.equal(true);
  });

  it('lies in the sixty trading days before the first, in order, and in statements that chain', () => {
    const times = past.entries.map(({ time }) => time);
    expect(times).to.deep.equal([...times].sort((a, b) => a - b));
    const days: Day[] = [];
    for (let day = previousTradingDay('HALM', FIRST); days.length < 60; day = previousTradingDay('HALM', day)) days.unshift(day);
    for (const { trips } of folded.values()) for (const trip of trips.closed) expect(trip.openedAt / 86_400_000).to.be.within(days[0] ?? 0, FIRST);
    const { cash, state } = of('MAIN');
    const told = statement(state.terms, [...days, FIRST], cash.movements, cash.openedWith('EUR', 'cash'));
    for (const [i, { opening }] of told.entries()) if (i > 0) expect(opening).to.equal(told[i - 1]?.closing);
    expect(formatMoney(told[told.length - 1]?.closing ?? (0n as never), 'EUR')).to.equal('100000.00');
  });

  it('follows from the seed alone', function () {
    this.timeout(60_000);
    expect(demoPast(world, SEED, ACCOUNTS, FIXED, 'demo')).to.deep.equal(past);
  });
});
