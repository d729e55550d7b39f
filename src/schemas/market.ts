import { MARKET_STATES } from '../core/market/index.ts';
import { bool, dec, decOrNull, id, int, intOrNull, list, shape, side, text, textOrNull, time, timeOrNull } from './values.ts';

const limits = shape({ lower: decOrNull, upper: decOrNull });

export const instrument = shape({
  id,
  ticker: text,
  venue: text,
  name: text,
  kind: text,
  currency: text,
  sector: textOrNull,
  tradable: bool,
  tickBands: list(shape({ from: dec, tick: dec })),
  quantityStep: dec,
  minimumQuantity: dec,
  multiplier: decOrNull,
  inverse: bool,
  underlying: textOrNull,
  expiry: textOrNull,
  strike: decOrNull,
  right: textOrNull,
  venueOrderTypes: list(text),
  zone: text,
  session: { oneOf: [shape({ preOpen: textOrNull, open: text, close: text }), { type: 'null' }] },
  margin: shape({ overnight: dec, intraday: dec, maintenance: dec }),
  fundamentals: { oneOf: [shape({ sharesOutstanding: dec, earningsPerShare: dec, dividendPerShare: dec }), { type: 'null' }] },
  listsOn: textOrNull,
});

export const quote = shape({
  instrument: id,
  time,
  state: { type: 'string', enum: MARKET_STATES },
  bid: decOrNull,
  bidQuantity: decOrNull,
  ask: decOrNull,
  askQuantity: decOrNull,
  last: decOrNull,
  lastQuantity: decOrNull,
  lastTime: timeOrNull,
  mark: decOrNull,
  open: decOrNull,
  high: decOrNull,
  low: decOrNull,
  volume: dec,
  vwap: decOrNull,
  previousSettlement: decOrNull,
  change: decOrNull,
  changePercent: decOrNull,
  priceLimits: limits,
});

/** A list over the whole universe. `live` is false where nobody watches and the figures are by the minute. */
export const liveList = shape({
  name: text,
  time,
  /** How many instruments are counted so far. */
  counted: int,
  items: list(
    shape({
      instrument: id,
      last: decOrNull,
      change: decOrNull,
      changePercent: decOrNull,
      volume: dec,
      /** What the list orders by, as text: a percentage, a value, a multiple, or a time. */
      measure: text,
      asOf: time,
      live: bool,
    }),
  ),
});

const level = shape({ price: dec, quantity: dec, orders: intOrNull, total: dec });
export const depth = shape({ instrument: id, time, bids: list(level), asks: list(level), priceLimits: limits });
export const trade = shape({ seq: int, time, instrument: id, side, price: dec, quantity: dec });
export const bar = shape({ time, open: dec, high: dec, low: dec, close: dec, volume: dec });
export const bars = shape({ instrument: id, interval: text, items: list(bar) });
export const news = shape({ seq: int, time, instrument: textOrNull, text });

export const clock = shape({
  mode: { type: 'string', enum: ['live', 'manual'] },
  market: { type: 'string', enum: ['demo', 'tape'] },
  time,
  speed: { type: 'number' },
  tapeEndsAt: timeOrNull,
  ended: bool,
});

export const clockRequest = {
  type: 'object',
  properties: {
    speed: { type: 'integer', enum: [0, 1, 5, 20] },
    advanceBy: { type: 'integer', minimum: 0 },
    advanceTo: time,
  },
  minProperties: 1,
  maxProperties: 1,
  additionalProperties: false,
} as const;

const upDown = { type: 'string', enum: ['up', 'down'] } as const;
export const link = shape({ broker: { type: 'string', enum: ['up', 'down', 'reconciling'] }, data: upDown, since: time, brokerSince: time, dataSince: time });
export const linkRequest = { type: 'object', properties: { broker: upDown, data: upDown }, minProperties: 1, additionalProperties: false } as const;
