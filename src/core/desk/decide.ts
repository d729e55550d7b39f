import { isOver, type RunningPlan } from '../exits/index.ts';
import type { Instrument } from '../instrument/index.ts';
import { dayStart, gtcEnd, nextTradingDay, tradingDay } from '../market/index.ts';
import { isHere, limitPriceOf, stopPriceOf, type Order } from '../orders/index.ts';
import type { BrokerCommand, BrokerReport, BrokerStatus, PriceRow } from './broker.ts';
import { decideCancel, decideReplace } from './change.ts';
import { decideApply, decideChangeApplication, decideTakeBack } from './applications.ts';
import { decideCash, decideCashBack } from './cash.ts';
import { decideCancelMany, decideClose, decideFlatten, decideReverse, openPositions } from './close.ts';
import type { Decision } from './decision.ts';
import { Drafts } from './drafts.ts';
import type { Entry } from './entries.ts';
import { markedInstruments } from './exposure.ts';
import { NO_NEEDS, type Facts, type Needs } from './facts.ts';
import { CLOSE_AGAIN_MS, closesAgain, decideJudged, watchedForLosses, watchesLosses } from './judged.ts';
import { decideLock, decideSetRules } from './rules-asked.ts';
import { decideLinkOrders, decidePlaceGroup } from './group.ts';
import type { Intent } from './intents.ts';
import { decidePlace, decidePlaceMany, refusedEntry } from './place.ts';
import { decideAnswerPlan, decideMoveLeg, decidePutPlan, decideStopPlan } from './plan-asked.ts';
import { decideArrange } from './plans.ts';
import { decideBack, decideCutOff, decidePriced } from './priced.ts';
import { adjust, judgedUpTo } from './here.ts';
import { decideReconcile } from './reconcile.ts';
import { decideReports } from './reports.ts';
import { heldHere, orderOf, plansIn, type AccountState } from './state.ts';

/** Whatever can happen to an account. */
export type AccountEvent =
  | { readonly kind: 'asked'; readonly intent: Intent }
  /** What the broker says, in its order; all of it belongs to one event there, or to none that waits. */
  | { readonly kind: 'reported'; readonly reports: readonly BrokerReport[] }
  /** A row of a market that something in the account waits on. */
  | { readonly kind: 'priced'; readonly row: PriceRow }
  /** Something happened that exit plans may have to follow, in these instruments. */
  | { readonly kind: 'arranged'; readonly instruments: readonly string[] }
  /** The broker or the prices are cut off, and back. */
  | { readonly kind: 'cut-off'; readonly restart: boolean }
  | { readonly kind: 'back' }
  /** Something happened that the account's rules look at. */
  | { readonly kind: 'judged' }
  /** A moment came that something here waited for. */
  | { readonly kind: 'timer' }
  | { readonly kind: 'reconciled'; readonly theirs: BrokerStatus };

/** The one place where anything is decided. Pure: the same state, event and facts give the same decision. */
export function decide(state: AccountState, event: AccountEvent, facts: Facts): Decision {
  switch (event.kind) {
    case 'asked':
      return decideAsked(state, event.intent, facts);
    case 'reported':
      return decideReports(state, event.reports, facts);
    case 'priced':
      return decidePriced(state, event.row, facts);
    case 'arranged':
      return decideArrange(state, event.instruments, facts);
    case 'judged':
      return decideJudged(state, facts);
    case 'cut-off':
      return decideCutOff(state, event.restart, facts);
    case 'back':
      return decideBack(state, facts);
    case 'timer':
      return decideExpiries(state, facts);
    case 'reconciled':
      return decideReconcile(state, event.theirs, facts);
    default:
      return event satisfies never;
  }
}

