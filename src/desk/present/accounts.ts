import { buyingPower, openRiskOf, tiedUpIn, type AccountState } from '../../core/desk/index.ts';
import { VENUES, formatQuantity, asQuantity, type Price } from '../../core/instrument/index.ts';
import { formatDay, localDay } from '../../core/market/index.ts';
import { NO_MONEY, formatMoney, formatScaled, minus, plus, type Money } from '../../core/number/index.ts';
import {
  commissionInForce,
  inEuro,
  settledQuantity,
  valueAccount,
  valuePosition,
  type Commission,
  type Market,
  type Position,
} from '../../core/portfolio/index.ts';
import type { accounts, ShapeOf } from '../../schemas/shapes.ts';
import { averageText, formatHalves, isoOrNull, isoTime } from './text.ts';

export type AccountAnswer = ShapeOf<typeof accounts.account>;
export type PositionAnswer = ShapeOf<typeof accounts.position>;

/**
 * The figures of a position at the market's mark.
 *
 * @param standing where a trailing stop stands now, where that is known
 */
export function presentPosition(state: AccountState, position: Position, market: Market, standing: (orderId: string) => Price | null): PositionAnswer {
  const instrument = market.instrument(position.instrument);
  const mark = market.mark(position.instrument);
  const value = valuePosition(instrument, position, mark);
  const money = (sum: Money): string => formatMoney(sum, instrument.settlesIn);
  const risk = openRiskOf(state, position, market, standing);
  const firstRisk = state.firstRisks.get(position.instrument);
  const average = averageText(instrument, position.quantity, position.cost);
  return {
    account: state.terms.id,
    instrument: position.instrument,
    product: position.product,
    quantity: formatQuantity(instrument, position.quantity),
    averagePrice: average,
    mark: mark === null ? average : formatHalves(instrument, mark),
    marketValue: money(value.marketValue),
    unrealised: money(value.unrealised),
    currency: instrument.settlesIn,
    day: {
      realised: money(position.dayRealised),
      unrealised: money(value.dayUnrealised),
      fees: money(position.dayFees),
      net: money(minus(plus(position.dayRealised, value.dayUnrealised), position.dayFees)),
    },
    openRisk: risk.openRisk === null ? null : money(risk.openRisk),
    firstRisk: firstRisk === undefined ? null : money(firstRisk),
    unitsWithoutStop: formatQuantity(instrument, risk.unitsWithoutStop),
    settledQuantity: formatQuantity(instrument, settledQuantity(state.book, position.instrument)),
    openedAt: isoOrNull(position.openedAt),
    updatedAt: isoTime(position.updatedAt),
  };
}

export function presentAccount(state: AccountState, market: Market): AccountAnswer {
  const { terms, book } = state;
  const value = valueAccount(book, market);
  const money = (sum: Money): string => formatMoney(sum, terms.currency);
  return {
    id: terms.id,
    currency: terms.currency,
    venues: terms.venues,
    kinds: terms.kinds,
    products: terms.products,
    cash: money(book.cash),
    applied: money(book.applied ?? NO_MONEY),
    equity: money(value.equity),
    marginUsed: money(value.marginUsed),
    maintenance: money(value.maintenance),
    buyingPower: money(buyingPower(state, market)),
    marginCall: value.equity < value.maintenance,
    wallets: walletsOf(state).map(({ asset, purpose, total }) => {
      const tiedUp = tiedUpIn(state, asset, purpose, market);
      const say = (sum: Money): string => formatScaled(sum, 8, asset === 'EUR' ? 2 : 8);
      return { asset, purpose, total: say(total), tiedUp: say(tiedUp), available: say(minus(total, tiedUp)), inEur: money(inEuro(total, asset, market)) };
    }),
    holdings: holdingsOf(state, market),
    commission: [...commissionInForce(terms, book), ...(book.coming ?? [])].map(presentCommission),
  };
}

/** A line of commission, in the decimals of what it is paid in. */
export function presentCommission({ kind, basis, rate, minimum, maximum, exchangeFee, currency, from }: Commission): AccountAnswer['commission'][number] {
  return {
    kind,
    basis,
    rate: formatScaled(rate, 8, 2),
    minimum: minimum === null ? null : formatMoney(minimum, currency),
    maximum: maximum === null ? null : formatMoney(maximum, currency),
    exchangeFee: formatScaled(exchangeFee, 8, 2),
    currency,
    from,
  };
}

/** The wallets with something in them, and those that the account always has. */
function walletsOf({ terms, book }: AccountState): AccountState['book']['wallets'] {
  return book.wallets.filter(({ asset, purpose, total }) => total !== 0n || terms.wallets.some((one) => one.asset === asset && one.purpose === purpose));
}

function holdingsOf(state: AccountState, market: Market): AccountAnswer['holdings'] {
  const held = Object.values(state.book.positions).filter((position) => {
    const { kind } = market.instrument(position.instrument);
    return position.quantity > 0 && (kind === 'share' || kind === 'fund');
  });
  return held.map((position) => {
    const instrument = market.instrument(position.instrument);
    const lots = state.book.unsettled.filter((lot) => lot.instrument === position.instrument);
    return {
      instrument: position.instrument,
      quantity: formatQuantity(instrument, asQuantity(Math.max(0, settledQuantity(state.book, position.instrument)))),
      unsettled: lots.map((lot) => ({
        quantity: formatQuantity(instrument, lot.quantity),
        settlesOn: formatDay(localDay(VENUES[instrument.venue].zone, lot.settlesAt)),
      })),
    };
  });
}
