import { isOver, withEntryFill, withLeg, withOwnFill, withStep, type LegName, type RunningLeg, type RunningPlan } from '../exits/index.ts';
import type { Instrument, Price, Quantity, VenueId } from '../instrument/index.ts';
import { NO_MONEY, divideHalfEven, divideHalfUp, formatScaled, moneyOf, type Money } from '../number/index.ts';
import { asQuantity } from '../instrument/index.ts';
import {
  applyReport,
  isFinished,
  isHere,
  isOnItsWay,
  limitPriceOf,
  requestCancel,
  requestReplace,
  stopPriceOf,
  type Order,
  type OrderGroup,
  type OrderReport,
  type OrderRole,
} from '../orders/index.ts';
import {
  bookAgreed,
  bookCash,
  bookDayTurn,
  bookFill,
  bookInForce,
  bookSettlement,
  applicationMoved,
  bookApplication,
  cashMoved,
  openAccount,
  positionOf,
  type AccountBook,
  type AccountTerms,
  type CashRequest,
  type Position,
  type Application,
} from '../portfolio/index.ts';
import { newRiskState, withDay, withFill, withTaken, type CountedFill, type RiskState } from '../risk/index.ts';
import { formatDay, type Side } from '../market/index.ts';
import type { Asked, Entry } from './entries.ts';
import { claimsOf, type Claim } from './claims.ts';
import { firstRiskOf } from './first-risk.ts';

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

/** Everything alive in one account: what works, what is open, what counts. Built by {@link foldEntry} alone; history is in tables. */
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

