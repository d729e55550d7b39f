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
export { type Payoff, type PayoffLeg, payoffOf } from './payoff.ts';
