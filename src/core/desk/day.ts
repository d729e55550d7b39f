import { NO_MONEY, minus, plus, type Money } from '../number/index.ts';
import { inEuro, valuePosition, type Market } from '../portfolio/index.ts';
import { openRiskOf } from './exposure.ts';
import type { AccountState } from './state.ts';
import type { Price } from '../instrument/index.ts';

/** What a trading day has made so far, in EUR. */
export interface DayFiguresEur {
  readonly realised: Money;
  readonly unrealised: Money;
  readonly fees: Money;
  /** Realised + unrealised − fees: no estimate of closing fees (exact rule *Risk* 1). */
  readonly net: Money;
}

const NOTHING: DayFiguresEur = { realised: NO_MONEY, unrealised: NO_MONEY, fees: NO_MONEY, net: NO_MONEY };

function dayOfPosition(state: AccountState, id: string, market: Market): DayFiguresEur {
  const position = state.book.positions[id];
  if (!position) return NOTHING;
  const instrument = market.instrument(id);
  const { settlesIn } = instrument;
  const euro = (sum: Money): Money => inEuro(sum, settlesIn, market);
  const unrealised = euro(valuePosition(instrument, position, market.mark(id)).dayUnrealised);
  const [realised, fees] = [euro(position.dayRealised), euro(position.dayFees)];
  return { realised, unrealised, fees, net: minus(plus(realised, unrealised), fees) };
}

/** The day of an account, or of one instrument in it. */
export function dayFigures(state: AccountState, market: Market, instrument: string | null = null): DayFiguresEur {
  const ids = instrument === null ? Object.keys(state.book.positions) : [instrument];
  return ids.reduce((sum, id) => {
    const { realised, unrealised, fees, net } = dayOfPosition(state, id, market);
    return { realised: plus(sum.realised, realised), unrealised: plus(sum.unrealised, unrealised), fees: plus(sum.fees, fees), net: plus(sum.net, net) };
  }, NOTHING);
}

/** What is left of the day's limit: limit plus net, at least nothing; null without a limit. */
export function leftOfDay(state: AccountState, market: Market): Money | null {
  const { dayLossLimit } = state.risk.rules;
  if (dayLossLimit === null) return null;
  const left = plus(dayLossLimit, dayFigures(state, market).net);
  return left > 0n ? left : NO_MONEY;
}

/** What all stops would lose, as far as it is known, in EUR, and where something has none. */
export function totalOpenRisk(
  state: AccountState,
  market: Market,
  standing: (orderId: string) => Price | null,
): { readonly known: Money; readonly without: readonly string[] } {
  let known = NO_MONEY;
  const without: string[] = [];
  for (const position of Object.values(state.book.positions)) {
    if (position.quantity === 0) continue;
    const { openRisk, unitsWithoutStop } = openRiskOf(state, position, market, standing);
    known = plus(known, inEuro(openRisk ?? NO_MONEY, market.instrument(position.instrument).settlesIn, market));
    if (unitsWithoutStop > 0) without.push(position.instrument);
  }
  return { known, without: without.sort() };
}