/** Plans that ended are listed until their trading day turns. */
function dropEndedPlans(state: AccountState, venue: VenueId, instrumentOf: (id: string) => Instrument): void {
  for (const plan of state.plans.values()) {
    if (!isOver(plan) || instrumentOf(plan.instrument).venue !== venue) continue;
    state.plans.delete(plan.id);
    state.plansIn.get(plan.instrument)?.delete(plan.id);
  }
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

/** What an entry changed, for those who keep it in tables or show it. */
export interface Touched {
  readonly orders: readonly Working[];
  readonly fills: readonly Fill[];
  readonly positions: readonly string[];
  readonly asked: { readonly orderId: string; readonly asked: Asked } | null;
  readonly plans: readonly RunningPlan[];
  /** Its rules, or what they have come to. */
  readonly risk: boolean;
}

const NOTHING: Touched = { orders: [], fills: [], positions: [], asked: null, plans: [], risk: false };

/** What folding needs besides the entry: instruments, and orders that no longer work. */
export interface FoldFacts {
  instrument(id: string): Instrument;
  past(orderId: string): Working | null;
}

/** Applies one entry of the account's to its state. An entry is applied once: older ones are passed over. */
export function foldEntry(state: AccountState, entry: Entry, facts: FoldFacts): Touched {
  if (entry.seq <= state.lastEntry) return NOTHING;
  state.lastEntry = entry.seq;
  const before = state.book;
  const touched = applied(state, entry, facts);
  for (const id of new Set([...touched.positions, ...(entry.instrument === null ? [] : [entry.instrument])]))
    noteFirstRisk(state, positionOf(before, id), touched, facts);
  return touched;
}

/**
 * A position keeps what it risked first until it is flat or turns over. All that works is looked at as it begins;
 * afterwards only what an entry touched can begin to count.
 */
function noteFirstRisk(state: AccountState, before: Position, { orders, plans }: Touched, facts: FoldFacts): void {
  const id = before.instrument;
  const position = positionOf(state.book, id);
  const begins = Math.sign(position.quantity) !== Math.sign(before.quantity);
  if (begins) state.firstRisks.delete(id);
  if (position.quantity === 0 || state.firstRisks.has(id)) return;
  const of = ({ instrument }: { readonly instrument: string }): boolean => instrument === id;
  const working = begins ? workingIn(state, id) : orders.filter(({ order }) => of(order));
  const risk = firstRiskOf(facts.instrument(id), position, [...working].map(({ order }) => order), begins ? plansIn(state, id) : plans.filter(of)); // prettier-ignore
  if (risk !== null) state.firstRisks.set(id, risk);
}

function applied(state: AccountState, entry: Entry, facts: FoldFacts): Touched {
  const { data } = entry;
  const known = (id: string): Working => {
    const found = state.working.get(id) ?? facts.past(id);
    if (!found) throw new Error(`the log names an unknown order ${id}`);
    return found;
  };
  const kept = (order: Order, of: Working | null, askedBy: number): Touched => ({ ...NOTHING, orders: [keep(state, order, of, askedBy, entry, facts)] });
  const adjusted = (orderId: string, report: OrderReport, askedBy: number | null): Touched => {
    const of = known(orderId);
    const touched = kept(applyReport(of.order, report, entry.time), of, askedBy ?? of.askedBy);
    return { ...touched, plans: foldLeg(state, touched.orders[0]?.order ?? of.order, report, facts) };
  };
  switch (data.kind) {
    case 'account-opened':
      state.book = data.book;
      return NOTHING;
    case 'order-requested':
      state.count = Math.max(state.count, data.number);
      if (data.order.opening) state.risk = withTaken(state.risk, entry.time);
      return { ...kept(data.order, null, entry.seq), asked: { orderId: data.order.id, asked: data.asked } };
    case 'order-opened':
      state.lastReport = data.reportSeq;
      return kept(data.order, null, entry.seq);
    case 'replace-requested': {
      state.count = Math.max(state.count, data.number);
      const of = known(data.orderId);
      const order = requestReplace(of.order, { requestId: data.requestId, change: data.change }, entry.time);
      const plan = entry.by === 'user' ? planOfLeg(state, order) : null;
      if (plan) keepPlan(state, withLeg(plan, order.step ?? 0, legName(order), { asked: data.requestId }));
      return { ...kept(order, of, entry.seq), asked: data.asked && { orderId: data.orderId, asked: data.asked } };
    }
    case 'cancel-requested': {
      state.count = Math.max(state.count, data.number);
      const of = known(data.orderId);
      return kept(requestCancel(of.order, { requestId: data.requestId, reasonCode: data.reasonCode }, entry.time), of, entry.seq);
    }
    case 'order-report': {
      state.lastReport = data.reportSeq;
      const of = known(data.orderId);
      if (data.report.kind === 'trade') return foldFill(state, of, data.report, entry, facts);
      if (data.report.kind === 'rejected' && isCloseOut(of.order))
        state.risk = { ...state.risk, refused: { ...state.risk.refused, [of.order.instrument]: entry.time } };
      if (data.report.kind === 'linked') state.links.delete(data.report.group.id);
      const touched = kept(applyReport(of.order, data.report, entry.time), of, of.askedBy);
      return { ...touched, plans: foldLeg(state, touched.orders[0]?.order ?? of.order, data.report, facts) };
    }
    case 'order-released':
      state.count = Math.max(state.count, data.number);
      return adjusted(data.orderId, data.report, entry.seq);
    case 'order-adjusted':
      return adjusted(data.orderId, data.report, null);
    case 'orders-grouped':
      state.count = Math.max(state.count, data.number);
      return NOTHING;
    case 'link-requested':
      state.count = Math.max(state.count, data.number);
      state.links.set(data.group.id, { requestId: data.requestId, group: data.group, orderIds: data.orderIds });
      return NOTHING;
    case 'link-refused':
      state.lastReport = data.reportSeq;
      state.links.delete(data.groupId);
      return NOTHING;
    case 'plan':
      state.count = Math.max(state.count, data.number ?? 0);
      keepPlan(state, data.plan);
      return { ...NOTHING, plans: [data.plan] };
    case 'risk':
      state.risk = { ...state.risk, ...data.to };
      return { ...NOTHING, risk: true };
    case 'cut-off':
      state.cutOffSince = data.since;
      return NOTHING;
    case 'back':
      state.cutOffSince = null;
      return NOTHING;
    case 'position-settled': {
      state.lastReport = data.reportSeq;
      const instrument = facts.instrument(data.instrument);
      const { book, realised } = bookSettlement(state.book, instrument, data.worth, entry.time);
      state.book = book;
      state.risk = withFill(state.risk, {
        instrument: instrument.id,
        kind: instrument.kind,
        quantity: 0n,
        realised,
        fee: NO_MONEY,
        closingFee: NO_MONEY,
        ends: true,
      });
      return { ...NOTHING, positions: [data.instrument], risk: true };
    }
    case 'day-turn': {
      state.lastReport = data.reportSeq;
      const settled = data.settlements.map(({ instrument, price }) => ({ instrument: facts.instrument(instrument), settlement: price }));
      state.book = bookDayTurn(state.book, entry.time, settled);
      if (data.venue === state.terms.venues[0]) {
        state.risk = withDay(state.risk, data.day, entry.time);
        state.book = bookInForce(state.terms, state.book, formatDay(data.day));
      }
      dropEndedPlans(state, data.venue, (id) => facts.instrument(id));
      return { ...NOTHING, positions: Object.keys(state.book.positions) };
    }
    case 'report-unplaced':
      state.lastReport = data.reportSeq;
      return NOTHING;
    case 'difference': {
      if (data.book) state.book = data.book;
      const touched = data.order ? kept(data.order, state.working.get(data.order.id) ?? facts.past(data.order.id), entry.seq) : NOTHING;
      return data.book ? { ...touched, positions: Object.keys(data.book.positions) } : touched;
    }
    case 'cash-requested':
      state.count = Math.max(state.count, data.number);
      state.cash.set(data.request.id, { request: data.request, had: false, back: false });
      return NOTHING;
    case 'cash-back-requested': {
      state.count = Math.max(state.count, data.number);
      const known = state.cash.get(data.requestId);
      if (known) state.cash.set(data.requestId, { ...known, back: true });
      return NOTHING;
    }
    case 'cash-report': {
      const { request } = data;
      state.lastReport = data.reportSeq;
      state.book = bookCash(state.book, cashMoved(request, request.state));
      state.cash.set(request.id, { request, had: true, back: state.cash.get(request.id)?.back ?? false });
      return { ...NOTHING, risk: true };
    }
    case 'application-requested': {
      state.count = Math.max(state.count, data.number);
      const known = state.applications.get(data.application.id);
      state.applications.set(data.application.id, { had: known?.had ?? null, back: known?.back ?? false, application: data.application });
      return NOTHING;
    }
    case 'application-back-requested': {
      state.count = Math.max(state.count, data.number);
      const known = state.applications.get(data.applicationId);
      if (known) state.applications.set(data.applicationId, { ...known, back: true });
      return NOTHING;
    }
    case 'application-report': {
      const { application } = data;
      const known = state.applications.get(application.id);
      state.lastReport = data.reportSeq;
      state.book = bookApplication(state.book, applicationMoved(facts.instrument(application.issue), known?.had ?? null, application));
      const newer = known !== undefined && known.application.revision > application.revision && application.state === 'requested';
      state.applications.set(application.id, { application: newer ? known.application : application, had: application, back: known?.back ?? false });
      return { ...NOTHING, risk: true };
    }
    case 'commission-agreed':
      state.lastReport = data.reportSeq;
      state.book = bookAgreed(state.book, data.line);
      return NOTHING;
    case 'count-taken-up':
      state.count = Math.max(state.count, data.number);
      state.lastReport = data.reportSeq;
      return NOTHING;
    case 'group-requested':
    case 'resent':
    case 'refused':
    case 'link':
    case 'note':
    case 'round-trip-marked':
      return NOTHING;
    default:
      return data satisfies never;
  }
}

function foldFill(state: AccountState, of: Working, report: OrderReport & { kind: 'trade' }, entry: Entry, facts: FoldFacts): Touched {
  const { price, quantity, fee, liquidity, fillId } = report;
  const order = applyReport(of.order, report, entry.time);
  const instrument = facts.instrument(order.instrument);
  const heldBefore = state.book.positions[instrument.id]?.quantity ?? 0;
  const booked = bookFill(state.book, instrument, { side: order.side, price, quantity, fee, product: order.product, time: entry.time });
  state.book = booked.book;
  const turnover = of.turnover + BigInt(price) * BigInt(quantity);
  const kept = keep(state, order, { ...of, turnover }, of.askedBy, entry, facts);
  const average = divideHalfEven(turnover * 10n ** BigInt(8 - instrument.priceDecimals), BigInt(order.filledQuantity));
  const fill: Fill = {
    id: fillId,
    seq: entry.seq,
    time: entry.time,
    orderId: order.id,
    clientOrderId: order.clientOrderId,
    account: order.account,
    instrument: order.instrument,
    side: order.side,
    role: order.role,
    quantity,
    price,
    fee,
    realised: booked.realised,
    liquidity,
    orderQuantity: order.terms.quantity,
    filledQuantity: order.filledQuantity,
    averagePrice: formatScaled(average, 8, instrument.priceDecimals),
  };
  state.risk = withFill(state.risk, countedFill(instrument, order.side, report, heldBefore, booked.realised));
  const plan = planOfLeg(state, order);
  const plans: RunningPlan[] = [];
  const keptPlan = (next: RunningPlan): void => {
    keepPlan(state, next);
    plans.push(next);
  };
  if (plan && order.step !== null) keptPlan(withOwnFill(plan, order.step, quantity));
  else
    for (const one of plansIn(state, order.instrument)) if (one.entryOrderId === order.id && !isOver(one)) keptPlan(withEntryFill(one, quantity, report.value));
  return { ...NOTHING, orders: [kept], fills: [fill], positions: [order.instrument], plans, risk: true };
}

/** A fill as the rules count it; of one through zero the fee is shared by quantity, half up. */
function countedFill(instrument: Instrument, side: Side, { quantity, fee }: OrderReport & { kind: 'trade' }, before: number, realised: Money): CountedFill {
  const against = before !== 0 && (side === 'sell') === before > 0;
  const closes = against ? Math.min(Math.abs(before), quantity) : 0;
  const closingFee = closes === quantity ? fee : moneyOf(divideHalfUp(fee * BigInt(closes), BigInt(quantity)));
  return {
    instrument: instrument.id,
    kind: instrument.kind,
    quantity: BigInt(quantity) * 10n ** BigInt(8 - instrument.quantityDecimals),
    realised,
    fee,
    closingFee,
    ends: against && quantity >= Math.abs(before),
  };
}

const CLOSE_OUT = 'kavix.close-out.';
/** The name of an order by which a position is closed out. */
export const closeOutName = (number: number): string => `${CLOSE_OUT}${number}`;
export const isCloseOut = ({ clientOrderId }: Order): boolean => clientOrderId.startsWith(CLOSE_OUT);

/** The plan that runs and has this order as a leg. */
function planOfLeg(state: AccountState, order: Order): RunningPlan | null {
  const plan = order.plan === null || order.step === null ? undefined : state.plans.get(order.plan);
  return plan && !isOver(plan) ? plan : null;
}

const legName = (order: Order): LegName => (order.role === 'target' ? 'target' : 'stop');

/** What a report of a leg's order means to its plan. */
function foldLeg(state: AccountState, order: Order, report: OrderReport, facts: FoldFacts): readonly RunningPlan[] {
  const plan = planOfLeg(state, order);
  const name = legName(order);
  const leg = plan?.steps[order.step ?? 0]?.[name];
  if (!plan || !leg || leg.orderId !== order.id) return [];
  const change = legAfter(leg, order, report, facts.instrument(order.instrument));
  if (!change) return [];
  const moved = withLeg(plan, order.step ?? 0, name, change);
  const ended = change.orderId === null && plan.steps[order.step ?? 0]?.fired === true;
  const next = ended ? withStep(moved, order.step ?? 0, { fired: false }) : moved;
  keepPlan(state, next);
  return [next];
}

function legAfter(leg: RunningLeg, order: Order, report: OrderReport, instrument: Instrument): Partial<RunningLeg> | null {
  const price = stopPriceOf(order.terms) ?? limitPriceOf(order.terms, order.side, instrument);
  switch (report.kind) {
    case 'replaced':
      return leg.asked === report.requestId ? { asked: null, moved: true, wanted: null, price, sent: price, missed: false } : { missed: false };
    case 'cancel-rejected':
      if (isOnItsWay(order)) return null;
      if (leg.asked === report.requestId) return { asked: null };
      return report.requestId.includes('/r') ? { sent: price, missed: true } : null;
    case 'rejected':
      return { orderId: null, sent: null, missed: true };
    case 'canceled':
      return { orderId: null, sent: null, over: report.reasonCode === 'user' || report.reasonCode === 'venue' };
    case 'expired':
      return { orderId: null, sent: null };
    default:
      return null;
  }
}

function keep(state: AccountState, order: Order, before: Working | null, askedBy: number, entry: Entry, facts: FoldFacts): Working {
  const instrument = facts.instrument(order.instrument);
  const done = isFinished(order) && order.pendingCancel === null && order.pendingReplace === null;
  const claims = done ? [] : claimsOf(order, instrument);
  const working: Working = { order, madeBy: before?.madeBy ?? entry.seq, askedBy, turnover: before?.turnover ?? 0n, claims };
  place(state, working, done);
  return working;
}

/** Puts an order among those that work, or takes it away, with what it claims. */
function place(state: AccountState, working: Working, done: boolean): void {
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
export function asIfWorking(state: AccountState, orders: readonly Order[], facts: Pick<FoldFacts, 'instrument'>): AccountState {
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
export function sketchOrder(sketch: AccountState, order: Order, facts: Pick<FoldFacts, 'instrument'>): void {
  if (order.opening) sketch.risk = withTaken(sketch.risk, order.createdAt);
  place(sketch, { order, madeBy: 0, askedBy: 0, turnover: 0n, claims: claimsOf(order, facts.instrument(order.instrument)) }, false);
}

function count(sums: Map<string, bigint>, key: string, amount: bigint): void {
  const sum = (sums.get(key) ?? 0n) + amount;
  if (sum === 0n) sums.delete(key);
  else sums.set(key, sum);
}

/** An account's state as plain data. Orders are values: the list can be written out while the account goes on. */
export interface SavedAccount {
  readonly account: string;
  readonly book: AccountBook;
  readonly working: readonly Omit<Working, 'claims'>[];
  readonly plans: readonly RunningPlan[];
  readonly links: readonly PendingLink[];
  readonly cash: readonly KnownCash[];
  readonly applications: readonly KnownApplication[];
  readonly risk: RiskState;
  readonly firstRisks: readonly (readonly [instrument: string, risk: Money])[];
  readonly cutOffSince: number | null;
  readonly lastReport: number;
  readonly lastEntry: number;
  readonly count: number;
}

export const saveAccount = (state: AccountState): SavedAccount => ({
  account: state.terms.id,
  book: state.book,
  working: [...state.working.values()].map(({ order, madeBy, askedBy, turnover }) => ({ order, madeBy, askedBy, turnover })),
  plans: [...state.plans.values()],
  links: [...state.links.values()],
  cash: [...state.cash.values()],
  applications: [...state.applications.values()],
  risk: state.risk,
  firstRisks: [...state.firstRisks],
  cutOffSince: state.cutOffSince,
  lastReport: state.lastReport,
  lastEntry: state.lastEntry,
  count: state.count,
});

export function loadAccount(terms: AccountTerms, saved: SavedAccount, instrumentOf: (id: string) => Instrument): AccountState {
  const state = newAccountState(terms);
  state.book = saved.book;
  for (const one of saved.working) place(state, { claims: claimsOf(one.order, instrumentOf(one.order.instrument)), ...one }, false);
  for (const plan of saved.plans) keepPlan(state, plan);
  for (const link of saved.links) state.links.set(link.group.id, link);
  for (const one of saved.cash) state.cash.set(one.request.id, one);
  for (const one of saved.applications) state.applications.set(one.application.id, one);
  state.risk = saved.risk;
  for (const [instrument, risk] of saved.firstRisks) state.firstRisks.set(instrument, risk);
  state.cutOffSince = saved.cutOffSince;
  state.lastReport = saved.lastReport;
  state.lastEntry = saved.lastEntry;
  state.count = saved.count;
  return state;
}

/** How much of an instrument's working orders that are not reducing sell, in its steps. */
export const sellingFreely = (state: AccountState, instrument: string): Quantity => asQuantity(Number(state.claimed.get(`free sale ${instrument}`) ?? 0n));