function decideAsked(state: AccountState, intent: Intent, facts: Facts): Decision {
  switch (intent.kind) {
    case 'place':
      return decidePlace(state, intent.order, facts);
    case 'place-many':
      return decidePlaceMany(state, intent.orders, facts);
    case 'place-group':
      return decidePlaceGroup(state, intent, facts);
    case 'link-orders':
      return decideLinkOrders(state, intent, facts);
    case 'replace':
      return decideReplace(state, intent, facts);
    case 'cancel':
      return decideCancel(state, intent.orderId, facts, intent.reasonCode ?? 'user');
    case 'cancel-many':
      return decideCancelMany(state, intent, facts);
    case 'close':
      return decideClose(state, intent, facts);
    case 'flatten':
      return decideFlatten(state, intent.instrument, facts);
    case 'reverse':
      return decideReverse(state, intent, facts);
    case 'set-rules':
      return decideSetRules(state, intent, facts);
    case 'lock':
      return decideLock(state, intent, facts);
    case 'put-plan':
      return decidePutPlan(state, intent, facts);
    case 'stop-plan':
      return decideStopPlan(state, intent.planId, facts);
    case 'answer-plan':
      return decideAnswerPlan(state, intent, facts);
    case 'move-leg':
      return decideMoveLeg(state, intent, facts);
    case 'cash':
      return decideCash(state, intent, facts);
    case 'cash-back':
      return decideCashBack(state, intent.requestId, facts);
    case 'apply':
      return decideApply(state, intent, facts);
    case 'change-application':
      return decideChangeApplication(state, intent, facts);
    case 'take-back-application':
      return decideTakeBack(state, intent, facts);
    case 'mark-trip':
      return decideMarkTrip(state, intent, facts);
    case 'unreadable': {
      const { what, asked, instrument, orderId, refusal } = intent;
      const order = orderId === null ? null : (orderOf(state, orderId) ?? facts.past(orderId)?.order ?? null);
      return refusedEntry(state, facts, what, asked, instrument, order, refusal);
    }
    default:
      return intent satisfies never;
  }
}

function decideMarkTrip(state: AccountState, intent: Intent & { kind: 'mark-trip' }, facts: Facts): Decision {
  const { trip, instrument, setup, note } = intent;
  const drafts = new Drafts(state, facts, 'user');
  const said = [
    ...(setup === undefined ? [] : [setup === null ? 'no setup' : `setup ${setup}`]),
    ...(note === undefined ? [] : [note === null ? 'no note' : 'a note']),
  ];
  const data = { kind: 'round-trip-marked', trip, ...(setup === undefined ? {} : { setup }), ...(note === undefined ? {} : { note }) } as const;
  drafts.say(`Round trip in ${instrument}: ${said.join(', ')}.`, data, { instrument });
  return { entries: drafts.entries, answer: { kind: 'done' } };
}

/** What must be known before an event can be decided. */
export function needsOf(state: AccountState, event: AccountEvent, instrumentOf: (id: string) => Instrument): Needs {
  switch (event.kind) {
    case 'asked':
      return needsOfAsked(state, event.intent, instrumentOf);
    case 'reported': {
      const orders = event.reports.flatMap((report) => (report.kind === 'order' && !state.working.has(report.orderId) ? [report.orderId] : []));
      return orders.length === 0 ? NO_NEEDS : { ...NO_NEEDS, orders };
    }
    case 'priced':
      return { ...NO_NEEDS, quotes: new Set([event.row.instrument]) };
    case 'arranged':
      return { ...NO_NEEDS, quotes: new Set(event.instruments.filter((id) => plansIn(state, id).some((plan) => !isOver(plan)))) };
    case 'judged':
      return { ...NO_NEEDS, quotes: judgesMoney(state) ? markedInstruments(state, instrumentOf) : new Set() };
    case 'cut-off':
    case 'timer':
      return NO_NEEDS;
    case 'back':
      return missedNeeds(state);
    case 'reconciled': {
      const quotes = new Set([...state.working.values()].map(({ order }) => order.instrument));
      const orders = event.theirs.orders.map(({ order }) => order.id).filter((id) => !state.working.has(id));
      return { ...NO_NEEDS, quotes, orders };
    }
    default:
      return event satisfies never;
  }
}

