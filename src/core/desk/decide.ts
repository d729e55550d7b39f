import type { Instrument } from '../instrument/index.ts';
import { limitPriceOf, stopPriceOf } from '../orders/index.ts';
import type { BrokerCommand, BrokerReport, BrokerStatus, PriceRow } from './broker.ts';
import { decideCancel, decideReplace } from './change.ts';
import { decideCancelMany, decideClose, decideFlatten, openPositions } from './close.ts';
import { NOTHING_DONE, type Decision } from './decision.ts';
import type { Entry } from './entries.ts';
import { markedInstruments } from './exposure.ts';
import { NO_NEEDS, type Facts, type Needs } from './facts.ts';
import type { Intent } from './intents.ts';
import { decidePlace, refusedEntry } from './place.ts';
import { decideReconcile } from './reconcile.ts';
import { decideReports } from './reports.ts';
import { orderOf, type AccountState } from './state.ts';

/** Whatever can happen to an account. */
export type AccountEvent =
  | { readonly kind: 'asked'; readonly intent: Intent }
  /** What the broker says, in its order; all of it belongs to one event there, or to none that waits. */
  | { readonly kind: 'reported'; readonly reports: readonly BrokerReport[] }
  /** A row of a market that something in the account waits on. */
  | { readonly kind: 'priced'; readonly row: PriceRow }
  | { readonly kind: 'reconciled'; readonly theirs: BrokerStatus };

/** The one place where anything is decided. Pure: the same state, event and facts give the same decision. */
export function decide(state: AccountState, event: AccountEvent, facts: Facts): Decision {
  switch (event.kind) {
    case 'asked':
      return decideAsked(state, event.intent, facts);
    case 'reported':
      return decideReports(state, event.reports, facts);
    case 'priced':
      return NOTHING_DONE;
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
    case 'replace':
      return decideReplace(state, intent, facts);
    case 'cancel':
      return decideCancel(state, intent.orderId, facts);
    case 'cancel-many':
      return decideCancelMany(state, intent, facts);
    case 'close':
      return decideClose(state, intent, facts);
    case 'flatten':
      return decideFlatten(state, intent.instrument, facts);
    case 'unreadable': {
      const { what, asked, instrument, orderId, refusal } = intent;
      const order = orderId === null ? null : (orderOf(state, orderId) ?? facts.past(orderId)?.order ?? null);
      return refusedEntry(state, facts, what, asked, instrument, order, refusal);
    }
    default:
      return intent satisfies never;
  }
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
      return NO_NEEDS;
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
      return { quotes: valued(instrument), books: unpriced ? [instrument] : [], clientOrderIds: [clientOrderId], orders: [] };
    }
    case 'replace': {
      const order = orderOf(state, intent.orderId);
      const named = intent.clientOrderId === null ? [] : [intent.clientOrderId];
      if (!order) return { ...NO_NEEDS, clientOrderIds: named, orders: [intent.orderId] };
      const unpriced = intent.change.type === 'market' || intent.change.type === 'trailing-stop';
      return { quotes: valued(order.instrument), books: unpriced ? [order.instrument] : [], clientOrderIds: named, orders: [] };
    }
    case 'cancel':
      return state.working.has(intent.orderId) ? NO_NEEDS : { ...NO_NEEDS, orders: [intent.orderId] };
    case 'cancel-many':
      return NO_NEEDS;
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

/** Instruments whose every price row an account must see, in order among its reports. */
export const armedInstruments = (_state: AccountState): ReadonlySet<string> => NOTHING_ARMED;
const NOTHING_ARMED: ReadonlySet<string> = new Set();

/** What an entry, once it is written, sends to the broker; null where it sends nothing. */
export function commandOf(entry: Entry, state: AccountState): BrokerCommand | null {
  const { data, time: sentAt, account } = entry;
  if (account === null) return null;
  switch (data.kind) {
    case 'order-requested':
      return { kind: 'new', account, sentAt, number: data.number, order: data.order };
    case 'replace-requested':
      return { kind: 'replace', account, sentAt, number: data.number, orderId: data.orderId, requestId: data.requestId, change: data.change };
    case 'cancel-requested':
      return { kind: 'cancel', account, sentAt, number: data.number, orderId: data.orderId, requestId: data.requestId, reasonCode: data.reasonCode };
    case 'resent': {
      const order = orderOf(state, data.orderId);
      const again = { account, sentAt, number: state.count };
      if (!order) return null;
      if (data.what === 'new') return { kind: 'new', ...again, order: { ...order, pendingCancel: null, pendingReplace: null } };
      if (data.what === 'replace') return order.pendingReplace && { kind: 'replace', ...again, orderId: order.id, ...order.pendingReplace };
      return order.pendingCancel && { kind: 'cancel', ...again, orderId: order.id, ...order.pendingCancel };
    }
    default:
      return null;
  }
}
