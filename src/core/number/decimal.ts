/**
 * Decimal strings on one side, exact integers on the other. Nothing here is ever a binary fraction:
 * a value is an integer and a count of decimals.
 */

const DECIMAL = /^-?(0|[1-9]\d*)(\.\d+)?$/;
const MAX_DIGITS = 18;

/** True for `-?(0|[1-9]\d*)(\.\d+)?` with at most 18 digits in all. */
export function isDecimal(text: string): boolean {
  return DECIMAL.test(text) && text.length - (text.startsWith('-') ? 1 : 0) - (text.includes('.') ? 1 : 0) <= MAX_DIGITS;
}

/** The integer `value × 10^decimals` of a decimal string, or null where it has more places than that. */
export function parseScaled(text: string, decimals: number): bigint | null {
  if (!isDecimal(text)) return null;
  const point = text.indexOf('.');
  if (point < 0) return BigInt(text) * powerOfTen(decimals);
  const fraction = text.slice(point + 1);
  if (fraction.length > decimals && /[1-9]/.test(fraction.slice(decimals))) return null;
  const kept = fraction.slice(0, decimals);
  return BigInt(text.slice(0, point) + kept) * powerOfTen(decimals - kept.length);
}

/** `value ÷ 10^decimals` as a decimal string; at least `atLeast` places are kept, further zeros are dropped. */
export function formatScaled(value: bigint, decimals: number, atLeast = decimals): string {
  const negative = value < 0n;
  const digits = (negative ? -value : value).toString().padStart(decimals + 1, '0');
  const whole = digits.slice(0, digits.length - decimals);
  let fraction = digits.slice(digits.length - decimals);
  while (fraction.length > atLeast && fraction.endsWith('0')) fraction = fraction.slice(0, -1);
  return (negative ? '-' : '') + whole + (fraction ? '.' + fraction : '');
}

/** The sum of decimal strings, exact; what is no decimal counts as 0. */
export function sumOf(texts: Iterable<string>): string {
  const all = [...texts];
  const decimals = all.reduce((most, text) => {
    const point = text.indexOf('.');
    return point < 0 ? most : Math.max(most, text.length - point - 1);
  }, 0);
  // Whole numbers, which most quantities are, need no scaling, and are exact in doubles as long as they are small.
  if (decimals === 0) {
    let [sum, most] = [0, 0];
    for (const text of all) {
      const value = Number(text);
      sum += value;
      most += Math.abs(value);
    }
    return most <= Number.MAX_SAFE_INTEGER ? String(sum) : String(all.reduce((total, text) => total + BigInt(text), 0n));
  }
  return formatScaled(
    all.reduce((sum, text) => sum + (parseScaled(text, decimals) ?? 0n), 0n),
    decimals,
    0,
  );
}

const POWERS = Array.from({ length: 32 }, (_, i) => 10n ** BigInt(i));

/** 10 to a whole power from 0 on. */
export const powerOfTen = (power: number): bigint => POWERS[power] ?? 10n ** BigInt(power);

/** `numerator ÷ denominator` to an integer, a half going to the even neighbour. */
export function divideHalfEven(numerator: bigint, denominator: bigint): bigint {
  if (denominator === 0n) throw new RangeError('division by zero');
  if (denominator < 0n) return divideHalfEven(-numerator, -denominator);
  const quotient = numerator / denominator;
  const remainder = numerator - quotient * denominator;
  if (remainder === 0n) return quotient;
  const twice = 2n * (remainder < 0n ? -remainder : remainder);
  const away = numerator < 0n ? -1n : 1n;
  if (twice > denominator || (twice === denominator && quotient % 2n !== 0n)) return quotient + away;
  return quotient;
}

/** `numerator ÷ denominator` to an integer, a half going away from zero. */
export function divideHalfUp(numerator: bigint, denominator: bigint): bigint {
  if (denominator <= 0n) throw new RangeError('a positive denominator is needed');
  const magnitude = (2n * (numerator < 0n ? -numerator : numerator) + denominator) / (2n * denominator);
  return numerator < 0n ? -magnitude : magnitude;
}

/** A number as decimal text: 10 significant digits or as many as wanted, never with an exponent. */
export function decimalText(value: number, digits = 10): string {
  const shortest = String(value);
  // As many characters as digits have no more digits than that.
  if (shortest.length <= digits && !shortest.includes('e')) return shortest;
  const rounded = Number(value.toPrecision(digits));
  if (rounded === 0) return '0';
  const size = Math.abs(rounded);
  if (size >= 1e21) return rounded.toFixed(0);
  const decimals = Math.min(17, Math.max(0, digits - 1 - Math.floor(Math.log10(size))));
  const text = rounded.toFixed(decimals);
  return text.includes('.') ? text.replace(/\.?0+$/, '') : text;
}

/** A computed number with its sign as the trade writes it, a plus or the true minus, and so many places. Nothing is +. */
export const signedFixed = (value: number, places = 2): string => `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(places)}`;
