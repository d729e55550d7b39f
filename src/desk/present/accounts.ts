import { VENUES, formatQuantity } from '../../core/instrument/index.ts';
import { formatDay, localDay } from '../../core/market/index.ts';
import { divideHalfEven, formatMoney, formatScaled, type Money } from '../../core/number/index.ts';
import { remainingQuantity, type Order } from '../../core/orders/index.ts';
import { baseAsset, orderMargin, valueAccount, valuePosition, type Market, type OrderExposure, type Position } from '../../core/portfolio/index.ts';
import { openRiskOf } from '../open-risk.ts';
import type { AccountState } from '../state.ts';
import { averageText, formatHalves, isoOrNull, isoTime } from './text.ts';

/** The figures of a position at the market's mark. */
export function presentPosition(state: AccountState, position: Position, market: Market): Record<string, unknown> {
  const instrument = market.instrument(position.instrument);
  const mark = market.mark(position.instrument);
  const value = valuePosition(instrument, position, mark);
  const money = (sum: Money): string => formatMoney(sum, instrument.settlesIn);
  const unsettled = state.book.unsettled.filter((lot) => lot.instrument === position.instrument).reduce((sum, lot) => sum + lot.quantity, 0);
  const risk = openRiskOf(state, position, market);
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
      net: money(position.dayRealised + value.dayUnrealised - position.dayFees),
    },
    openRisk: risk.openRisk === null ? null : money(risk.openRisk),
    unitsWithoutStop: formatQuantity(instrument, risk.unitsWithoutStop),
    settledQuantity: formatQuantity(instrument, position.quantity - unsettled),
    openedAt: isoOrNull(position.openedAt),
    updatedAt: isoTime(position.updatedAt),
  };
}

/** What an order ties up changes only with the order: a value, so that it can be kept beside it. */
const known = new WeakMap<Order, OrderExposure>();

function exposureOf(order: Order, market: Market): OrderExposure {
  let exposure = known.get(order);
  if (!exposure) {
    const instrument = market.instrument(order.instrument);
    const { side, product } = order;
    const plain = { instrument, side, quantity: remainingQuantity(order), price: order.limitPrice ?? order.stopPrice, product };
    // Without a price, and for options, the margin moves with the market.
    const fixed = plain.price !== null && instrument.kind !== 'option';
    known.set(order, (exposure = { ...plain, margin: fixed ? orderMargin(plain, market) : null }));
  }
  return exposure;
}

/** Working opening orders as margin sees them: at their limit, else stop price, else at the mark. */
export function exposures(state: AccountState, market: Market): OrderExposure[] {
  const found: OrderExposure[] = [];
  for (const id of state.working) {
    const order = state.orders.get(id) as Order;
    if (!order.opening) continue;
    const exposure = exposureOf(order, market);
    if (exposure.quantity > 0) found.push(exposure);
  }
  return found;
}

export function presentAccount(state: AccountState, market: Market): Record<string, unknown> {
  const { terms, book } = state;
  const orders = exposures(state, market);
  const value = valueAccount(book, orders, market);
  const money = (sum: Money): string => formatMoney(sum, terms.currency);
  return {
    id: terms.id,
    currency: terms.currency,
    products: terms.products,
    cash: money(book.cash),
    equity: money(value.equity),
    marginUsed: money(value.marginUsed),
    maintenance: money(value.maintenance),
    buyingPower: money(value.buyingPower),
    marginCall: value.equity < value.maintenance,
    wallets: book.wallets.map(({ asset, purpose, total }) => {
      const tiedUp = tiedUpIn(state, asset, purpose, market);
      const say = (sum: Money): string => formatScaled(sum, 8, asset === 'EUR' ? 2 : 8);
      return { asset, purpose, total: say(total), tiedUp: say(tiedUp), available: say(total - tiedUp) };
    }),
    holdings: holdingsOf(state, market),
    commission: terms.commission.map((line) => ({
      kind: line.kind,
      basis: line.basis,
      rate: formatScaled(line.rate, 8, 2),
      minimum: line.minimum === null ? null : formatMoney(line.minimum, line.currency),
      maximum: line.maximum === null ? null : formatMoney(line.maximum, line.currency),
      exchangeFee: formatScaled(line.exchangeFee, 8, 2),
      currency: line.currency,
      from: line.from,
    })),
  };
}

/** What working orders, and the margin of inverse positions, tie up of a wallet. */
export function tiedUpIn(state: AccountState, asset: string, purpose: 'spot' | 'contract', market: Market): Money {
  let tied = 0n;
  for (const id of state.working) {
    const order = state.orders.get(id) as Order;
    const instrument = market.instrument(order.instrument);
    const quantity = remainingQuantity(order);
    if (quantity === 0) continue;
    const exposure = { instrument, side: order.side, quantity, price: order.limitPrice ?? order.stopPrice, product: order.product };
    if (purpose === 'contract') {
      if (instrument.kind === 'inverse' && order.opening) tied += orderMargin(exposure, market);
    } else if (instrument.kind === 'spot') {
      if (order.side === 'buy' && asset === instrument.currency) tied += orderMargin(exposure, market);
      if (order.side === 'sell' && asset === baseAsset(instrument)) tied += BigInt(quantity) * 10n ** BigInt(8 - instrument.quantityDecimals);
    }
  }
  if (purpose === 'contract')
    for (const position of Object.values(state.book.positions)) {
      const instrument = market.instrument(position.instrument);
      if (instrument.kind !== 'inverse' || position.quantity === 0) continue;
      const { marketValue } = valuePosition(instrument, position, market.mark(position.instrument));
      const size = marketValue < 0n ? -marketValue : marketValue;
      tied += divideHalfEven(size * BigInt(instrument.margin.overnight), 10_000n);
    }
  return tied;
}

function holdingsOf(state: AccountState, market: Market): unknown[] {
  const held = Object.values(state.book.positions).filter((position) => {
    const { kind } = market.instrument(position.instrument);
    return position.quantity > 0 && (kind === 'share' || kind === 'fund');
  });
  return held.map((position) => {
    const instrument = market.instrument(position.instrument);
    const lots = state.book.unsettled.filter((lot) => lot.instrument === position.instrument);
    const pending = lots.reduce((sum, lot) => sum + lot.quantity, 0);
    return {
      instrument: position.instrument,
      quantity: formatQuantity(instrument, Math.max(0, position.quantity - pending)),
      unsettled: lots.map((lot) => ({
        quantity: formatQuantity(instrument, lot.quantity),
        settlesOn: formatDay(localDay(VENUES[instrument.venue].zone, lot.settlesAt)),
      })),
    };
  });
}
