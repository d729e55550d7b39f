import { HOLDERS, ORDER_ROLES, PARTIAL_FILL_ACTS, ORDER_STATES, REASON_CODES, TIMES_IN_FORCE } from '../core/orders/index.ts';
import { ORDER_TYPES } from '../core/instrument/index.ts';
import { TRAIL_UNITS, TRIGGER_SOURCES } from '../core/market/index.ts';
import { PRODUCTS } from '../core/portfolio/index.ts';
import { plannedExit, planOrName } from './exits.ts';
import { bool, dec, decOrNull, givenName, id, idOrNull, int, intOrNull, list, shape, side, text, textOrNull, time, timeOrNull } from './values.ts';

const type = { type: 'string', enum: ORDER_TYPES } as const;
const triggerOn = { type: 'string', enum: TRIGGER_SOURCES } as const;
const timeInForce = { type: 'string', enum: TIMES_IN_FORCE } as const;
const product = { type: 'string', enum: PRODUCTS } as const;
const trail = {
  type: 'object',
  properties: { unit: { type: 'string', enum: TRAIL_UNITS }, value: dec },
  required: ['unit', 'value'],
  additionalProperties: false,
} as const;
const offset = { type: 'integer', minimum: 0, maximum: 10_000 } as const;

const requested = {
  clientOrderId: id,
  account: id,
  instrument: id,
  side,
  type,
  quantity: dec,
  limitPrice: dec,
  limitOffsetTicks: offset,
  stopPrice: dec,
  triggerOn,
  trail,
  timeInForce,
  expiresAt: time,
  heldBy: { type: 'string', enum: HOLDERS },
  product,
  reduceOnly: bool,
  crossesZero: bool,
  restOnly: bool,
  setup: givenName,
  exitPlan: planOrName,
} as const;

export const orderRequest = {
  type: 'object',
  properties: requested,
  required: ['clientOrderId', 'account', 'instrument', 'side', 'type', 'quantity'],
  additionalProperties: false,
} as const;

export const previewRequest = { ...orderRequest, required: ['account', 'instrument', 'side', 'type', 'quantity'] } as const;

export const orderChange = {
  type: 'object',
  properties: {
    type,
    quantity: dec,
    limitPrice: dec,
    limitOffsetTicks: offset,
    stopPrice: dec,
    trail,
    triggerOn,
    timeInForce,
    expiresAt: time,
    restOnly: bool,
    version: { type: 'integer', minimum: 1 },
    clientOrderId: id,
  },
  anyOf: ['type', 'quantity', 'limitPrice', 'limitOffsetTicks', 'stopPrice', 'trail', 'triggerOn', 'timeInForce', 'expiresAt', 'restOnly'].map((field) => ({
    required: [field],
  })),
  additionalProperties: false,
} as const;

export const closeRequest = {
  type: 'object',
  properties: { quantity: dec, percent: dec, clientOrderId: id },
  not: { required: ['quantity', 'percent'] },
  additionalProperties: false,
} as const;

export const reverseRequest = { type: 'object', properties: { clientOrderId: id }, additionalProperties: false } as const;

const onPartialFill = { type: 'string', enum: PARTIAL_FILL_ACTS } as const;

/** New orders at once, or working ones linked: one of the two. */
export const groupRequest = {
  type: 'object',
  properties: {
    kind: { enum: ['oco'] },
    orders: { type: 'array', items: orderRequest, minItems: 2, maxItems: 10 },
    orderIds: { type: 'array', items: id, minItems: 2, maxItems: 10 },
    onPartialFill,
  },
  required: ['kind'],
  oneOf: [{ required: ['orders'] }, { required: ['orderIds'] }],
  additionalProperties: false,
} as const;

export const flattenRequest = { type: 'object', properties: { account: id, instrument: id }, required: ['account'], additionalProperties: false } as const;
export const cancelRequest = { type: 'object', properties: { account: id, instrument: id, side }, required: ['account'], additionalProperties: false } as const;

const state = { type: 'string', enum: ORDER_STATES } as const;

export const order = shape({
  clientOrderId: id,
  account: id,
  instrument: id,
  side,
  type,
  quantity: dec,
  limitPrice: decOrNull,
  limitOffsetTicks: intOrNull,
  stopPrice: decOrNull,
  triggerOn,
  trail: { oneOf: [shape({ unit: { type: 'string', enum: TRAIL_UNITS }, value: dec }), { type: 'null' }] },
  timeInForce,
  expiresAt: timeOrNull,
  heldBy: requested.heldBy,
  product,
  exitPlan: { oneOf: [text, plannedExit, { type: 'null' }] },
  reduceOnly: bool,
  crossesZero: bool,
  restOnly: bool,
  setup: textOrNull,
  id,
  state,
  role: { type: 'string', enum: ORDER_ROLES },
  opening: bool,
  filledQuantity: dec,
  remainingQuantity: dec,
  averagePrice: decOrNull,
  fees: dec,
  triggeredAt: timeOrNull,
  group: idOrNull,
  plan: idOrNull,
  reason: textOrNull,
  reasonCode: { enum: [...REASON_CODES, null] },
  ahead: { ...decOrNull, description: 'Displayed in front of it at its price; null where that is not known.' },
  sentence: text,
  version: int,
  createdAt: time,
  updatedAt: time,
});

export const group = shape({ id, kind: { enum: ['oco'] }, onPartialFill, orders: list(order) });

export const history = shape({
  seq: int,
  time,
  version: int,
  execType: text,
  state,
  quantity: dec,
  limitPrice: decOrNull,
  stopPrice: decOrNull,
  filledQuantity: dec,
  remainingQuantity: dec,
  fillId: idOrNull,
  reason: textOrNull,
});

export const fill = shape({
  id,
  seq: int,
  time,
  orderId: id,
  clientOrderId: id,
  account: id,
  instrument: id,
  side,
  role: text,
  quantity: dec,
  price: dec,
  fee: dec,
  feeCurrency: text,
  realised: dec,
  currency: text,
  liquidity: { type: 'string', enum: ['added', 'removed'] },
});

export const preview = shape({
  ok: bool,
  sentence: text,
  checks: list(shape({ rule: text, result: { type: 'string', enum: ['pass', 'warn', 'refuse'] }, message: text })),
  estimate: shape({
    fills: list(shape({ price: dec, quantity: dec })),
    unfilledQuantity: dec,
    averagePrice: decOrNull,
    value: dec,
    fees: dec,
    margin: dec,
    buyingPowerAfter: dec,
  }),
  openRisk: shape({ order: decOrNull, before: dec, after: decOrNull }),
  left: decOrNull,
});

export const flattened = shape({ canceled: list(order), closing: list(order), refused: list(shape({ orderId: text, detail: text })) });
export const canceledMany = shape({ canceled: list(order), refused: list(shape({ orderId: text, detail: text })) });
