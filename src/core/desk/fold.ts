import { isOver, withLeg, type RunningPlan } from '../exits/index.ts';
import type { Instrument, VenueId } from '../instrument/index.ts';
import { formatDay } from '../market/index.ts';
import { NO_MONEY } from '../number/index.ts';
import { applyReport, requestCancel, requestReplace, type Order, type OrderReport } from '../orders/index.ts';
import {
  applicationMoved,
  bookAgreed,
  bookApplication,
  bookCash,
  bookDayTurn,
  bookInForce,
  bookSettlement,
  cashMoved,
  positionOf,
  type Position,
} from '../portfolio/index.ts';
import { withDay, withFill, withTaken } from '../risk/index.ts';
import { isCloseOut } from './close-out.ts';
import type { Asked, Entry } from './entries.ts';
import { firstRiskOf } from './first-risk.ts';
import { foldFill } from './fold-fill.ts';
import { foldLeg, legName, planOfLeg } from './fold-leg.ts';
import { keepOrder, keepPlan, plansIn, workingIn, type AccountState, type Fill, type Working } from './state.ts';

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
  const kept = (order: Order, of: Working | null, askedBy: number): Touched => ({
    ...NOTHING,
    orders: [keepOrder(state, order, of, askedBy, entry.seq, facts.instrument(order.instrument))],
  });
  const adjusted = (of: Working, report: OrderReport, askedBy: number): Touched => {
    const order = applyReport(of.order, report, entry.time);
    return { ...kept(order, of, askedBy), plans: foldLeg(state, order, report, facts.instrument(order.instrument)) };
  };
  if ('number' in data) state.count = Math.max(state.count, data.number ?? 0);
  if ('reportSeq' in data) state.lastReport = data.reportSeq;
  switch (data.kind) {
    case 'account-opened':
      state.book = data.book;
      return NOTHING;
    case 'order-requested':
      if (data.order.opening) state.risk = withTaken(state.risk, entry.time);
      return { ...kept(data.order, null, entry.seq), asked: { orderId: data.order.id, asked: data.asked } };
    case 'order-opened':
      return kept(data.order, null, entry.seq);
    case 'replace-requested': {
      const of = known(data.orderId);
      const order = requestReplace(of.order, { requestId: data.requestId, change: data.change }, entry.time);
      const plan = entry.by === 'user' ? planOfLeg(state, order) : null;
      if (plan) keepPlan(state, withLeg(plan, order.step ?? 0, legName(order), { asked: data.requestId }));
      return { ...kept(order, of, entry.seq), asked: data.asked && { orderId: data.orderId, asked: data.asked } };
    }
    case 'cancel-requested': {
      const of = known(data.orderId);
      return kept(requestCancel(of.order, { requestId: data.requestId, reasonCode: data.reasonCode }, entry.time), of, entry.seq);
    }
    case 'order-report': {
      const of = known(data.orderId);
      if (data.report.kind === 'trade') {
        const { order, fill, plans } = foldFill(state, of, data.report, entry, facts.instrument(of.order.instrument));
        return { ...NOTHING, orders: [order], fills: [fill], positions: [fill.instrument], plans, risk: true };
      }
      if (data.report.kind === 'rejected' && isCloseOut(of.order))
        state.risk = { ...state.risk, refused: { ...state.risk.refused, [of.order.instrument]: entry.time } };
      if (data.report.kind === 'linked') state.links.delete(data.report.group.id);
      return adjusted(of, data.report, of.askedBy);
    }
    case 'order-released':
      return adjusted(known(data.orderId), data.report, entry.seq);
    case 'order-adjusted': {
      const of = known(data.orderId);
      return adjusted(of, data.report, of.askedBy);
    }
    case 'link-requested':
      state.links.set(data.group.id, { requestId: data.requestId, group: data.group, orderIds: data.orderIds });
      return NOTHING;
    case 'link-refused':
      state.links.delete(data.groupId);
      return NOTHING;
    case 'plan':
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
      const settled = data.settlements.map(({ instrument, price }) => ({ instrument: facts.instrument(instrument), settlement: price }));
      state.book = bookDayTurn(state.book, entry.time, settled);
      if (data.venue === state.terms.venues[0]) {
        state.risk = withDay(state.risk, data.day, entry.time);
        state.book = bookInForce(state.terms, state.book, formatDay(data.day));
      }
      dropEndedPlans(state, data.venue, (id) => facts.instrument(id));
      return { ...NOTHING, positions: Object.keys(state.book.positions) };
    }
    case 'difference': {
      if (data.book) state.book = data.book;
      const touched = data.order ? kept(data.order, state.working.get(data.order.id) ?? facts.past(data.order.id), entry.seq) : NOTHING;
      return data.book ? { ...touched, positions: Object.keys(data.book.positions) } : touched;
    }
    case 'cash-requested':
      state.cash.set(data.request.id, { request: data.request, had: false, back: false });
      return NOTHING;
    case 'cash-back-requested': {
      const known = state.cash.get(data.requestId);
      if (known) state.cash.set(data.requestId, { ...known, back: true });
      return NOTHING;
    }
    case 'cash-report': {
      const { request } = data;
      state.book = bookCash(state.book, cashMoved(request, request.state));
      state.cash.set(request.id, { request, had: true, back: state.cash.get(request.id)?.back ?? false });
      return { ...NOTHING, risk: true };
    }
    case 'application-requested': {
      const known = state.applications.get(data.application.id);
      state.applications.set(data.application.id, { had: known?.had ?? null, back: known?.back ?? false, application: data.application });
      return NOTHING;
    }
    case 'application-back-requested': {
      const known = state.applications.get(data.applicationId);
      if (known) state.applications.set(data.applicationId, { ...known, back: true });
      return NOTHING;
    }
    case 'application-report': {
      const { application } = data;
      const known = state.applications.get(application.id);
      state.book = bookApplication(state.book, applicationMoved(facts.instrument(application.issue), known?.had ?? null, application));
      const newer = known !== undefined && known.application.revision > application.revision && application.state === 'requested';
      state.applications.set(application.id, { application: newer ? known.application : application, had: application, back: known?.back ?? false });
      return { ...NOTHING, risk: true };
    }
    case 'commission-agreed':
      state.book = bookAgreed(state.book, data.line);
      return NOTHING;
    case 'orders-grouped':
    case 'report-unplaced':
    case 'count-taken-up':
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

/** Plans that ended are listed until their trading day turns. */
function dropEndedPlans(state: AccountState, venue: VenueId, instrumentOf: (id: string) => Instrument): void {
  for (const plan of state.plans.values()) {
    if (!isOver(plan) || instrumentOf(plan.instrument).venue !== venue) continue;
    state.plans.delete(plan.id);
    state.plansIn.get(plan.instrument)?.delete(plan.id);
  }
}
