import { expect } from 'chai';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { canonical } from '../../src/core/canonical.ts';
import { CashBook, placesOf } from '../../src/core/backoffice/index.ts';
import { foldEntry, newAccountState, type AccountState, type Entry, type Fill, type Working } from '../../src/core/desk/index.ts';
import { isRunning, legsOf, openOf, type RunningPlan } from '../../src/core/exits/index.ts';
import { isFinished, isHere, orderState, remainingQuantity, type Order } from '../../src/core/orders/index.ts';
import { tiedUp, type CashRequest } from '../../src/core/portfolio/index.ts';
import { verifyLog } from '../../src/desk/ledger.ts';
import { instrument, type World } from './world.ts';

/** What an account must hold after fills, worked out from them alone and in no other way than adding up. */
function fromFills(account: string, fills: readonly Fill[]): { cash: bigint; wallets: Record<string, bigint>; held: Record<string, number> } {
  const terms = ACCOUNTS.find((one) => one.id === account);
  if (!terms) throw new Error(`no account ${account}`);
  let cash: bigint = terms.cash;
  const wallets: Record<string, bigint> = Object.fromEntries(terms.wallets.map(({ asset, purpose, total }) => [`${purpose} ${asset}`, total]));
  const held: Record<string, number> = {};
  for (const fill of fills) {
    const of = instrument(fill.instrument);
    const signed = fill.side === 'buy' ? fill.quantity : 0 - fill.quantity;
    held[of.id] = (held[of.id] ?? 0) + signed;
    const value = BigInt(signed) * BigInt(fill.price) * BigInt(of.multiplier) * 10n ** BigInt(8 - of.priceDecimals - of.quantityDecimals);
    if (of.kind === 'spot') {
      wallets['spot EUR'] = (wallets['spot EUR'] ?? 0n) - value - fill.fee;
      const asset = `spot ${of.ticker.split('-')[0]}`;
      wallets[asset] = (wallets[asset] ?? 0n) + BigInt(signed) * 10n ** BigInt(8 - of.quantityDecimals);
    } else if (of.kind === 'future') cash += fill.realised - fill.fee;
    else cash -= value + fill.fee;
  }
  return { cash, wallets, held };
}

/** What a request for cash has moved by now: a withdrawal leaves at once, a deposit comes when it is paid. */
const movedBy = ({ kind, amount, state }: CashRequest): bigint =>
  kind === 'deposit' ? (state === 'paid' ? amount : 0n) : state === 'canceled' ? 0n : 0n - amount;

/** Realised P&L by first principles: what was sold less what was bought, where an instrument is flat in the end. */
function realisedWhenFlat(fills: readonly Fill[]): Map<string, { made: bigint; said: bigint; held: number }> {
  const sums = new Map<string, { made: bigint; said: bigint; held: number }>();
  for (const fill of fills) {
    const of = instrument(fill.instrument);
    const sum = sums.get(of.id) ?? { made: 0n, said: 0n, held: 0 };
    const signed = fill.side === 'buy' ? fill.quantity : 0 - fill.quantity;
    const value = BigInt(signed) * BigInt(fill.price) * BigInt(of.multiplier) * 10n ** BigInt(8 - of.priceDecimals - of.quantityDecimals);
    sums.set(of.id, { made: sum.made - value, said: sum.said + fill.realised, held: sum.held + signed });
  }
  return sums;
}

