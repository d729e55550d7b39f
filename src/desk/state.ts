import type { Instrument, Price, Quantity } from '../core/instrument/index.ts';
import type { Money } from '../core/number/index.ts';
import { applyReport, isFinished, requestCancel, requestReplace, type Order, type OrderRole } from '../core/orders/index.ts';
import { bookDayTurn, bookFill, bookSettlement, openAccount, type AccountBook, type AccountTerms } from '../core/portfolio/index.ts';
import type { Side } from '../core/market/index.ts';
import type { Entry } from './journal.ts';

export interface Fill {
  readonly id: string;
  readonly seq: number;
  readonly time: number;
  readonly orderId: string;
  readonly clientOrderId: string;
  readonly account: string;
  readonly instrument: string;
  readonly side: Side;
  readonly role: OrderRole;
  readonly quantity: Quantity;
  readonly price: Price;
  readonly fee: Money;
  readonly realised: Money;
  readonly liquidity: 'added' | 'removed';
}

/** Everything the desk knows of one account. Built by {@link foldEntry} alone. */
export interface AccountState {
  readonly terms: AccountTerms;
  book: AccountBook;
  readonly orders: Map<string, Order>;
  /** Orders that can still change. */
  readonly working: Set<string>;
  readonly byClientOrderId: Map<string, string>;
  readonly changes: Map<string, { orderId: string; fingerprint: string }>;
  readonly fills: Fill[];
  /** The entry that made each order: their order over all accounts. */
  readonly orderSeq: Map<string, number>;
  lastReport: number;
  lastEntry: number;
  orderCount: number;
}

export const newAccountState = (terms: AccountTerms): AccountState => ({
  terms,
  book: openAccount(terms),
  orders: new Map(),
  working: new Set(),
  byClientOrderId: new Map(),
  changes: new Map(),
  fills: [],
  orderSeq: new Map(),
  lastReport: 0,
  lastEntry: 0,
  orderCount: 0,
});

/** What an entry touched, for those who show it. */
export interface Touched {
  readonly order: Order | null;
  readonly fill: Fill | null;
  readonly position: string | null;
}

const NOTHING: Touched = { order: null, fill: null, position: null };

/** Applies one entry of the account's to its state. An entry is applied once: older ones are passed over. */
export function foldEntry(state: AccountState, entry: Entry, instrumentOf: (id: string) => Instrument): Touched {
  if (entry.seq <= state.lastEntry) return NOTHING;
  state.lastEntry = entry.seq;
  const { data } = entry;
  switch (data.kind) {
    case 'order-opened':
      state.lastReport = data.reportSeq;
      return { ...NOTHING, order: add(state, data.order, entry.seq) };
    case 'order-requested':
      state.orderCount++;
      return { ...NOTHING, order: add(state, data.order, entry.seq) };
    case 'replace-requested': {
      if (data.change) state.changes.set(data.change.clientOrderId, { orderId: data.orderId, fingerprint: data.change.fingerprint });
      return { ...NOTHING, order: keep(state, requestReplace(known(state, data.orderId), data.requestId, data.terms, entry.time)) };
    }
    case 'cancel-requested':
      return { ...NOTHING, order: keep(state, requestCancel(known(state, data.orderId), data.requestId, entry.time)) };
    case 'order-report': {
      state.lastReport = data.reportSeq;
      const before = known(state, data.orderId);
      const order = keep(state, applyReport(before, data.report, entry.time));
      if (data.report.kind !== 'trade') return { ...NOTHING, order };
      const { price, quantity, fee, liquidity, fillId } = data.report;
      const instrument = instrumentOf(order.instrument);
      const booked = bookFill(state.book, instrument, { side: order.side, price, quantity, fee, product: order.product, time: entry.time });
      state.book = booked.book;
      const { clientOrderId, account, side, role } = order;
      const fill = {
        id: fillId,
        seq: entry.seq,
        time: entry.time,
        orderId: order.id,
        clientOrderId,
        account,
        instrument: order.instrument,
        side,
        role,
        quantity,
        price,
        fee,
        realised: booked.realised,
        liquidity,
      };
      state.fills.push(fill);
      return { order, fill, position: order.instrument };
    }
    case 'position-settled':
      state.lastReport = data.reportSeq;
      state.book = bookSettlement(state.book, instrumentOf(data.instrument), data.worth, entry.time).book;
      return { ...NOTHING, position: data.instrument };
    case 'day-turn':
      state.lastReport = data.reportSeq;
      state.book = bookDayTurn(
        state.book,
        entry.time,
        data.settlements.map(({ instrument, price }) => ({ instrument: instrumentOf(instrument), settlement: price })),
      );
      return NOTHING;
    case 'order-refused':
    case 'resent':
    case 'difference':
    case 'link':
    case 'note':
      return NOTHING;
    default:
      return data satisfies never;
  }
}

function add(state: AccountState, order: Order, seq: number): Order {
  state.orderSeq.set(order.id, seq);
  state.byClientOrderId.set(order.clientOrderId, order.id);
  return keep(state, order);
}

function known(state: AccountState, id: string): Order {
  const order = state.orders.get(id);
  if (!order) throw new Error(`the log names an unknown order ${id}`);
  return order;
}

function keep(state: AccountState, order: Order): Order {
  state.orders.set(order.id, order);
  if (isFinished(order) && order.pendingCancel === null && order.pendingReplace === null) state.working.delete(order.id);
  else state.working.add(order.id);
  return order;
}

interface SavedAccount {
  readonly id: string;
  readonly book: AccountBook;
  readonly orders: readonly Order[];
  readonly changes: readonly [string, { orderId: string; fingerprint: string }][];
  readonly fills: readonly Fill[];
  readonly orderSeq: readonly [string, number][];
  readonly lastReport: number;
  readonly lastEntry: number;
  readonly orderCount: number;
}

/** The accounts as plain data, for a snapshot. */
export const saveAccounts = (states: Iterable<AccountState>): SavedAccount[] =>
  [...states].map((state) => ({
    id: state.terms.id,
    book: state.book,
    orders: [...state.orders.values()],
    changes: [...state.changes],
    fills: state.fills,
    orderSeq: [...state.orderSeq],
    lastReport: state.lastReport,
    lastEntry: state.lastEntry,
    orderCount: state.orderCount,
  }));

export function loadAccount(terms: AccountTerms, saved: SavedAccount): AccountState {
  const state = newAccountState(terms);
  state.book = saved.book;
  for (const order of saved.orders) {
    keep(state, order);
    state.byClientOrderId.set(order.clientOrderId, order.id);
  }
  for (const [id, change] of saved.changes) state.changes.set(id, change);
  for (const fill of saved.fills) state.fills.push(fill);
  for (const [id, seq] of saved.orderSeq) state.orderSeq.set(id, seq);
  state.lastReport = saved.lastReport;
  state.lastEntry = saved.lastEntry;
  state.orderCount = saved.orderCount;
  return state;
}
