import type { Quantity } from '../core/instrument/index.ts';
import type { Money } from '../core/number/index.ts';
import { remainingQuantity, type Order } from '../core/orders/index.ts';
import { commissionOf, realised, valueAt, valueAtHalves, type Market, type Position } from '../core/portfolio/index.ts';
import type { AccountState } from './state.ts';

export interface PositionRisk {
  /** What the stops would lose from the mark, with their estimated fees; null where no stop waits. */
  readonly openRisk: Money | null;
  readonly unitsWithoutStop: Quantity;
}

/** What a position would lose if every stop filled at its price. */
export function openRiskOf(state: AccountState, position: Position, market: Market): PositionRisk {
  const instrument = market.instrument(position.instrument);
  const mark = market.mark(position.instrument);
  let bare = Math.abs(position.quantity);
  if (bare === 0) return { openRisk: 0n, unitsWithoutStop: 0 };
  const long = position.quantity > 0;
  const line = state.terms.commission.find((one) => one.kind === instrument.kind);
  let lost: Money | null = null;
  for (const id of state.working) {
    const order = state.orders.get(id) as Order;
    if (order.instrument !== position.instrument || order.opening || order.stopPrice === null || order.triggeredAt !== null) continue;
    const quantity = Math.min(bare, remainingQuantity(order));
    if (quantity === 0) continue;
    bare -= quantity;
    const brought = valueAt(instrument, quantity, order.stopPrice);
    const worth = mark === null ? brought : valueAtHalves(instrument, quantity, mark);
    const fee = line ? commissionOf(line, instrument, quantity, brought) : 0n;
    lost = (lost ?? 0n) - realised(instrument, long, worth, brought) + fee;
  }
  return { openRisk: lost, unitsWithoutStop: bare };
}