/** Judges a world that has come to rest: money from the fills alone, nothing pending, one truth here and at the broker. */
export async function judge(world: World): Promise<void> {
  const { desk, exchange } = world;
  const resized = resizedBy(await desk.entriesAfter(0, Number.MAX_SAFE_INTEGER));
  for (const [account, state] of desk.accounts) {
    const fills = await world.fills(account);
    expect(new Set(fills.map(({ id }) => id)).size, `${account}: every fill once`).to.equal(fills.length);
    const right = fromFills(account, fills);
    const requests = [...state.cash.values()].map(({ request }) => request);
    for (const { id, state: stands } of requests) expect(stands, `${id}: settled with the broker`).to.be.oneOf(['requested', 'paid', 'canceled']);
    const applications = [...state.applications.values()].map(({ application }) => application);
    const applied = applications.reduce((sum, one) => sum + tiedUp(instrument(one.issue), one), 0n);
    expect(state.book.applied ?? 0n, `${account}: tied up by applications`).to.equal(applied);
    expect(state.book.cash, `${account}: cash`).to.equal(right.cash - applied + requests.reduce((sum, request) => sum + movedBy(request), 0n));
    for (const { asset, purpose, total } of state.book.wallets)
      expect(total, `${account}: ${purpose} ${asset}`).to.equal(right.wallets[`${purpose} ${asset}`] ?? 0n);
    for (const [id, quantity] of Object.entries(right.held)) expect(state.book.positions[id]?.quantity ?? 0, `${account}: ${id}`).to.equal(quantity);
    for (const [id, { made, said, held }] of realisedWhenFlat(fills)) if (held === 0) expect(said, `${account}: realised in ${id}`).to.equal(made);
    for (const order of await world.orders(account)) {
      const filled = fills.filter(({ orderId }) => orderId === order.id);
      expect(order.filledQuantity, `${order.id}: filled`).to.equal(filled.reduce((sum, { quantity }) => sum + quantity, 0));
      expect(order.fees, `${order.id}: fees`).to.equal(filled.reduce((sum, { fee }) => sum + fee, 0n));
      expect(order.filledQuantity, `${order.id}: never more than asked`).to.be.at.most(order.terms.quantity);
      expect([order.pendingCancel, order.pendingReplace], `${order.id}: nothing stays pending`).to.deep.equal([null, null]);
      expect(orderState(order), `${order.id}: answered`).to.not.equal('pending-new');
    }
    const theirs = exchange.broker.status(account);
    expect(state.book.cash, `${account}: cash at the broker`).to.equal(theirs.book.cash);
    expect(canonical(applications), `${account}: applications agree`).to.equal(canonical(theirs.applications ?? []));
    for (const { order } of theirs.orders) {
      if (isFinished(order)) continue;
      const here = state.working.get(order.id)?.order;
      expect(here && canonical([standing(here.terms), here.filledQuantity, here.version]), `${order.id}: terms agree`).to.equal(
        canonical([standing(order.terms), order.filledQuantity, order.version]),
      );
    }
    for (const { order } of state.working.values()) {
      if (isHere(order)) continue;
      expect(
        theirs.orders.some((one) => one.order.id === order.id && !isFinished(one.order)),
        `${order.id} works there too`,
      ).to.equal(true);
    }
    judgeGroups(await world.orders(account), resized, account);
    for (const plan of state.plans.values()) judgePlan(state, plan);
  }
  // A lock that the broker has and the log lost is taken from there: that is what it is lodged for.
  const differences = world.deskStore.rows
    .filter((row) => (row.kind === 'difference' && !row.text.includes('the locked rules')) || row.kind === 'report-unplaced')
    .map(({ text }) => text);
  expect(differences, 'nothing had to be taken from the broker').to.deep.equal([]);
  expect(await verifyLog(world.deskStore)).to.equal(world.deskStore.rows.length);
  await judgeStatements(world);
}

