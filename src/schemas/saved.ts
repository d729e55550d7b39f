import { INSTRUMENT_KINDS, type InstrumentKind } from '../core/instrument/index.ts';
import { givenName, id, idOrNull, int, list, shape, text, textOrNull, time } from './values.ts';

export const PANE_KINDS = [
  'Chart',
  'Ladder',
  'Depth',
  'Time & sales',
  'Quote table',
  'Watchlist',
  'Live list',
  'News',
  'Instrument card',
  'Ticket',
  'Orders',
  'Positions',
  'Fills',
  'Exit plans',
  'Scanner',
  'Alerts',
  'Basket',
  'Option chain',
  'Activity',
  'Balances',
] as const;
export const LINK_LETTERS = ['A', 'B', 'C', 'D', 'E', 'F', 'G', 'H'] as const;
const letterOrNull = { enum: [...LINK_LETTERS, null] } as const;
const interval = { type: 'string', pattern: '^(1m|2m|3m|5m|15m|30m|1h|4h|1d|1w|[1-9]\\d{0,2}min)$' } as const;
const paneId = { type: 'string', pattern: '^[a-z0-9-]{1,64}$' } as const;

/** The format of workspaces this Kavix reads and writes. */
export const WORKSPACE_FORMAT = 1;

const pane = {
  type: 'object',
  properties: {
    kind: { type: 'string', enum: PANE_KINDS },
    letter: { ...letterOrNull, description: 'Panes with the same letter show the same instrument; null is a free pane.' },
    intervalLetter: { ...letterOrNull, description: 'Charts with the same one share the interval.' },
    instrument: idOrNull,
    account: id,
    settings: { type: 'object', description: 'The settings of its kind, by name.' },
  },
  required: ['kind', 'letter', 'instrument', 'account', 'settings'],
  additionalProperties: false,
} as const;

const size = { type: 'number', minimum: 0, maximum: 100_000 } as const;

/** A workspace: its panes, what their letters show, and how they are arranged. */
export const workspace = {
  $id: 'kavix-workspace',
  type: 'object',
  properties: {
    format: { const: WORKSPACE_FORMAT },
    panes: { type: 'object', propertyNames: paneId, maxProperties: 60, additionalProperties: pane },
    letters: {
      type: 'object',
      properties: Object.fromEntries(LINK_LETTERS.map((letter) => [letter, { $ref: '#/$defs/linked' }])),
      additionalProperties: false,
    },
    layout: {
      oneOf: [{ type: 'null' }, { $ref: '#/$defs/part' }],
      description: 'The parts of a split lie beside one another, those of its own splits below one another.',
    },
    direction: { enum: ['row', 'column'], description: 'How the parts of the outermost split lie.' },
    windows: { type: 'array', items: paneId, description: 'Panes in a window of their own.' },
  },
  required: ['format', 'panes', 'letters', 'layout', 'direction', 'windows'],
  additionalProperties: false,
  $defs: {
    linked: {
      type: 'object',
      properties: { instrument: id, account: id, interval },
      required: ['instrument', 'account'],
      additionalProperties: false,
    },
    part: {
      oneOf: [
        {
          type: 'object',
          properties: { split: { type: 'array', minItems: 1, items: { $ref: '#/$defs/part' } }, size },
          required: ['split', 'size'],
          additionalProperties: false,
        },
        {
          type: 'object',
          properties: { stack: { type: 'array', minItems: 1, items: paneId }, active: paneId, size },
          required: ['stack', 'active', 'size'],
          additionalProperties: false,
        },
      ],
    },
  },
} as const;

const mark = { enum: [...'ABCDEFGHIJKLMNOPQRSTUVWXYZ', null], description: 'A letter of the trader’s own choice.' } as const;
const note = { type: 'string', maxLength: 500 } as const;

/** A watchlist: instruments and section headings in one order. */
export const watchlist = {
  type: 'object',
  properties: {
    rows: {
      type: 'array',
      maxItems: 2000,
      items: {
        oneOf: [
          { type: 'object', properties: { instrument: id, note, mark }, required: ['instrument'], additionalProperties: false },
          { type: 'object', properties: { section: givenName }, required: ['section'], additionalProperties: false },
        ],
      },
    },
  },
  required: ['rows'],
  additionalProperties: false,
} as const;

const colour = { type: 'string', pattern: '^(#[0-9a-f]{6}|[a-z]{3,10}( [a-z]{3,10})?)$' } as const;
const stroke = { enum: ['solid', 'dashed', 'dotted'] } as const;
const width = { type: 'number', minimum: 0.5, maximum: 6 } as const;

const studyUse = {
  type: 'object',
  properties: {
    id: paneId,
    study: { type: 'string', pattern: '^[a-z-]{1,40}$' },
    parameters: { type: 'object', additionalProperties: { type: 'number' } },
    colour,
    width,
    stroke,
  },
  required: ['id', 'study', 'parameters', 'colour', 'width', 'stroke'],
  additionalProperties: false,
} as const;

