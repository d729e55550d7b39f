import type { Instrument } from '../instrument/index.ts';
import { NO_MONEY } from '../number/index.ts';
import { limitPriceOf, remainingQuantity, stopPriceOf, type Order } from '../orders/index.ts';
import { baseAsset, inBase, marginFor, valueAt, type Market } from '../portfolio/index.ts';

/**
 * What a working order ties up, of what. Kept as running sums, so that a new order is judged at the same cost
 * beside ten others as beside ten thousand. `floating` marks an order whose margin moves with the market.
 */
export interface Claim {
  readonly from: 'margin EUR' | `contract ${string}` | `spot ${string}` | `free sale ${string}` | 'floating';
  readonly amount: bigint;
}

/** What an order claims by itself, at its limit, else its stop price. */
export function claimsOf(order: Order, instrument: Instrument): Claim[] {
  const quantity = remainingQuantity(order);
  if (quantity === 0) return [];
  const buys = order.side === 'buy';
  const price = limitPriceOf(order.terms, order.side, instrument) ?? stopPriceOf(order.terms);
  const claims: Claim[] = [];
  if (instrument.kind === 'spot' && !buys) {
    claims.push({ from: `spot ${baseAsset(instrument)}`, amount: inBase(instrument, quantity) });
    if (order.opening) claims.push({ from: `free sale ${order.instrument}`, amount: BigInt(quantity) });
    return claims;
  }
  if (!order.opening) return claims;
  // Without a price, and for what is written on something else, the margin moves with the market.
  if (price === null || (instrument.kind === 'option' && !buys) || order.terms.type === 'trailing-stop') return [{ from: 'floating', amount: 0n }];
  const margin = marginFor(instrument, buys, quantity, valueAt(instrument, quantity, price), order.product, NO_MARKET) ?? NO_MONEY;
  if (instrument.kind === 'spot') return [{ from: `spot ${instrument.currency}`, amount: margin }];
  return [{ from: instrument.kind === 'inverse' ? `contract ${instrument.settlesIn}` : 'margin EUR', amount: margin }];
}

const NO_MARKET: Market = {
  instrument: (id) => {
    throw new Error(`${id} is not asked for`);
  },
  mark: () => null,
};