/** A statement chains with every entry there ever was: what it says moved is what the account has more or less. */
async function judgeStatements({ desk }: World): Promise<void> {
  const accounts = new Map([...desk.accounts].map(([id, { terms }]) => [id, { state: newAccountState(terms), cash: new CashBook(terms, instrument) }]));
  const orders = new Map<string, Working>();
  for (const entry of await desk.entriesAfter(0, Number.MAX_SAFE_INTEGER)) {
    const of = accounts.get(entry.account ?? '');
    if (!of) continue;
    const { state, cash } = of;
    const { book: before } = state;
    const told = cash.movements.length;
    const touched = foldEntry(state, entry, { instrument, past: (id) => orders.get(id) ?? null });
    for (const working of touched.orders) orders.set(working.order.id, working);
    cash.take(entry, touched, before, state);
    if (entry.data.kind === 'account-opened') continue;
    for (const { asset, purpose } of placesOf(state.terms)) {
      const total = ({ cash: bare, wallets }: typeof before): bigint =>
        purpose === 'cash' ? bare : (wallets.find((one) => one.asset === asset && one.purpose === purpose)?.total ?? 0n);
      const moved = cash.movements.slice(told).filter((one) => one.asset === asset && one.purpose === purpose);
      const sum = moved.reduce((all, { amount }) => all + amount, 0n);
      expect(sum, `entry ${entry.seq}, ${entry.data.kind}: the statement of ${purpose} ${asset} chains`).to.equal(total(state.book) - total(before));
    }
  }
  for (const [id, { state }] of accounts)
    expect(state.book.cash, `${id}: the statement ends with the cash there is`).to.equal(desk.accounts.get(id)?.book.cash);
}

/**
 * A group never fills more together than one of its orders was for. Where the trader himself changed how much one is
 * for, what the others had filled until then stands beside that.
 */
function judgeGroups(orders: readonly Order[], resized: ReadonlySet<string>, account: string): void {
  const groups = new Map<string, Order[]>();
  for (const order of orders) if (order.group?.onPartialFill === 'reduce') groups.set(order.group.id, [...(groups.get(order.group.id) ?? []), order]);
  for (const [id, members] of groups) {
    if (!members.every(({ plan }) => plan === null)) continue;
    const filled = members.reduce((sum, { filledQuantity }) => sum + filledQuantity, 0);
    const most = Math.max(
      ...members.map((order) => Math.max(order.terms.quantity, order.filledQuantity) + (resized.has(order.id) ? filled - order.filledQuantity : 0)),
    );
    expect(filled, `${account}: group ${id} filled`).to.be.at.most(most);
  }
}

/** The orders of which the trader changed the quantity, by the log. */
function resizedBy(entries: readonly Entry[]): ReadonlySet<string> {
  return new Set(entries.flatMap(({ data }) => (data.kind === 'replace-requested' && data.change.quantity !== undefined ? [data.orderId] : [])));
}

/** A plan covers no more than is held, and what it has at the venue is what it is to have. */
function judgePlan(state: AccountState, plan: RunningPlan): void {
  if (!isRunning(plan)) return;
  const held = state.book.positions[plan.instrument]?.quantity ?? 0;
  const leaves = Math.max(0, plan.long ? held : 0 - held);
  expect(openOf(plan), `${plan.id}: covers what is held`).to.be.at.most(leaves);
  for (const { index, name, step, leg } of legsOf(plan)) {
    if (leg.orderId === null) continue;
    const order = state.working.get(leg.orderId)?.order;
    const closed = step.closed;
    expect(closed, `${plan.id}: step ${index + 1}`).to.be.at.least(0);
    if (order && plan.state === 'armed' && !step.fired)
      expect(remainingQuantity(order), `${plan.id}: ${name} of step ${index + 1} closes its step`).to.equal(step.open);
  }
  if (plan.plan.heldBy !== 'venue' || plan.state !== 'armed') return;
  for (const [i, step] of plan.steps.entries())
    if (step.open > 0 && !step.fired && !step.ended)
      expect(
        [step.stop, step.target].some((leg) => leg?.orderId != null && state.working.has(leg.orderId)),
        `${plan.id}: step ${i + 1} has an order`,
      ).to.equal(true);
}

/** Terms without where a following or trailing order stands by itself. */
const standing = (terms: object): object =>
  'type' in terms && (terms.type === 'following' || terms.type === 'trailing-stop') ? { ...terms, limit: null, stop: null } : terms;
