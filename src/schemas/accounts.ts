import { INSTRUMENT_KINDS } from '../core/instrument/index.ts';
import { COMMISSION_BASES } from '../core/portfolio/index.ts';
import { ENTRY_BY } from '../core/desk/index.ts';
import { bool, dec, decOrNull, givenName, id, int, intOrNull, list, shape, text, textOrNull, time, timeOrNull } from './values.ts';

export const commission = shape({ kind: text, basis: text, rate: dec, minimum: decOrNull, maximum: decOrNull, exchangeFee: dec, currency: text, from: text });

/** A line of commission as it is asked for: amounts in what the kind is paid in, `percent` in percent of the value. */
export const commissionRequest = {
  type: 'object',
  properties: {
    kind: { enum: INSTRUMENT_KINDS },
    basis: { enum: COMMISSION_BASES },
    rate: { type: 'string', format: 'dec' },
    minimum: { oneOf: [{ type: 'string', format: 'dec' }, { type: 'null' }] },
    maximum: { oneOf: [{ type: 'string', format: 'dec' }, { type: 'null' }] },
    exchangeFee: { type: 'string', format: 'dec' },
    from: { type: 'string', description: 'A trading day to come.' },
  },
  required: ['kind', 'basis', 'rate', 'from'],
  additionalProperties: false,
} as const;

export const account = shape({
  id,
  currency: text,
  /** Where it can trade, and what. */
  venues: list(text),
  kinds: list(text),
  products: list(text),
  cash: dec,
  /** Cash that applications for new issues keep from other uses; it counts in the equity. */
  applied: dec,
  equity: dec,
  marginUsed: dec,
  maintenance: dec,
  buyingPower: dec,
  marginCall: bool,
  wallets: list(shape({ asset: text, purpose: { type: 'string', enum: ['spot', 'contract'] }, total: dec, tiedUp: dec, available: dec, inEur: dec })),
  holdings: list(shape({ instrument: id, quantity: dec, unsettled: list(shape({ quantity: dec, settlesOn: text })) })),
  commission: list(commission),
});

export const position = shape({
  account: id,
  instrument: id,
  product: text,
  quantity: dec,
  averagePrice: decOrNull,
  mark: decOrNull,
  marketValue: dec,
  unrealised: dec,
  currency: text,
  day: shape({ realised: dec, unrealised: dec, fees: dec, net: dec }),
  openRisk: decOrNull,
  /** What it risked when a stop first worked for it. */
  firstRisk: decOrNull,
  unitsWithoutStop: dec,
  settledQuantity: dec,
  openedAt: timeOrNull,
  updatedAt: time,
});

export const activity = shape({
  seq: int,
  time,
  account: textOrNull,
  by: { type: 'string', enum: ENTRY_BY },
  kind: text,
  instrument: textOrNull,
  orderId: textOrNull,
  causedBy: intOrNull,
  text,
  data: { type: 'object' },
  hash: text,
});

export const session = shape({ user: shape({ name: text, secondStep: bool }), accounts: list(id), csrf: text });

export const signInRequest = {
  type: 'object',
  properties: {
    user: { type: 'string', minLength: 1, maxLength: 64 },
    password: { type: 'string', minLength: 1, maxLength: 256 },
    code: { type: 'string', maxLength: 16 },
  },
  required: ['user', 'password'],
  additionalProperties: false,
} as const;

export const secondStepRequest = { type: 'object', properties: { code: { type: 'string', maxLength: 16 } }, additionalProperties: false } as const;
export const secondStepEnd = { ...secondStepRequest, required: ['code'] } as const;
export const secondStep = { type: 'object', properties: { secret: text, secondStep: bool } } as const;

export const tokenRequest = { type: 'object', properties: { name: givenName, expiresAt: time }, required: ['name'], additionalProperties: false } as const;
export const token = shape({ id, name: text, createdAt: time, expiresAt: timeOrNull });
export const newToken = shape({ id, name: text, token: text, createdAt: time, expiresAt: timeOrNull });

/** A place from which somebody is signed in. */
export const signedIn = shape({ id, agent: text, createdAt: time, current: bool });

export const topicsRequest = {
  type: 'object',
  properties: {
    topics: { type: 'array', items: text, maxItems: 1000 },
    anew: { type: 'array', items: text, maxItems: 1000, description: 'Those of them that begin with a snapshot though they are followed already.' },
  },
  required: ['topics'],
  additionalProperties: false,
} as const;
export const topics = shape({ topics: list(text) });
