export { isDecimal, parseScaled, formatScaled, sumOf, divideHalfEven, divideHalfUp } from './decimal.ts';
export { type Money, type Currency, CURRENCIES, MONEY_DECIMALS, NO_MONEY, money, formatMoney, inCents, drawnMoney, minorUnit } from './money.ts';
