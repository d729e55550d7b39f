import { NO_MONEY, divideHalfEven, minus, money, moneyOf, parseScaled, plus, type Money } from '../number/index.ts';

/** What of a position its day is added up from: decimal strings, as the API has them. */
export interface DayPosition {
  readonly account: string;
  readonly instrument: string;
  readonly mark: string | null;
  readonly currency: string;
  readonly day: { readonly realised: string; readonly unrealised: string; readonly fees: string };
  /** What its stops would lose from the mark; null where no stop waits. */
  readonly openRisk: string | null;
  readonly unitsWithoutStop: string;
}

/** An account's day in EUR: realised less fees, and open. */
export interface DayResult {
  readonly realised: Money;
  readonly open: Money;
  readonly net: Money;
  /** What all stops that wait would lose from the marks, in EUR. */
  readonly openRisk: Money;
  /** Instruments of which some units have no stop. */
  readonly withoutStop: readonly string[];
}

const CARB_MARKS = ['CARB-EUR.VSPR', 'CARBI.VSPR'] as const;
const MARK_DECIMALS = 8;

/**
 * The day of an account and what its stops would lose, exact, from its positions; CARB at its mark.
 *
 * @returns null where a result is in CARB and CARB has no mark that is known here
 */
export function dayResult(positions: Iterable<DayPosition>, account: string): DayResult | null {
  const all = [...positions];
  const carb = CARB_MARKS.flatMap((id) => all.find((position) => position.instrument === id)?.mark ?? [])[0];
  let realised = NO_MONEY;
  let open = NO_MONEY;
  let openRisk = NO_MONEY;
  const withoutStop: string[] = [];
  for (const { account: of, instrument, day, currency, openRisk: risk, unitsWithoutStop } of all) {
    if (of !== account) continue;
    const rate = currency === 'EUR' ? 10n ** BigInt(MARK_DECIMALS) : parseScaled(carb ?? '', MARK_DECIMALS);
    if (rate === null) return null;
    const inEuro = (sum: Money): Money => moneyOf(divideHalfEven(sum * rate, 10n ** BigInt(MARK_DECIMALS)));
    realised = plus(realised, inEuro(minus(money(day.realised), money(day.fees))));
    open = plus(open, inEuro(money(day.unrealised)));
    if (risk !== null) openRisk = plus(openRisk, inEuro(money(risk)));
    if (Number(unitsWithoutStop) > 0) withoutStop.push(instrument);
  }
  return { realised, open, net: plus(realised, open), openRisk, withoutStop };
}
