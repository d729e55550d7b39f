import { dec, decOrNull, id, list, shape, text, textOrNull, time } from './values.ts';

const cell = {
  oneOf: [
    shape({
      instrument: id,
      bid: decOrNull,
      ask: decOrNull,
      last: decOrNull,
      volume: decOrNull,
      mid: decOrNull,
      impliedVolatility: decOrNull,
      delta: decOrNull,
      gamma: decOrNull,
      theta: decOrNull,
      vega: decOrNull,
      position: dec,
    }),
    { type: 'null' },
  ],
} as const;

export const chain = shape({
  underlying: id,
  spot: decOrNull,
  rate: dec,
  dividendYield: decOrNull,
  expiries: list(text),
  expiry: textOrNull,
  years: decOrNull,
  rows: list(shape({ strike: dec, call: cell, put: cell })),
});

const greek = { ...decOrNull, description: 'Null where one of what is held has no value' } as const;

export const held = shape({
  underlying: id,
  legs: list(shape({ account: id, instrument: id, quantity: dec, price: dec })),
  delta: greek,
  gamma: greek,
  theta: greek,
  vega: greek,
});

export const valueRequest = {
  type: 'object',
  properties: {
    right: { type: 'string', enum: ['call', 'put'] },
    spot: dec,
    strike: dec,
    years: dec,
    rate: dec,
    dividendYield: dec,
    volatility: dec,
    price: dec,
  },
  required: ['right', 'spot', 'strike', 'years', 'rate', 'dividendYield'],
  additionalProperties: false,
} as const;

export const value = shape({
  price: decOrNull,
  delta: decOrNull,
  gamma: decOrNull,
  theta: decOrNull,
  vega: decOrNull,
  rho: decOrNull,
  impliedVolatility: decOrNull,
});

export const payoffRequest = {
  type: 'object',
  properties: {
    legs: {
      type: 'array',
      minItems: 1,
      maxItems: 40,
      items: {
        type: 'object',
        properties: { instrument: id, quantity: dec, price: dec },
        required: ['instrument', 'quantity', 'price'],
        additionalProperties: false,
      },
    },
    at: time,
    volatilityShift: { ...dec, description: 'Percentage points that every leg’s implied volatility is moved by, from -100 to 100' },
  },
  required: ['legs'],
  additionalProperties: false,
} as const;

export const payoff = shape({
  points: list(shape({ spot: dec, atExpiry: dec, atDate: decOrNull })),
  breakEvens: list(dec),
  worst: decOrNull,
  best: decOrNull,
});