function needsOfAsked(state: AccountState, intent: Intent, instrumentOf: (id: string) => Instrument): Needs {
  const valued = (instrument: string): Set<string> => {
    const { underlying } = instrumentOf(instrument);
    return new Set([...markedInstruments(state, instrumentOf), instrument, ...(underlying === null ? [] : [underlying])]);
  };
  switch (intent.kind) {
    case 'place': {
      const { instrument, terms, side, clientOrderId } = intent.order;
      const unpriced = limitPriceOf(terms, side, instrumentOf(instrument)) === null && stopPriceOf(terms) === null;
      return { ...NO_NEEDS, quotes: valued(instrument), books: unpriced ? [instrument] : [], clientOrderIds: [clientOrderId] };
    }
    case 'place-many':
    case 'place-group': {
      const instruments = new Set(intent.orders.map(({ instrument }) => instrument));
      const quotes = new Set([...instruments].flatMap((id) => [...valued(id)]));
      const clientOrderIds = intent.orders.map(({ clientOrderId }) => clientOrderId);
      return { ...NO_NEEDS, quotes, books: [...instruments], clientOrderIds };
    }
    case 'link-orders':
      return { ...NO_NEEDS, orders: intent.orderIds.filter((id) => !state.working.has(id)) };
    case 'reverse':
      return {
        ...NO_NEEDS,
        quotes: valued(intent.instrument),
        books: [intent.instrument],
        clientOrderIds: intent.clientOrderId === null ? [] : [intent.clientOrderId],
      };
    case 'put-plan':
      return { ...NO_NEEDS, quotes: new Set([intent.instrument]) };
    case 'stop-plan':
    case 'answer-plan':
    case 'move-leg': {
      const plan = state.plans.get(intent.planId);
      return plan ? { ...NO_NEEDS, quotes: new Set([plan.instrument]) } : NO_NEEDS;
    }
    case 'replace': {
      const order = orderOf(state, intent.orderId);
      const named = intent.clientOrderId === null ? [] : [intent.clientOrderId];
      if (!order) return { ...NO_NEEDS, clientOrderIds: named, orders: [intent.orderId] };
      const unpriced = intent.change.type === 'market' || intent.change.type === 'trailing-stop';
      return { ...NO_NEEDS, quotes: valued(order.instrument), books: unpriced ? [order.instrument] : [], clientOrderIds: named };
    }
    case 'cancel':
      return state.working.has(intent.orderId) ? NO_NEEDS : { ...NO_NEEDS, orders: [intent.orderId] };
    case 'cancel-many':
    case 'set-rules':
    case 'lock':
    case 'mark-trip':
    case 'cash-back':
    case 'take-back-application':
      return NO_NEEDS;
    case 'apply':
    case 'change-application':
    case 'cash':
      return { ...NO_NEEDS, quotes: markedInstruments(state, instrumentOf) };
    case 'unreadable':
      return intent.orderId === null ? NO_NEEDS : { ...NO_NEEDS, orders: [intent.orderId] };
    case 'close':
      return { ...NO_NEEDS, quotes: new Set([intent.instrument]), clientOrderIds: intent.clientOrderId === null ? [] : [intent.clientOrderId] };
    case 'flatten':
      return { ...NO_NEEDS, quotes: new Set(openPositions(state, intent.instrument).map(({ instrument }) => instrument)) };
    default:
      return intent satisfies never;
  }
}

const judgesMoney = (state: AccountState): boolean => watchesLosses(state) && Object.keys(state.book.positions).length > 0;

/** Whether looking at an account's rules could lead to anything. */
export const hasRules = (state: AccountState): boolean => {
  const { rules, blocks, closeOut } = state.risk;
  return watchesLosses(state) || blocks.length > 0 || closeOut?.state === 'running' || rules.dayQuantityCap !== null || rules.coolDownAfterLosses !== null;
};

/** The trades that what was cut off did not see, and what follows from them. */
function missedNeeds(state: AccountState): Needs {
  const trades = new Map<string, number>();
  const from = (instrument: string, time: number): void => void trades.set(instrument, Math.min(trades.get(instrument) ?? Infinity, time));
  for (const plan of state.plans.values()) if (plan.plan.heldBy === 'here' && plan.state === 'suspended') from(plan.instrument, plan.judgedUpTo);
  for (const order of heldHere(state)) if (order.suspended) from(order.instrument, judgedUpTo(order, state.cutOffSince));
  return { ...NO_NEEDS, quotes: new Set(trades.keys()), trades };
}

/** Instruments whose every price row an account must see, in order among its reports. */
export function armedInstruments(state: AccountState): ReadonlySet<string> {
  const armed = watchedForLosses(state);
  for (const plan of state.plans.values()) if (!isOver(plan) && (plan.plan.heldBy === 'here' || watchesPrices(plan))) armed.add(plan.instrument);
  for (const order of heldHere(state)) armed.add(order.instrument);
  return armed;
}

const watchesPrices = ({ plan }: RunningPlan): boolean => plan.steps.some(({ stop }) => (stop?.adjust.length ?? 0) > 0);

/** The instruments of entries that exit plans, or orders held here, may have to follow. */
export const followedInstruments = (state: AccountState, entries: readonly Entry[]): string[] => [
  ...new Set(
    entries.flatMap((entry) => {
      const { instrument } = entry;
      return instrument !== null && (state.plansIn.has(instrument) || (state.here.size > 0 && movesPosition(entry))) ? [instrument] : [];
    }),
  ),
];

const movesPosition = ({ data }: Entry): boolean => data.kind === 'position-settled' || (data.kind === 'order-report' && data.report.kind === 'trade');

