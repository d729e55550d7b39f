import type { Entry, Fill } from '../../core/desk/index.ts';
import { exitPlanText } from '../../core/exits/index.ts';
import { formatPrice, formatQuantity, type Instrument } from '../../core/instrument/index.ts';
import { gtcEnd, type Trail } from '../../core/market/index.ts';
import { formatMoney, formatScaled } from '../../core/number/index.ts';
import {
  isRestOnly,
  limitPriceOf,
  orderSentence,
  orderState,
  orderType,
  remainingQuantity,
  standingAt,
  stopPriceOf,
  triggerOf,
  type Order,
} from '../../core/orders/index.ts';
import type { accounts, orders, ShapeOf } from '../../schemas/shapes.ts';
import type { OrderStanding } from '../../venue/messages.ts';
import { averageText, isoOrNull, isoTime, priceOr, quantityOr } from './text.ts';

export type OrderAnswer = ShapeOf<typeof orders.order>;
export type FillAnswer = ShapeOf<typeof orders.fill>;
export type HistoryAnswer = ShapeOf<typeof orders.history>;
export type ActivityAnswer = ShapeOf<typeof accounts.activity>;

/** @param standing where it stands at the venue just now, where that is known */
export function presentOrder(instrument: Instrument, given: Order, standing: OrderStanding | null = null): OrderAnswer {
  const price = standing?.price ?? null;
  const order = price === null ? given : { ...given, terms: standingAt(given.terms, price) };
  const { terms } = order;
  return {
    clientOrderId: order.clientOrderId,
    account: order.account,
    instrument: order.instrument,
    side: order.side,
    type: orderType(terms),
    quantity: formatQuantity(instrument, terms.quantity),
    limitPrice: priceOr(instrument, limitPriceOf(terms, order.side, instrument)),
    limitOffsetTicks: terms.type === 'stop-limit' && terms.limit.by === 'offset' ? terms.limit.ticks : null,
    stopPrice: priceOr(instrument, stopPriceOf(terms)),
    triggerOn: triggerOf(terms),
    trail: terms.type === 'trailing-stop' ? { unit: terms.trail.unit, value: trailValue(terms.trail, instrument) } : null,
    timeInForce: terms.lifetime.kind,
    expiresAt: isoOrNull(endOf(order, instrument)),
    heldBy: order.heldBy,
    product: order.product,
    exitPlan: order.exitPlan && (order.exitPlan.byName ? order.exitPlan.name : exitPlanText(order.exitPlan)),
    reduceOnly: order.reduceOnly,
    crossesZero: order.crossesZero,
    restOnly: isRestOnly(terms),
    setup: order.setup,
    id: order.id,
    state: orderState(order),
    role: order.role,
    opening: order.opening,
    filledQuantity: formatQuantity(instrument, order.filledQuantity),
    remainingQuantity: formatQuantity(instrument, remainingQuantity(order)),
    averagePrice: averageText(instrument, order.filledQuantity, order.filledValue),
    fees: formatMoney(order.fees, instrument.settlesIn),
    triggeredAt: isoOrNull(order.triggeredAt),
    group: order.group?.id ?? null,
    plan: order.plan,
    reason: order.reason,
    reasonCode: order.reasonCode,
    ahead: quantityOr(instrument, standing?.ahead ?? null),
    sentence: orderSentence(order, instrument),
    version: order.version,
    createdAt: isoTime(order.createdAt),
    updatedAt: isoTime(order.updatedAt),
  };
}

function trailValue(trail: Trail, instrument: Instrument): string {
  switch (trail.unit) {
    case 'ticks':
      return String(trail.ticks);
    case 'percent':
      return formatScaled(trail.percent, 8, 0);
    case 'money':
      return formatMoney(trail.value, instrument.settlesIn);
    default:
      return trail satisfies never;
  }
}

/** When the order ends by its own terms; of gtc once it is accepted. */
function endOf({ terms, acknowledged, createdAt }: Order, instrument: Instrument): number | null {
  if (terms.lifetime.kind === 'gtd') return terms.lifetime.until;
  return terms.lifetime.kind === 'gtc' && acknowledged === 'accepted' ? gtcEnd(instrument.venue, createdAt) : null;
}

export function presentHistory(instrument: Instrument, entry: Entry): HistoryAnswer {
  const line = entry.history;
  if (!line) throw new Error(`entry ${entry.seq} is no part of an order's history`);
  return {
    seq: entry.seq,
    time: isoTime(entry.time),
    version: line.version,
    execType: line.execType,
    state: line.state,
    quantity: formatQuantity(instrument, line.quantity),
    limitPrice: priceOr(instrument, line.limitPrice),
    stopPrice: priceOr(instrument, line.stopPrice),
    filledQuantity: formatQuantity(instrument, line.filledQuantity),
    remainingQuantity: formatQuantity(instrument, line.remainingQuantity),
    fillId: line.fillId,
    reason: line.reason,
  };
}

export const presentFill = (instrument: Instrument, fill: Fill): FillAnswer => ({
  id: fill.id,
  seq: fill.seq,
  time: isoTime(fill.time),
  orderId: fill.orderId,
  clientOrderId: fill.clientOrderId,
  account: fill.account,
  instrument: fill.instrument,
  side: fill.side,
  role: fill.role,
  quantity: formatQuantity(instrument, fill.quantity),
  price: formatPrice(instrument, fill.price),
  fee: formatMoney(fill.fee, instrument.settlesIn),
  feeCurrency: instrument.settlesIn,
  realised: formatMoney(fill.realised, instrument.settlesIn),
  currency: instrument.settlesIn,
  liquidity: fill.liquidity,
});

export const presentEntry = (entry: Entry): ActivityAnswer => ({
  seq: entry.seq,
  time: isoTime(entry.time),
  account: entry.account,
  by: entry.by,
  kind: entry.data.kind,
  instrument: entry.instrument,
  orderId: entry.orderId,
  causedBy: entry.causedBy,
  text: entry.text,
  data: plain(entry.data),
  hash: entry.hash,
});

/** Exact integers as their digits: the data of an entry in the units it was stored in. */
const plain = (value: object): Record<string, unknown> =>
  JSON.parse(JSON.stringify(value, (_key, part: unknown) => (typeof part === 'bigint' ? part.toString() : part))) as Record<string, unknown>;
