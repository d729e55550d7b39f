export { density, normal } from './normal.ts';
export {
  type OptionTerms,
  type OptionValue,
  type Right,
  LEAST_VOLATILITY,
  MOST_VOLATILITY,
  impliedVolatility,
  intrinsic,
  valueOption,
  yearsBetween,
} from './value.ts';
export { type OptionReading, type UnderlyingNow, dividendYieldAt, optionTerms, readOption } from './quoted.ts';
export { type Payoff, type PayoffLeg, payoffOf } from './payoff.ts';
