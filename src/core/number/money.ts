import { divideHalfEven, formatScaled, parseScaled, powerOfTen } from './decimal.ts';

declare const moneyBrand: unique symbol;
/** Money as an exact integer of 10⁻⁸ of its currency. The currency stands beside it, never inside. */
export type Money = bigint & { readonly [moneyBrand]: true };

/** An exact integer of 10⁻⁸ of a currency as money. */
export const moneyOf = (units: bigint): Money => units as Money;

const ZERO = moneyOf(0n);

/** The sum of any number of sums; of two, as is nearly always asked, without a list of them. */
export const plus = (first: Money = ZERO, second: Money = ZERO, ...more: readonly Money[]): Money => {
  let total: bigint = first + second;
  for (const sum of more) total += sum;
  return moneyOf(total);
};

/** What is left of a sum. */
export const minus = (from: Money, first: Money = ZERO, ...more: readonly Money[]): Money => {
  let rest: bigint = from - first;
  for (const sum of more) rest -= sum;
  return moneyOf(rest);
};
export const negated = (sum: Money): Money => moneyOf(0n - sum);
export const absolute = (sum: Money): Money => (sum < 0n ? negated(sum) : sum);

export const MONEY_DECIMALS = 8;
export const NO_MONEY: Money = ZERO;

export const CURRENCIES = { EUR: { decimals: 2 }, CARB: { decimals: 8 } } as const;
export type Currency = keyof typeof CURRENCIES;

/** Money of a decimal string with up to 8 places; throws on anything else, for constants and stored values. */
export function money(text: string): Money {
  const value = parseScaled(text, MONEY_DECIMALS);
  if (value === null) throw new RangeError(`not a sum of money: ${text}`);
  return moneyOf(value);
}

/** A decimal string with the currency's decimals at least and 8 at most. */
export function formatMoney(value: Money, currency: Currency): string {
  return formatScaled(value, MONEY_DECIMALS, CURRENCIES[currency].decimals);
}

/** The number of 10⁻⁸ units in the currency's smallest unit: 10⁶ for EUR, 1 for CARB. */
export const minorUnit = (currency: Currency): bigint => powerOfTen(MONEY_DECIMALS - CURRENCIES[currency].decimals);

/** Money to the cent, half to even, as a result is shown. */
export const inCents = (value: Money): string => formatScaled(divideHalfEven(value, 10n ** BigInt(MONEY_DECIMALS - 2)), 2);

/** Money as a double, for drawing alone. */
export const drawnMoney = (value: Money): number => Number(value) / 10 ** MONEY_DECIMALS;
