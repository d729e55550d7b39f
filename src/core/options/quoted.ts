import type { Instrument } from '../instrument/index.ts';
import { impliedVolatility, valueOption, type OptionTerms, type OptionValue } from './value.ts';

/** What an underlying says of all its options at a moment; null where it is not known. */
export interface UnderlyingNow {
  readonly spot: number | null;
  readonly years: number | null;
  /** Continuous, a year. */
  readonly rate: number;
  readonly dividendYield: number | null;
}

/** What an option's own market says of it: the volatility that gives its mid, and its value and greeks at that. */
export interface OptionReading {
  readonly impliedVolatility: number | null;
  readonly value: OptionValue | null;
}

const NOTHING: OptionReading = { impliedVolatility: null, value: null };

/** The yield of an underlying at a spot: its yearly dividend by its price. */
export const dividendYieldAt = ({ fundamentals }: Pick<Instrument, 'fundamentals'>, spot: number): number =>
  Number(fundamentals?.dividendPerShare ?? '0') / spot;

/** An option as it is valued; null while something of it is not known. */
export function optionTerms({ right, strike, priceDecimals }: Instrument, { spot, years, rate, dividendYield }: UnderlyingNow): OptionTerms | null {
  if (spot === null || years === null || dividendYield === null || strike === null || right === null) return null;
  return { right, spot, strike: strike / 10 ** priceDecimals, years, rate, dividendYield };
}

/** An option read from its mid, in whole currency. */
export function readOption(terms: OptionTerms | null, mid: number | null): OptionReading {
  const volatility = terms && mid !== null ? impliedVolatility(terms, mid) : null;
  return terms && volatility !== null ? { impliedVolatility: volatility, value: valueOption(terms, volatility) } : NOTHING;
}
