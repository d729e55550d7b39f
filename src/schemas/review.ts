import { INSTRUMENT_KINDS } from '../core/instrument/index.ts';
import { PRODUCTS } from '../core/portfolio/index.ts';
import { activity } from './accounts.ts';
import { bool, dec, decOrNull, givenName, id, int, list, shape, side as orderSide, text, textOrNull, time, timeOrNull } from './values.ts';

export const day = { type: 'string', pattern: '^\\d{4}-\\d\\d-\\d\\d$', description: 'a day such as 2026-03-02' } as const;
const side = { type: 'string', enum: ['long', 'short'] } as const;

/** Each but the days may be given several times. */
export const filters = {
  from: day,
  to: day,
  account: id,
  setup: { type: 'string', minLength: 1, maxLength: 64 },
  instrument: id,
  kind: { type: 'string', enum: INSTRUMENT_KINDS },
  side,
  hour: { type: 'string', pattern: '^([01]\\d|2[0-3])$', description: 'Exchange time of the last fill, as in groups by hour' },
  format: { type: 'string', enum: ['csv'] },
} as const;

/** The newest so many of what is chosen. */
export const newest = { type: 'integer', minimum: 1, maximum: 1000, description: 'Only the newest so many' } as const;
/** To be drawn, a curve needs no more points than there are places. */
export const points = {
  type: 'integer',
  minimum: 4,
  maximum: 10_000,
  description: 'The curve with about so many points at most: of each stretch the first, the last, the highest and the lowest',
} as const;

export const choices = shape({
  setups: { ...list(text), description: 'by name, `(none)` among them' },
  instruments: list(id),
  newest: { ...timeOrNull, description: 'When the newest of them closed' },
});

export const roundTrip = shape({
  id,
  account: id,
  instrument: id,
  product: { type: 'string', enum: PRODUCTS },
  side,
  setup: textOrNull,
  openedAt: time,
  closedAt: time,
  quantity: dec,
  averageEntry: decOrNull,
  averageExit: decOrNull,
  gross: dec,
  fees: dec,
  net: dec,
  currency: text,
  netEur: dec,
  firstRisk: decOrNull,
  r: decOrNull,
  mae: dec,
  mfe: dec,
  heldSeconds: int,
  slippage: decOrNull,
  orderIds: list(id),
  fillIds: list(id),
  note: textOrNull,
});

/** How a round trip went. */
export const course = shape({
  fills: list(shape({ id, orderId: id, time, side: orderSide, price: dec, quantity: dec, enters: bool })),
  levels: list(shape({ kind: { type: 'string', enum: ['stop', 'target'] }, price: dec, from: time, to: time })),
  entries: list(activity),
});

export const positionSetup = shape({ account: id, instrument: id, setup: textOrNull });
export const setupChange = {
  type: 'object',
  properties: { setup: { oneOf: [givenName, { type: 'null' }] } },
  required: ['setup'],
  additionalProperties: false,
} as const;

export const roundTripChange = {
  type: 'object',
  properties: {
    setup: { oneOf: [givenName, { type: 'null' }] },
    note: { oneOf: [{ type: 'string', maxLength: 4000 }, { type: 'null' }] },
  },
  anyOf: [{ required: ['setup'] }, { required: ['note'] }],
  additionalProperties: false,
} as const;

export const figures = shape({
  count: int,
  wins: int,
  losses: int,
  flat: int,
  winRate: decOrNull,
  gross: dec,
  fees: dec,
  net: dec,
  averageNet: decOrNull,
  averageWin: decOrNull,
  averageLoss: decOrNull,
  expectancyR: decOrNull,
  profitFactor: decOrNull,
  drawdown: dec,
  largestWin: decOrNull,
  largestLoss: decOrNull,
  winStreak: int,
  lossStreak: int,
  averageHeldSeconds: decOrNull,
  quantity: dec,
  days: int,
  activeDays: int,
  perDay: decOrNull,
  perActiveDay: decOrNull,
});
const groups = list(shape({ key: text, figures }));

export const reviewFigures = shape({
  period: shape({ from: day, to: day, days: int }),
  all: figures,
  groups,
  curve: list(shape({ time, net: dec })),
});

export const missed = shape({
  order: id,
  instrument: id,
  setup: textOrNull,
  price: dec,
  quantity: dec,
  endedAt: time,
  toClose: decOrNull,
  best: decOrNull,
  worst: decOrNull,
});

const span = shape({
  from: day,
  to: day,
  all: figures,
  byInstrument: groups,
  bySetup: groups,
  before: list(shape({ from: day, to: day, figures })),
  stopped: { ...list(shape({ account: id, time, text })), description: 'When a rule began to block, or refused an order' },
  near: { ...list(shape({ account: id, day, low: dec, limit: dec })), description: 'Days that came near their limit and did not reach it' },
  missed: shape({ count: int, toClose: { ...decOrNull, description: 'What entries that were missed would have made to their day’s close, in EUR' } }),
  question: { ...textOrNull, description: 'The one question that what was traded asks' },
});
export const recap = shape({ day: span, week: span });

export const note = shape({ day, text });
export const noteText = {
  type: 'object',
  properties: { text: { type: 'string', maxLength: 20_000 } },
  required: ['text'],
  additionalProperties: false,
} as const;
