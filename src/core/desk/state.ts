import type { RunningPlan } from '../exits/index.ts';
import { asQuantity, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { Side } from '../market/index.ts';
import type { Money } from '../number/index.ts';
import { isFinished, isHere, type Order, type OrderGroup, type OrderRole } from '../orders/index.ts';
import { openAccount, type AccountBook, type AccountTerms, type Application, type CashRequest } from '../portfolio/index.ts';
import { newRiskState, withTaken, type RiskState } from '../risk/index.ts';
import { claimsOf, type Claim } from './claims.ts';

/** A fill with what its execution report says of the order after it. */
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
  readonly orderQuantity: Quantity;
  readonly filledQuantity: Quantity;
  /** Plain mean of the order's fill prices so far, weighted by quantity, with up to 8 decimals. */
  readonly averagePrice: string;
}

/** An order that can still change, and what the log says of it besides. */
export interface Working {
  readonly order: Order;
  /** The entry that made it: its place among all orders. */
  readonly madeBy: number;
  /** The entry that last asked something of it: the cause of what the broker says next. */
  readonly askedBy: number;
  /** Σ price × quantity of its fills. */
  readonly turnover: bigint;
  readonly claims: readonly Claim[];
}

/** A request for money: whether the broker has had it, and whether it was asked back. */
export interface KnownCash {
  readonly request: CashRequest;
  readonly had: boolean;
  readonly back: boolean;
}

/** An application for a new issue: as it was asked for last, as the broker last had it, and whether it was asked back. */
export interface KnownApplication {
  readonly application: Application;
  readonly had: Application | null;
  readonly back: boolean;
}

export interface PendingLink {
  readonly requestId: string;
  readonly group: OrderGroup;
  readonly orderIds: readonly string[];
}

/** Everything alive in one account: what works, what is open, what counts. Built by `foldEntry` alone; history is in tables. */
export interface AccountState {
  readonly terms: AccountTerms;
  book: AccountBook;
  readonly working: Map<string, Working>;
  readonly byInstrument: Map<string, Set<string>>;
  /** Σ of what working orders claim, by what it is claimed from. */
  readonly claimed: Map<string, bigint>;
  /** Working orders whose claim moves with the market. */
  readonly floating: Set<string>;
  /** Working orders that are held here. */
  readonly here: Set<string>;
  /** Exit plans that run, and those that ended on this trading day. */
  readonly plans: Map<string, RunningPlan>;
  readonly plansIn: Map<string, Set<string>>;
  /** Links that the broker has not answered, by the group they are to make. */
  readonly links: Map<string, PendingLink>;
  /** Requests for money, all of them: they are few. */
  readonly cash: Map<string, KnownCash>;
  /** Applications for new issues, all of them. */
  readonly applications: Map<string, KnownApplication>;
  risk: RiskState;
  /** What open positions risked when a stop first worked for them, by instrument. */
  readonly firstRisks: Map<string, Money>;
  /** Since when what is held here is cut off; null while it is not. */
  cutOffSince: number | null;
  lastReport: number;
  lastEntry: number;
  /** Running number of requests. */
  count: number;
}

export const newAccountState = (terms: AccountTerms): AccountState => ({
  terms,
  book: openAccount(terms),
  working: new Map(),
  byInstrument: new Map(),
  claimed: new Map(),
  floating: new Set(),
  here: new Set(),
  plans: new Map(),
  plansIn: new Map(),
  links: new Map(),
  cash: new Map(),
  applications: new Map(),
  risk: newRiskState(terms.rules),
  firstRisks: new Map(),
  cutOffSince: null,
  lastReport: 0,
  lastEntry: 0,
  count: 0,
});

/** The exit plans of an instrument, in the order they were made. */
export function plansIn(state: AccountState, instrument: string): RunningPlan[] {
  return [...(state.plansIn.get(instrument) ?? [])].flatMap((id) => state.plans.get(id) ?? []);
}

