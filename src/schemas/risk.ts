import { INSTRUMENT_KINDS } from '../core/instrument/index.ts';
import { BLOCKING_RULES, CHANGE_KINDS, LOSS_ACTS, OPEN_RISK_ACTS, RULE_NAMES, WEEKDAYS } from '../core/risk/index.ts';
import { bool, dec, decOrNull, id, idOrNull, int, list, shape, text, textOrNull, time, timeOrNull } from './values.ts';

/** An index is looked at, not traded. */
const TRADED = INSTRUMENT_KINDS.filter((kind) => kind !== 'index');
const act = { enum: [...LOSS_ACTS, null] } as const;
const count = { type: ['integer', 'null'], minimum: 1, maximum: 100_000 } as const;

const windows = {
  type: ['array', 'null'],
  maxItems: 50,
  items: {
    type: 'object',
    properties: { from: text, to: text, days: { type: 'array', items: { enum: WEEKDAYS }, minItems: 1, uniqueItems: true } },
    required: ['from', 'to'],
    additionalProperties: false,
  },
} as const;

const caps = {
  type: ['object', 'null'],
  properties: Object.fromEntries(TRADED.map((kind) => [kind, dec])),
  additionalProperties: false,
} as const;

const rules = {
  dayLossLimit: decOrNull,
  onDayLoss: act,
  instrumentLossLimit: decOrNull,
  onInstrumentLoss: act,
  dayQuantityCap: caps,
  noTradeWindows: windows,
  maxOrderQuantity: decOrNull,
  maxOrderValue: decOrNull,
  maxDistancePercent: decOrNull,
  maxOrdersPerMinute: count,
  maxPositionQuantity: decOrNull,
  coolDownMinutes: count,
  coolDownAfterLosses: count,
  openRisk: { enum: [...OPEN_RISK_ACTS, null] },
} as const;

/** Rules kept under a name, whole, to begin an account's from. */
export const ruleTemplate = { type: 'object', properties: rules, required: RULE_NAMES, additionalProperties: false } as const;

/** An account's rules, whole. */
export const riskRules = shape({ ...rules, version: int });
export const riskRequest = {
  type: 'object',
  properties: { ...rules, version: { type: 'integer', minimum: 1 } },
  required: [...RULE_NAMES, 'version'],
  additionalProperties: false,
} as const;

export const lockRequest = {
  type: 'object',
  properties: { until: time, rules: { type: 'array', items: { enum: RULE_NAMES }, minItems: 1, uniqueItems: true } },
  required: ['until'],
  additionalProperties: false,
} as const;

const ruleName = { type: 'string', enum: BLOCKING_RULES } as const;

export const riskState = shape({
  account: id,
  day: text,
  netToday: dec,
  realised: dec,
  unrealised: dec,
  fees: dec,
  openRisk: dec,
  positionsWithoutStop: list(id),
  left: decOrNull,
  dayLossLimit: decOrNull,
  quantityUsed: { type: 'object', additionalProperties: dec },
  losingInARow: int,
  blocked: list(shape({ rule: ruleName, instrument: idOrNull, since: time, until: time, reason: text })),
  closeOut: { enum: ['running', 'done', null] },
  /** When a no-trade window begins next. */
  nextWindow: timeOrNull,
  lockedUntil: timeOrNull,
  locks: list(shape({ rule: { enum: RULE_NAMES }, until: time })),
  /** The last lock, once it is over and no other is on. */
  lockOver: { oneOf: [shape({ from: time, until: time }), { type: 'null' }] },
  broken: bool,
});

const moment = shape({ time, net: dec });
/** How a day's net came about. */
export const riskDay = shape({ day: text, points: list(moment), low: moment, high: moment });

/** A day against its limit: by what closed trades made. */
export const riskDayPast = shape({
  day: text,
  net: dec,
  low: dec,
  limit: decOrNull,
  reached: bool,
  near: bool,
  /** How far each rule that was set was used, by what is over. */
  uses: list(shape({ rule: ruleName, of: textOrNull, used: dec, most: dec })),
  rules: list(shape({ rule: ruleName, refused: int, began: int })),
});

export const ruleChange = shape({
  seq: int,
  time,
  by: text,
  rule: { enum: RULE_NAMES },
  old: {},
  new: {},
  kind: { enum: CHANGE_KINDS },
  hash: text,
});