export const studySet = {
  type: 'object',
  properties: { studies: { type: 'array', maxItems: 40, items: studyUse } },
  required: ['studies'],
  additionalProperties: false,
} as const;

export const DRAWING_KINDS = ['trend line', 'ray', 'horizontal line', 'vertical line', 'channel', 'rectangle', 'retracement', 'measure', 'text'] as const;

/** What is drawn on the charts of one instrument. A point is a time in milliseconds and a price. */
export const drawings = {
  type: 'object',
  properties: {
    items: {
      type: 'array',
      maxItems: 500,
      items: {
        type: 'object',
        properties: {
          id: paneId,
          kind: { enum: DRAWING_KINDS },
          points: {
            type: 'array',
            minItems: 1,
            maxItems: 3,
            items: {
              type: 'object',
              properties: { time: { type: 'number' }, price: { type: 'number' } },
              required: ['time', 'price'],
              additionalProperties: false,
            },
          },
          colour,
          width,
          stroke,
          text: { type: 'string', maxLength: 200 },
          locked: { type: 'boolean' },
          interval: { oneOf: [interval, { type: 'null' }], description: 'The one interval it is shown on; null: all.' },
          alert: { ...paneId, description: 'The alert that waits for it to be crossed' },
        },
        required: ['id', 'kind', 'points', 'colour', 'width', 'stroke', 'text', 'locked', 'interval'],
        additionalProperties: false,
      },
    },
  },
  required: ['items'],
  additionalProperties: false,
} as const;

/** The sounds there can be, by what they tell of. */
export const SOUND_EVENTS = ['sent', 'fill', 'trigger', 'rejected', 'blocked', 'link lost', 'link back'] as const;
/** An index is looked at, not traded. */
const TRADED = INSTRUMENT_KINDS.filter((kind) => kind !== 'index');
const sizes = { type: 'array', items: { type: 'string', format: 'dec' }, minItems: 1, maxItems: 9 } as const;

/** How Kavix is set up for a user; what is not in it is as Kavix brings it. */
export const settings = {
  type: 'object',
  properties: {
    theme: { enum: ['night', 'day'] },
    scale: { type: 'integer', minimum: 85, maximum: 150, description: 'Percent.' },
    againMs: { type: 'integer', minimum: 0, maximum: 500, description: 'A second press at the same price and side within this time is refused.' },
    latch: { type: 'boolean', description: 'Space twice opens the order layer for one order, for those who can’t hold a key.' },
    keepAll: { type: 'boolean', description: 'Direct send stays at all on a new trading day and at sign-in.' },
    volume: { type: 'integer', minimum: 0, maximum: 100, description: 'Of all sounds; 0 is silent.' },
    alertsSeen: { type: 'integer', minimum: 0, description: 'What alerts told up to this number was read.' },
    daySheet: { type: 'boolean', description: 'The day sheet opens at the first sign-in of a trading day.' },
    daySheetSeen: {
      type: 'string',
      maxLength: 10,
      description: 'The day whose sheet was opened last; the sheet of a week that is over goes by the day after its last close.',
    },
    locksSeen: {
      type: 'object',
      additionalProperties: { type: 'string', format: 'iso-time' },
      description: 'Until when the last lock of an account was, once its end was looked at.',
    },
    setupWords: {
      type: 'object',
      additionalProperties: { type: 'string', maxLength: 200 },
      description: 'What the slip says where a setup loses on average, by setup.',
    },
    sounds: { type: 'array', items: { enum: SOUND_EVENTS }, uniqueItems: true, description: 'What is heard.' },
    sizeKeys: {
      type: 'object',
      properties: Object.fromEntries(TRADED.map((kind) => [kind, sizes])) as Readonly<Record<Exclude<InstrumentKind, 'index'>, typeof sizes>>,
      additionalProperties: false,
      description: 'Up to nine quantities by kind of instrument.',
    },
  },
  additionalProperties: false,
} as const;

const bound = { type: 'string', minLength: 1, maxLength: 64 } as const;
const bindingFields = {
  key: bound,
  phrase: { type: ['string', 'null'] },
  command: { oneOf: [bound, { type: 'null' }] },
  sets: { type: 'array', items: givenName, maxItems: 20 },
} as const;

export const bindings = {
  type: 'object',
  properties: {
    items: { type: 'array', maxItems: 500, items: { type: 'object', properties: bindingFields, required: ['key'], additionalProperties: false } },
    version: { type: 'integer', minimum: 1 },
  },
  required: ['items', 'version'],
  additionalProperties: false,
} as const;

export const boundKeys = shape({ items: list(shape({ key: text, phrase: textOrNull, command: textOrNull, sets: list(text) })), version: int });

/** A saved thing in a list of its kind. */
export const savedName = shape({ name: text, updatedAt: time });
export const savedNames = shape({ items: list(savedName) });
