import { INSTRUMENT_KINDS, VENUE_IDS } from '../core/instrument/index.ts';
import { ALERT_EVENTS, ALERT_KINDS, ALERT_STATES, DIRECTIONS, FIRES, JOINS, SCAN_CAUSES, WAITING_STATES, WEEKDAYS } from '../core/scan/index.ts';
import { orderRequest } from './orders.ts';
import { bool, dec, decOrNull, givenName, id, idOrNull, int, list, shape, text, textOrNull, time, timeOrNull } from './values.ts';

/** A phrase as it is sent; how long one may be is for its reader to say. */
const phrase = { type: 'string' } as const;
const orNull = <const S>(of: S) => ({ oneOf: [of, { type: 'null' }] }) as const;

const phraseError = orNull(shape({ message: text, from: int, to: int, expected: list(text) }));

export const orderPhrase = {
  type: 'object',
  properties: { phrase, account: id, instrument: id },
  required: ['phrase'],
  additionalProperties: false,
} as const;

/** Several at once, as a strip of keys asks for them. */
export const orderPhrases = {
  type: 'object',
  properties: { phrases: { type: 'array', items: phrase, minItems: 1, maxItems: 100 }, account: id, instrument: id },
  required: ['phrases'],
  additionalProperties: false,
} as const;

export const orderReading = shape({
  ok: bool,
  canonical: textOrNull,
  reading: textOrNull,
  requests: list({ type: 'object' } as const),
  act: { oneOf: [{ type: 'object' }, { type: 'null' }] },
  error: phraseError,
});

export const conditionPhrase = { type: 'object', properties: { phrase, instrument: id }, required: ['phrase'], additionalProperties: false } as const;

export const conditionReading = shape({
  ok: bool,
  canonical: textOrNull,
  reading: textOrNull,
  error: phraseError,
  value: { type: ['boolean', 'null'] },
  parts: list(shape({ from: int, to: int, value: textOrNull })),
});

const universe = {
  type: 'object',
  properties: {
    venues: list({ type: 'string', enum: VENUE_IDS }),
    kinds: list({ type: 'string', enum: INSTRUMENT_KINDS }),
    sectors: list({ type: 'string', maxLength: 64 }),
    watchlists: list(givenName),
    instruments: { type: 'array', items: id, maxItems: 2000 },
    scan: givenName,
  },
  additionalProperties: false,
} as const;

const lines = {
  type: 'array',
  minItems: 1,
  maxItems: 20,
  items: { type: 'object', properties: { phrase, on: bool }, required: ['phrase', 'on'], additionalProperties: false },
} as const;
const join = { type: 'string', enum: JOINS } as const;

const schedule = orNull({
  type: 'object',
  properties: {
    times: { type: 'array', items: { type: 'string', pattern: '^([01]\\d|2[0-3]):[0-5]\\d$' }, minItems: 1, maxItems: 12 },
    days: { type: 'array', items: { type: 'string', enum: WEEKDAYS }, minItems: 1, maxItems: 7 },
    monthDay: { type: 'integer', minimum: 1, maximum: 31 },
    venue: { type: 'string', enum: VENUE_IDS },
  },
  required: ['times'],
  additionalProperties: false,
} as const);

const scanned = { notes: { type: 'string', maxLength: 2000 }, universe, join, lines, keep: bool, schedule } as const;
const version = { type: 'integer', minimum: 1 } as const;

export const scanRun = { type: 'object', properties: { universe, join, lines }, required: ['universe', 'lines'], additionalProperties: false } as const;
export const newScan = {
  type: 'object',
  properties: { name: givenName, ...scanned },
  required: ['name', 'universe', 'lines'],
  additionalProperties: false,
} as const;
export const scanChange = {
  type: 'object',
  properties: { name: givenName, ...scanned, version },
  required: ['universe', 'lines'],
  additionalProperties: false,
} as const;
export const scan = shape({ name: text, notes: text, universe, join, lines: list(shape({ phrase: text, on: bool })), keep: bool, schedule, version: int });

