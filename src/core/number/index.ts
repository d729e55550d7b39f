export { isDecimal, parseScaled, formatScaled, sumOf, divideHalfEven, divideHalfUp } from './decimal.ts';
export {
  type Money,
  type Currency,
  CURRENCIES,
  MONEY_DECIMALS,
  NO_MONEY,
  absolute,
  minus,
  money,
  moneyOf,
  negated,
  plus,
  formatMoney,
  inCents,
  drawnMoney,
  minorUnit,
} from './money.ts';
