import { NO_MONEY, divideHalfEven, minus, money, moneyOf, parseScaled, plus, type Money } from '../number/index.ts';

/** What of a position its day is added up from: decimal strings, as the API has them. */
export interface DayPosition {
  readonly account: string;
  readonly instrument: string;
  readonly mark: string | null;
  readonly currency: string;
  readonly day: { readonly realised: string; readonly unrealised: string; readonly fees: string };
}

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
export function dayResult(positions: Iterable<DayPosition>, account: string): DayResult | null {
  const all = [...positions];
  const carb = CARB_MARKS.flatMap((id) => all.find((position) => position.instrument === id)?.mark ?? [])[0];
  let realised = NO_MONEY;
  let open = NO_MONEY;
  for (const { account: of, day, currency } of all) {
    if (of !== account) continue;
    const rate = currency === 'EUR' ? 10n ** BigInt(MARK_DECIMALS) : parseScaled(carb ?? '', MARK_DECIMALS);
    if (rate === null) return null;
    const inEuro = (sum: Money): Money => moneyOf(divideHalfEven(sum * rate, 10n ** BigInt(MARK_DECIMALS)));
    realised = plus(realised, inEuro(minus(money(day.realised), money(day.fees))));
    open = plus(open, inEuro(money(day.unrealised)));
  }
  return { realised, open, net: plus(realised, open) };
}
