import { fromText, toText } from '../core/exact-text.ts';
import { completeOrder, type Order } from '../core/orders/index.ts';
import { ENTRY_VERSION } from './journal.ts';
import type { LogRow } from './store.ts';

/** The form of the snapshots that are written now. One of an older form is passed over: the log has all that is in it. */
export const SNAPSHOT_VERSION = 8;

type Loose = Record<string, unknown>;

/** Brings the data of an entry from one version to the next. */
interface Step {
  readonly name: string;
  up(data: Loose): Loose;
}

const prices = (flat: Loose): Loose => {
  const { type, limitPrice, limitOffsetTicks, stopPrice, triggerOn, restOnly, pegged } = flat;
  switch (type) {
    case 'limit':
      return pegged === true ? { type: 'following', limit: limitPrice } : { type, limit: limitPrice, restOnly };
    case 'stop':
      return { type, stop: stopPrice, triggerOn };
    case 'stop-limit': {
      const limit = limitOffsetTicks === null ? { by: 'price', price: limitPrice } : { by: 'offset', ticks: limitOffsetTicks };
      return { type, stop: stopPrice, limit, triggerOn };
    }
    default:
      return { type };
  }
};

const termsOf = (flat: Loose): Loose => ({
  ...prices(flat),
  quantity: flat['quantity'],
  lifetime: flat['timeInForce'] === 'gtd' ? { kind: 'gtd', until: flat['expiresAt'] } : { kind: flat['timeInForce'] },
});

const FLAT = ['type', 'quantity', 'limitPrice', 'limitOffsetTicks', 'stopPrice', 'triggerOn', 'timeInForce', 'expiresAt', 'restOnly', 'pegged', 'fingerprint'];

function orderFrom(flat: Loose): Loose {
  const rest = Object.fromEntries(Object.entries(flat).filter(([name]) => !FLAT.includes(name)));
  const { pendingCancel, pendingReplace } = flat as { pendingCancel: string | null; pendingReplace: { requestId: string; terms: Loose } | null };
  return {
    ...rest,
    terms: termsOf(flat),
    pendingCancel: pendingCancel === null ? null : { requestId: pendingCancel, reasonCode: 'user' },
    pendingReplace: pendingReplace && { requestId: pendingReplace.requestId, change: changeFrom(pendingReplace.terms) },
  };
}

/** All the terms of a flat replace as a change that says each of them. */
const changeFrom = (flat: Loose): Loose => {
  const { restOnly, limitPrice: limit, limitOffsetTicks, stopPrice: stop, type, quantity, triggerOn } = flat;
  const offset = limitOffsetTicks ?? undefined;
  const said = { type, quantity, limit: offset === undefined ? limit : undefined, offsetTicks: offset, stop, triggerOn, lifetime: termsOf(flat)['lifetime'] };
  const entries = Object.entries({ ...said, restOnly: type === 'limit' ? restOnly : undefined });
  return Object.fromEntries(entries.filter(([, value]) => value !== undefined && value !== null));
};

const numberIn = (id: unknown): number => Number(/(\d+)$/.exec(String(id))?.[1] ?? 0);

/** Orders with a bag of fields become orders with terms by type; what was pegged follows. */
const TERMS_BY_TYPE: Step = {
  name: 'terms-by-type',
  up: (data) => {
    switch (data['kind']) {
      case 'order-requested': {
        const order = data['order'] as Loose;
        const asked = { clientOrderId: order['clientOrderId'], content: order['fingerprint'] };
        return { kind: 'order-requested', number: numberIn(order['id']), order: orderFrom(order), asked };
      }
      case 'order-opened':
        return { ...data, order: orderFrom(data['order'] as Loose) };
      case 'replace-requested': {
        const change = data['change'] as { clientOrderId: string; fingerprint: string } | null;
        const asked = change && { clientOrderId: change.clientOrderId, content: change.fingerprint };
        return {
          kind: 'replace-requested',
          number: 0,
          orderId: data['orderId'],
          requestId: data['requestId'],
          change: changeFrom(data['terms'] as Loose),
          asked,
        };
      }
      case 'cancel-requested':
        return { ...data, number: 0 };
      case 'order-report': {
        const report = data['report'] as Loose;
        if (report['kind'] === 'repriced') return { ...data, report: { kind: 'new', standing: report['limitPrice'] } };
        if (report['kind'] === 'replaced') return { ...data, report: { ...report, terms: termsOf(report['terms'] as Loose) } };
        if (report['kind'] === 'rejected') return { ...data, report: { ...report, reasonCode: 'venue' } };
        return data;
      }
      case 'order-refused':
        return { kind: 'refused', what: 'order', asked: data['request'], refusal: data['refusal'] };
      case 'difference':
        return { ...data, order: null, book: null };
      case 'resent':
        return { ...data, what: data['what'] === 'order' ? 'new' : data['what'] };
      default:
        return data;
    }
  },
};

/** Orders get a group and a plan; those written before have none. */
const WITH_PLANS: Step = {
  name: 'with-plans',
  up: (data) => ('order' in data && data['order'] ? { ...data, order: completeOrder(data['order'] as unknown as Order) } : data),
};

/** The steps that bring an entry of version n to n + 1, by n. */
const STEPS: Readonly<Record<number, Step>> = { 1: TERMS_BY_TYPE, 2: WITH_PLANS };

/** A row as it would be written today. */
export function upgradeRow(row: LogRow): LogRow {
  if (row.version === ENTRY_VERSION) return row;
  let data = fromText(row.data) as Loose;
  for (let version = row.version; version < ENTRY_VERSION; version++) {
    const step = STEPS[version];
    if (!step) throw new Error(`no step brings entries of version ${version} up`);
    data = step.up(data);
  }
  return { ...row, version: ENTRY_VERSION, kind: String(data['kind']), data: toText(data) };
}
