import { LEG_ORDERS, MEASURES, MISSED_LEVELS, PLAN_STATES, SIZE_CHANGES, STEP_STATES } from '../core/exits/index.ts';
import { TRAIL_UNITS, TRIGGER_SOURCES } from '../core/market/index.ts';
import { HOLDERS } from '../core/orders/index.ts';
import { bool, dec, decOrNull, givenName, id, idOrNull, int, intOrNull, list, maybeWith, shape, text, textOrNull, time, timeOrNull } from './values.ts';

const ticks = { type: 'integer', minimum: 0, maximum: 10_000 } as const;
const trail = shape({ unit: { type: 'string', enum: TRAIL_UNITS }, value: dec });
const distance = shape({ by: { type: 'string', enum: MEASURES }, value: dec });

const adjustment = {
  oneOf: [
    shape({ kind: { enum: ['break-even'] }, afterGain: distance, plusTicks: ticks }),
    shape({ kind: { enum: ['trail'] }, afterGain: distance, distance: trail, incrementTicks: { ...ticks, minimum: 1 } }),
  ],
} as const;

const leg = {
  type: 'object',
  properties: {
    by: { type: 'string', enum: MEASURES },
    value: dec,
    order: { type: 'string', enum: LEG_ORDERS },
    limitOffsetTicks: { oneOf: [ticks, { type: 'null' }] },
    triggerOn: { type: 'string', enum: TRIGGER_SOURCES },
    trail: { oneOf: [trail, { type: 'null' }] },
    adjust: { type: 'array', items: adjustment, maxItems: 5 },
  },
  required: ['by', 'value', 'order'],
  additionalProperties: false,
} as const;
const legOrNull = { oneOf: [leg, { type: 'null' }] } as const;

const planned = {
  heldBy: { type: 'string', enum: HOLDERS },
  onSizeChange: { type: 'string', enum: SIZE_CHANGES },
  onMissedLevel: { type: 'string', enum: MISSED_LEVELS },
  steps: {
    type: 'array',
    minItems: 1,
    maxItems: 5,
    items: { type: 'object', properties: { share: dec, stop: legOrNull, target: legOrNull }, required: ['share'], additionalProperties: false },
  },
  setup: { ...givenName, description: 'of entries that go with it and name none of their own' },
} as const;
const PLANNED = ['heldBy', 'onSizeChange', 'onMissedLevel', 'steps'] as const;

/** A plan as it is asked for with an order or on a position: its name may be left out. */
export const plan = {
  type: 'object',
  properties: { name: { oneOf: [givenName, { type: 'null' }] }, ...planned },
  required: PLANNED,
  additionalProperties: false,
} as const;

const version = { type: 'integer', minimum: 1 } as const;

export const newExitPlan = {
  type: 'object',
  properties: { name: givenName, ...planned },
  required: ['name', ...PLANNED],
  additionalProperties: false,
} as const;
export const exitPlanChange = {
  type: 'object',
  properties: { name: givenName, ...planned, version },
  required: PLANNED,
  additionalProperties: false,
} as const;

const saidLeg = shape({
  by: { type: 'string', enum: MEASURES },
  value: dec,
  order: { type: 'string', enum: LEG_ORDERS },
  limitOffsetTicks: intOrNull,
  triggerOn: { type: 'string', enum: TRIGGER_SOURCES },
  trail: { oneOf: [trail, { type: 'null' }] },
  adjust: list(adjustment),
});
const saidLegOrNull = { oneOf: [saidLeg, { type: 'null' }] } as const;
const said = {
  heldBy: planned.heldBy,
  onSizeChange: planned.onSizeChange,
  onMissedLevel: planned.onMissedLevel,
  steps: list(shape({ share: dec, stop: saidLegOrNull, target: saidLegOrNull })),
} as const;

/** A plan as an order tells what it was asked with. */
export const plannedExit = maybeWith(shape({ name: textOrNull, ...said }), { setup: text });
export const exitPlan = maybeWith(shape({ name: text, ...said, version: int }), { setup: text });

export const planOrName = { oneOf: [givenName, plan] } as const;
export const putPlan = { type: 'object', properties: { plan: planOrName }, required: ['plan'], additionalProperties: false } as const;
/** A leg held here, to another price; `step` counts from 0, as in `steps`. */
export const legMove = {
  type: 'object',
  properties: { step: { type: 'integer', minimum: 0, maximum: 4 }, leg: { enum: ['stop', 'target'] }, price: dec },
  required: ['step', 'leg', 'price'],
  additionalProperties: false,
} as const;
export const planAnswer = { type: 'object', properties: { act: { enum: ['fire', 'resume'] } }, required: ['act'], additionalProperties: false } as const;

const legState = { oneOf: [shape({ price: decOrNull, orderId: idOrNull }), { type: 'null' }] } as const;

export const runningPlan = shape({
  id,
  name: textOrNull,
  account: id,
  instrument: id,
  heldBy: planned.heldBy,
  entryOrderId: idOrNull,
  state: { type: 'string', enum: PLAN_STATES },
  since: time,
  steps: list(shape({ quantity: dec, closedQuantity: dec, state: { type: 'string', enum: STEP_STATES }, stop: legState, target: legState })),
  log: list(shape({ time, text, orderId: idOrNull })),
});

export const consentRequest = { type: 'object', properties: { given: bool }, required: ['given'], additionalProperties: false } as const;
export const consent = shape({ given: bool, at: timeOrNull });