/** Keeps a plan as it is from now on. */
export function keepPlan(state: AccountState, plan: RunningPlan): void {
  state.plans.set(plan.id, plan);
  let ids = state.plansIn.get(plan.instrument);
  if (!ids) state.plansIn.set(plan.instrument, (ids = new Set()));
  ids.add(plan.id);
}

export const orderOf = (state: AccountState, id: string): Order | null => state.working.get(id)?.order ?? null;

/** The working orders of an instrument, in the order they were made. */
export function* workingIn(state: AccountState, instrument: string): Generator<Working, void> {
  for (const id of state.byInstrument.get(instrument) ?? []) {
    const found = state.working.get(id);
    if (found) yield found;
  }
}

/** The orders that are held here. */
export const heldHere = (state: AccountState): Order[] => [...state.here].flatMap((id) => state.working.get(id)?.order ?? []);

/** A stop that is held here and follows the price stands somewhere else by now. */
export function keepFollowing(state: AccountState, order: Order): void {
  const working = state.working.get(order.id);
  if (working) state.working.set(order.id, { ...working, order });
}

/**
 * Keeps an order as it is from now on.
 *
 * @param entry the entry that says so
 * @returns what the log says of it besides
 */
export function keepOrder(state: AccountState, order: Order, before: Working | null, askedBy: number, entry: number, instrument: Instrument): Working {
  const done = isFinished(order) && order.pendingCancel === null && order.pendingReplace === null;
  const claims = done ? [] : claimsOf(order, instrument);
  const working: Working = { order, madeBy: before?.madeBy ?? entry, askedBy, turnover: before?.turnover ?? 0n, claims };
  putOrder(state, working, done);
  return working;
}

/** Puts an order among those that work, or takes it away, with what it claims. */
export function putOrder(state: AccountState, working: Working, done: boolean): void {
  const { id, instrument } = working.order;
  const old = state.working.get(id);
  if (old) for (const { from, amount } of old.claims) count(state.claimed, from, -amount);
  for (const { from, amount } of working.claims) count(state.claimed, from, amount);
  if (!done && working.claims.some(({ from }) => from === 'floating')) state.floating.add(id);
  else state.floating.delete(id);
  if (!done && isHere(working.order)) state.here.add(id);
  else state.here.delete(id);
  let ids = state.byInstrument.get(instrument);
  if (done) {
    state.working.delete(id);
    ids?.delete(id);
    if (ids?.size === 0) state.byInstrument.delete(instrument);
    return;
  }
  state.working.set(id, working);
  if (!ids) state.byInstrument.set(instrument, (ids = new Set()));
  ids.add(id);
}

/** The state as if orders worked already that are only decided. */
export function asIfWorking(state: AccountState, orders: readonly Order[], facts: { instrument(id: string): Instrument }): AccountState {
  if (orders.length === 0) return state;
  const next = sketchOf(state);
  for (const order of orders) sketchOrder(next, order, facts);
  return next;
}

/** A copy of what works in an account, for decisions that go on from what they have decided so far. */
export const sketchOf = (state: AccountState): AccountState => ({
  ...state,
  working: new Map(state.working),
  byInstrument: new Map([...state.byInstrument].map(([id, orders]) => [id, new Set(orders)])),
  claimed: new Map(state.claimed),
  floating: new Set(state.floating),
  here: new Set(state.here),
});

/** Lets an order work in a sketch, and counts it among those that were taken. */
export function sketchOrder(sketch: AccountState, order: Order, facts: { instrument(id: string): Instrument }): void {
  if (order.opening) sketch.risk = withTaken(sketch.risk, order.createdAt);
  putOrder(sketch, { order, madeBy: 0, askedBy: 0, turnover: 0n, claims: claimsOf(order, facts.instrument(order.instrument)) }, false);
}

function count(sums: Map<string, bigint>, key: string, amount: bigint): void {
  const sum = (sums.get(key) ?? 0n) + amount;
  if (sum === 0n) sums.delete(key);
  else sums.set(key, sum);
}

/** How much of an instrument's working orders that are not reducing sell, in its steps. */
export const sellingFreely = (state: AccountState, instrument: string): Quantity => asQuantity(Number(state.claimed.get(`free sale ${instrument}`) ?? 0n));
