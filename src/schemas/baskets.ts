import { PACES, ROW_STATES, RUN_STATES } from '../core/basket/index.ts';
import { orderRequest, preview } from './orders.ts';
import { bool, dec, decOrNull, givenName, id, idOrNull, int, list, shape, text, textOrNull, time } from './values.ts';

const { clientOrderId: _own, ...requested } = orderRequest.properties;

const row = {
  type: 'object',
  properties: { id, ...requested, limitPhrase: { type: 'string' } },
  required: ['id', 'account', 'instrument', 'side', 'type', 'quantity'],
  additionalProperties: false,
} as const;
const rows = { type: 'array', minItems: 1, maxItems: 200, items: row } as const;
const version = { type: 'integer', minimum: 1 } as const;

export const newBasket = { type: 'object', properties: { name: givenName, rows }, required: ['name', 'rows'], additionalProperties: false } as const;
export const basketChange = { type: 'object', properties: { name: givenName, rows, version }, required: ['rows'], additionalProperties: false } as const;
export const basket = shape({ name: text, rows: list({ type: 'object' } as const), version: int });

const percent = dec;
export const checkRequest = { type: 'object', properties: { percent }, additionalProperties: false } as const;
export const sendRequest = {
  type: 'object',
  properties: { percent, pace: { type: 'string', enum: PACES }, clientRunId: id },
  required: ['pace', 'clientRunId'],
  additionalProperties: false,
} as const;

export const check = shape({
  ok: bool,
  rows: list(
    shape({
      id,
      ok: bool,
      sentence: text,
      checks: preview.properties.checks,
      estimate: { oneOf: [preview.properties.estimate, { type: 'null' }] },
      error: { oneOf: [{ type: 'object' }, { type: 'null' }] },
    }),
  ),
  total: shape({ value: dec, fees: dec, margin: dec, openRisk: decOrNull, buyingPowerAfter: { type: 'object' } }),
});

export const run = shape({
  id,
  clientRunId: id,
  basket: text,
  percent: dec,
  pace: { type: 'string', enum: PACES },
  state: { type: 'string', enum: RUN_STATES },
  rows: list(
    shape({
      id,
      account: id,
      instrument: id,
      side: { type: 'string', enum: ['buy', 'sell'] },
      orderId: idOrNull,
      reverseOrderId: idOrNull,
      state: { type: 'string', enum: ROW_STATES },
      asked: dec,
      filled: dec,
      averagePrice: decOrNull,
      arrival: decOrNull,
      slippage: decOrNull,
      reason: textOrNull,
    }),
  ),
  progress: shape({
    orders: shape({ done: int, all: int }),
    units: shape({ filled: text, asked: text }),
    money: shape({ filled: text, asked: text }),
  }),
  log: list(shape({ time, text, row: textOrNull })),
});
