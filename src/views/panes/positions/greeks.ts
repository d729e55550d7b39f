import type { AnswerOf } from '../../../live/index.ts';

export const GREEKS = ['delta', 'gamma', 'theta', 'vega'] as const;
export type Greek = (typeof GREEKS)[number];

const PLACES: Readonly<Record<Greek, number>> = { delta: 1, gamma: 2, theta: 2, vega: 2 };

export const GREEK_WORDS: Readonly<Record<Greek, string>> = {
  delta: 'units of the underlying that move as this does',
  gamma: 'how delta changes per 1.00 of the underlying',
  theta: 'EUR a calendar day',
  vega: 'EUR per percentage point of volatility',
};

/** A greek of a whole position, as text. */
export const greekText = (greek: Greek, value: number): string => value.toFixed(PLACES[greek]).replace('-', '−');

/** The greeks of all that is held of an underlying, in one line. */
export const greeksWords = (held: Pick<AnswerOf<'GET /api/options/{underlying}/held'>, Greek>): string =>
  GREEKS.map((greek) => {
    const value = held[greek];
    return `${greek} ${value === null ? '–' : greekText(greek, Number(value))}`;
  }).join(', ');
