import { NO_QUANTITY, asQuantity, type Instrument, type Quantity } from '../instrument/index.ts';
import { NO_MONEY, minus, plus, type Money } from '../number/index.ts';
import { limitPriceOf, remainingQuantity, stopPriceOf, type Order } from '../orders/index.ts';
import { inEuro, marginFor, valueAt, valueAtHalves, type Market } from '../portfolio/index.ts';
import { buyingPower, feeEstimate } from './exposure.ts';
import type { BookLevel, VisibleBook } from './facts.ts';
import type { AccountState } from './state.ts';

/** What an order would do and cost before it goes: the same code as the charge after. Money in what the instrument settles in, but for what is in EUR. */
export interface Estimate {
  /** What the visible book would fill at once. */
  readonly fills: readonly BookLevel[];
  readonly filled: Quantity;
  readonly filledValue: Money;
  readonly unfilled: Quantity;
  /** What it is likely to cost: the fills, and the rest at its limit, else its stop price; null where nothing tells. */
  readonly value: Money | null;
  readonly fees: Money;
  /** In EUR. */
  readonly margin: Money;
  /** In EUR. */
  readonly buyingPowerAfter: Money;
}

const NO_LEVELS: readonly BookLevel[] = [];

/** What the visible book would fill of an order at once, best first. */
export function fillsNow(order: Order, instrument: Instrument, { bids, asks }: VisibleBook): BookLevel[] {
  const limit = limitPriceOf(order.terms, order.side, instrument);
  const fills: BookLevel[] = [];
  let left: number = remainingQuantity(order);
  const levels = stopPriceOf(order.terms) === null && order.terms.type !== 'trailing-stop' ? (order.side === 'buy' ? asks : bids) : NO_LEVELS;
  for (const { price, quantity } of levels) {
    if (left === 0 || (limit !== null && (order.side === 'buy' ? price > limit : price < limit))) break;
    const taken = asQuantity(Math.min(left, quantity));
    fills.push({ price, quantity: taken });
    left -= taken;
  }
  return fills;
}

/**
 * What an opening order counts at: its limit, else its stop price, else the estimated fill from the visible book
 * (what that does not hold at its last price), else the mark.
 *
 * @returns null where there is none of them
 */
export function orderValue(order: Order, quantity: Quantity, instrument: Instrument, fills: readonly BookLevel[], market: Market): Money | null {
  const price = limitPriceOf(order.terms, order.side, instrument) ?? stopPriceOf(order.terms);
  if (price !== null) return valueAt(instrument, quantity, price);
  const mark = market.mark(instrument.id);
  const worst = fills[fills.length - 1];
  if (!worst) return mark === null ? null : valueAtHalves(instrument, quantity, mark);
  let left: number = quantity;
  let sum = NO_MONEY;
  for (const fill of fills) {
    const taken = asQuantity(Math.min(left, fill.quantity));
    if (taken > 0) sum = plus(sum, valueAt(instrument, taken, fill.price));
    left -= taken;
  }
  return left > 0 ? plus(sum, valueAt(instrument, asQuantity(left), worst.price)) : sum;
}

/** @param opens how much of it opens: what its margin is worked out on */
export function estimateOrder(state: AccountState, order: Order, opens: Quantity, instrument: Instrument, book: VisibleBook, market: Market): Estimate {
  const fills = fillsNow(order, instrument, book);
  const filled = asQuantity(fills.reduce<number>((sum, { quantity }) => sum + quantity, 0));
  const quantity = remainingQuantity(order);
  const rest = asQuantity(quantity - filled);
  const restValue = rest === 0 ? NO_MONEY : orderValue(order, rest, instrument, fills.slice(-1), market);
  const filledValue = fills.reduce((sum, fill) => plus(sum, valueAt(instrument, fill.quantity, fill.price)), NO_MONEY);
  const value = restValue === null ? null : plus(filledValue, restValue);
  const fees = feeEstimate(state, instrument, quantity, value ?? filledValue);
  const margin = opens === NO_QUANTITY ? NO_MONEY : (marginOf(order, opens, instrument, fills, market) ?? NO_MONEY);
  const euroMargin = inEuro(margin, instrument.settlesIn, market);
  return {
    fills,
    filled,
    filledValue,
    unfilled: rest,
    value,
    fees,
    margin: euroMargin,
    buyingPowerAfter: minus(buyingPower(state, market), euroMargin, inEuro(fees, instrument.settlesIn, market)),
  };
}

/** Margin of what an order opens, in what the instrument settles in; null where it can't be valued. */
export function marginOf(order: Order, opens: Quantity, instrument: Instrument, fills: readonly BookLevel[], market: Market): Money | null {
  const value = orderValue(order, opens, instrument, fills, market);
  return value === null ? null : marginFor(instrument, order.side === 'buy', opens, value, order.product, market);
}
