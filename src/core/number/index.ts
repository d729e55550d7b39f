export { isDecimal, parseScaled, formatScaled, divideHalfEven, divideHalfUp } from './decimal.ts';
export { type Money, type Currency, CURRENCIES, MONEY_DECIMALS, NO_MONEY, money, formatMoney, minorUnit } from './money.ts';
