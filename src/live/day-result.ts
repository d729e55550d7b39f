import { MONEY_DECIMALS, NO_MONEY, divideHalfEven, formatScaled, money, parseScaled, type Money } from '../core/number/index.ts';
import type { ApiPosition } from './shapes.ts';

/** An account's day in EUR: realised less fees, and open. */
export interface DayResult {
  readonly realised: Money;
  readonly open: Money;
  readonly net: Money;
}

const CARB_MARKS = ['CARB-EUR.VSPR', 'CARBI.VSPR'] as const;
const MARK_DECIMALS = 8;

/**
 * The day of an account, exact, from its positions; CARB at its mark.
 *
 * @returns null where a result is in CARB and CARB has no mark that is known here
 */
export function dayResult(positions: Iterable<ApiPosition>, account: string): DayResult | null {
  const all = [...positions];
  const carb = CARB_MARKS.flatMap((id) => all.find((position) => position.instrument === id)?.mark ?? [])[0];
  let realised = NO_MONEY;
  let open = NO_MONEY;
  for (const { account: of, day, currency } of all) {
    if (of !== account) continue;
    const rate = currency === 'EUR' ? 10n ** BigInt(MARK_DECIMALS) : parseScaled(carb ?? '', MARK_DECIMALS);
    if (rate === null) return null;
    const inEuro = (sum: Money): Money => divideHalfEven(sum * rate, 10n ** BigInt(MARK_DECIMALS));
    realised += inEuro(money(day.realised) - money(day.fees));
    open += inEuro(money(day.unrealised));
  }
  return { realised, open, net: realised + open };
}

/** A sum of decimal strings, exact. */
export function sumOf(texts: Iterable<string>): string {
  const all = [...texts];
  const decimals = all.reduce((most, text) => Math.max(most, text.split('.')[1]?.length ?? 0), 0);
  const sum = all.reduce((total, text) => total + (parseScaled(text, decimals) ?? 0n), 0n);
  return formatScaled(sum, decimals, 0);
}

/** Money to the cent, as a result is shown. */
export const inCents = (sum: Money): string => formatScaled(divideHalfEven(sum, 10n ** BigInt(MONEY_DECIMALS - 2)), 2);

/** Money as a number, for drawing alone. */
export const drawn = (sum: Money): number => Number(sum) / 10 ** MONEY_DECIMALS;
