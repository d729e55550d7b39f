import type { ApiOrder } from '../../live/index.ts';
import type { OrderWish } from './intent.ts';

const STOPS: readonly ApiOrder['type'][] = ['stop', 'stop-limit', 'trailing-stop'];

/** The order that asks anew for what a working one had left, as it was; its exit plan is not asked for again. */
export function wishAsItWas(order: ApiOrder): OrderWish {
  const { account, instrument, side, type, remainingQuantity, limitPrice, limitOffsetTicks, stopPrice, trail, setup } = order;
  return {
    account,
    instrument,
    side,
    type,
    quantity: remainingQuantity,
    // A limit by offset has its price from it.
    ...(limitOffsetTicks === null ? (limitPrice === null ? {} : { limitPrice }) : { limitOffsetTicks }),
    ...(stopPrice === null ? {} : { stopPrice }),
    ...(trail === null ? {} : { trail }),
    ...(STOPS.includes(type) && order.triggerOn !== null ? { triggerOn: order.triggerOn } : {}),
    timeInForce: order.timeInForce,
    ...(order.timeInForce === 'gtd' && order.expiresAt !== null ? { expiresAt: order.expiresAt } : {}),
    heldBy: order.heldBy,
    product: order.product,
    ...(order.restOnly ? { restOnly: true } : {}),
    ...(order.reduceOnly ? { reduceOnly: true } : {}),
    ...(setup === null ? {} : { setup }),
  };
}

/** The change that takes a change back: what it changed, as the order had it before; null where that can't be said. */
export function changeBack(before: ApiOrder, change: Readonly<Record<string, string | number>>): Readonly<Record<string, string | number>> | null {
  const old = Object.keys(change).map((name) => [name, before[name as keyof ApiOrder]] as const);
  return old.every((one): one is [string, string | number] => typeof one[1] === 'string' || typeof one[1] === 'number') ? Object.fromEntries(old) : null;
}
