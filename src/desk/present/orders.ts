import { formatPrice, formatQuantity, type Instrument, type Quantity } from '../../core/instrument/index.ts';
import { gtcEnd } from '../../core/market/index.ts';
import { formatMoney } from '../../core/number/index.ts';
import { orderSentence, orderState, remainingQuantity, type Order } from '../../core/orders/index.ts';
import type { Entry } from '../journal.ts';
import type { Fill } from '../state.ts';
import { averageText, isoOrNull, isoTime, priceOr, quantityOr } from './text.ts';

/** @param ahead what is displayed in front of it at its price, where that is known */
export function presentOrder(instrument: Instrument, order: Order, ahead: Quantity | null = null): Record<string, unknown> {
  return {
    clientOrderId: order.clientOrderId,
    account: order.account,
    instrument: order.instrument,
    side: order.side,
    type: order.type,
    quantity: formatQuantity(instrument, order.quantity),
    limitPrice: priceOr(instrument, order.limitPrice),
    limitOffsetTicks: order.limitOffsetTicks,
    stopPrice: priceOr(instrument, order.stopPrice),
    triggerOn: order.triggerOn,
    trail: null,
    timeInForce: order.timeInForce,
    expiresAt: isoOrNull(endOf(order, instrument)),
    heldBy: order.heldBy,
    product: order.product,
    exitPlan: null,
    reduceOnly: order.reduceOnly,
    crossesZero: order.crossesZero,
    restOnly: order.restOnly,
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
    group: null,
    plan: null,
    reason: order.reason,
    reasonCode: order.reasonCode,
    ahead: quantityOr(instrument, ahead),
    sentence: orderSentence(order, instrument),
    version: order.version,
    createdAt: isoTime(order.createdAt),
    updatedAt: isoTime(order.updatedAt),
  };
}

/** When the order ends by its own terms; of gtc once it is accepted. */
function endOf(order: Order, instrument: Instrument): number | null {
  if (order.timeInForce !== 'gtc') return order.expiresAt;
  return order.acknowledged === 'accepted' ? gtcEnd(instrument.venue, order.createdAt) : null;
}

export function presentHistory(instrument: Instrument, entry: Entry): Record<string, unknown> {
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

export const presentFill = (instrument: Instrument, fill: Fill): Record<string, unknown> => ({
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

export const presentEntry = (entry: Entry): Record<string, unknown> => ({
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
const plain = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value, (_key, part: unknown) => (typeof part === 'bigint' ? part.toString() : part))) as unknown;