/** When something held here next ends by itself; null where nothing does. */
export function nextWake(state: AccountState, instrumentOf: (id: string) => Instrument, now: number): number | null {
  let next: number | null = closesAgain(state) ? now + CLOSE_AGAIN_MS : null;
  for (const order of heldHere(state)) {
    const at = endOfHeld(order, instrumentOf(order.instrument));
    if (at !== null && (next === null || at < next)) next = at;
  }
  return next;
}

function endOfHeld({ terms, createdAt }: Order, { venue }: Instrument): number | null {
  switch (terms.lifetime.kind) {
    case 'gtd':
      return terms.lifetime.until;
    case 'gtc':
      return gtcEnd(venue, createdAt);
    case 'day':
      return dayStart(venue, nextTradingDay(venue, tradingDay(venue, createdAt)));
    case 'ioc':
    case 'fok':
      return null;
    default:
      return terms.lifetime satisfies never;
  }
}

/** What is held here and has come to its end. */
function decideExpiries(state: AccountState, facts: Facts): Decision {
  const drafts = new Drafts(state, facts, 'desk');
  for (const order of heldHere(state)) {
    const at = endOfHeld(order, facts.instrument(order.instrument));
    const { kind } = order.terms.lifetime;
    if (at !== null && at <= facts.now) adjust(drafts, order, { kind: 'expired', reasonCode: kind === 'gtd' || kind === 'gtc' ? kind : 'day-end' });
  }
  return { entries: drafts.entries, answer: { kind: 'done' } };
}

const asNew = (order: Order): Order => ({ ...order, pendingCancel: null, pendingReplace: null });

/** What an entry, once it is written, sends to the broker; null where it sends nothing. */
export function commandOf(entry: Entry, state: AccountState): BrokerCommand | null {
  const { data, time: sentAt, account } = entry;
  if (account === null) return null;
  switch (data.kind) {
    case 'order-requested':
      return data.grouped || isHere(data.order) ? null : { kind: 'new', account, sentAt, number: data.number, order: data.order };
    case 'order-released': {
      const order = orderOf(state, data.orderId);
      return order && { kind: 'new', account, sentAt, number: data.number, order };
    }
    case 'orders-grouped':
      return { kind: 'group', account, sentAt, number: data.number, orders: data.orderIds.flatMap((id) => orderOf(state, id) ?? []) };
    case 'link-requested':
      return { kind: 'link', account, sentAt, number: data.number, requestId: data.requestId, group: data.group, orderIds: data.orderIds };
    case 'replace-requested':
      return { kind: 'replace', account, sentAt, number: data.number, orderId: data.orderId, requestId: data.requestId, change: data.change };
    case 'cancel-requested':
      return { kind: 'cancel', account, sentAt, number: data.number, orderId: data.orderId, requestId: data.requestId, reasonCode: data.reasonCode };
    case 'cash-requested':
      return { kind: 'cash', account, sentAt, number: data.number, request: data.request };
    case 'cash-back-requested':
      return { kind: 'cash-back', account, sentAt, number: data.number, cashRequestId: data.requestId };
    case 'application-requested':
      return { kind: 'application', account, sentAt, number: data.number, application: data.application };
    case 'application-back-requested':
      return { kind: 'application-back', account, sentAt, number: data.number, applicationId: data.applicationId };
    case 'resent': {
      const again = { account, sentAt, number: state.count };
      if (data.what === 'cash-back') return { kind: 'cash-back', cashRequestId: data.orderId, ...again };
      if (data.what === 'cash') {
        const known = state.cash.get(data.orderId);
        return known ? { kind: 'cash', request: known.request, ...again } : null;
      }
      if (data.what === 'application-back') return { kind: 'application-back', applicationId: data.orderId, ...again };
      if (data.what === 'application') {
        const known = state.applications.get(data.orderId);
        return known ? { kind: 'application', application: known.application, ...again } : null;
      }
      if (data.what === 'link') {
        const link = state.links.get(data.orderId);
        return link ? { kind: 'link', ...again, ...link } : null;
      }
      const order = orderOf(state, data.orderId);
      if (!order) return null;
      if (data.what === 'new') return { kind: 'new', order: asNew(order), ...again };
      if (data.what === 'replace') return order.pendingReplace && { kind: 'replace', orderId: order.id, ...again, ...order.pendingReplace };
      return order.pendingCancel && { kind: 'cancel', orderId: order.id, ...again, ...order.pendingCancel };
    }
    default:
      return null;
  }
}