export const scanQuery = { progress: { ...id, description: 'A name by which its progress can be asked for and it can be stopped' } } as const;
export const scanProgress = shape({ done: int, of: { ...int, description: 'Instruments that need history; 0 until that is known' } });

export const scanResult = shape({
  id,
  scan: textOrNull,
  at: time,
  cause: { type: 'string', enum: SCAN_CAUSES },
  universe: int,
  count: int,
  milliseconds: int,
  lines: list(shape({ on: bool, alone: int, together: int, unknown: int, unknownBecause: textOrNull })),
  items: list(shape({ instrument: id, values: list(textOrNull) })),
  almost: {
    ...list(shape({ instrument: id, values: list(textOrNull) })),
    description: 'What would pass if every comparison held 5 % of its threshold earlier',
  },
});

const linePoint = { type: 'object', properties: { time, price: dec }, required: ['time', 'price'], additionalProperties: false } as const;

const asked = {
  name: orNull(givenName),
  instrument: orNull(id),
  price: orNull(dec),
  direction: orNull({ type: 'string', enum: DIRECTIONS } as const),
  phrase: orNull(phrase),
  line: {
    ...orNull({ type: 'object', properties: { from: linePoint, to: linePoint }, required: ['from', 'to'], additionalProperties: false } as const),
    description: 'In place of a price: a line that is crossed, straight over the hours in which the venue is open',
  },
  scan: { ...orNull(givenName), description: 'For kind scan: a saved scan that is kept running or has times' },
  account: orNull(id),
  words: orNull({ type: 'array', items: { type: 'string', minLength: 1, maxLength: 64 }, minItems: 1, maxItems: 20 } as const),
  event: orNull({ type: 'string', enum: ALERT_EVENTS } as const),
  fires: { type: 'string', enum: FIRES },
  pauseSeconds: { type: 'integer', minimum: 0, maximum: 604_800 },
  until: orNull(time),
  sound: orNull({ type: 'string', maxLength: 64 } as const),
  note: orNull({ type: 'string', maxLength: 500 } as const),
} as const;

export const newAlert = {
  type: 'object',
  properties: { kind: { type: 'string', enum: ALERT_KINDS }, ...asked },
  required: ['kind'],
  additionalProperties: false,
} as const;
export const alertChange = { type: 'object', properties: { ...asked, snoozedUntil: orNull(time) }, additionalProperties: false } as const;

export const alert = shape({
  id,
  name: textOrNull,
  kind: { type: 'string', enum: ALERT_KINDS },
  instrument: idOrNull,
  price: decOrNull,
  direction: { enum: [...DIRECTIONS, null] },
  line: orNull(shape({ from: shape({ time, price: dec }), to: shape({ time, price: dec }) })),
  scan: textOrNull,
  phrase: textOrNull,
  account: idOrNull,
  words: orNull(list(text)),
  event: { enum: [...ALERT_EVENTS, null] },
  fires: { type: 'string', enum: FIRES },
  pauseSeconds: int,
  until: timeOrNull,
  sound: textOrNull,
  note: textOrNull,
  state: { type: 'string', enum: ALERT_STATES },
  snoozedUntil: timeOrNull,
  firings: list(shape({ seq: int, time, value: textOrNull, text })),
});

const { clientOrderId: _own, ...withoutName } = orderRequest.properties;
const order = {
  type: 'object',
  properties: withoutName,
  required: ['account', 'instrument', 'side', 'type', 'quantity'],
  additionalProperties: false,
} as const;

export const newConditionalOrder = {
  type: 'object',
  properties: { clientOrderId: id, account: id, when: phrase, instrument: id, order: { oneOf: [phrase, order] }, until: orNull(time) },
  required: ['clientOrderId', 'when', 'instrument', 'order'],
  additionalProperties: false,
} as const;

export const conditionalOrder = shape({
  id,
  clientOrderId: id,
  account: id,
  when: text,
  instrument: id,
  order: {},
  until: timeOrNull,
  state: { type: 'string', enum: WAITING_STATES },
  orderId: idOrNull,
  reason: textOrNull,
  since: time,
});
