import { formatPrice, type Instrument, type Price } from '../../core/instrument/index.ts';
import { ghostAt, type Ghost } from '../../core/orders/index.ts';
import type { Result } from '../../core/result.ts';
import { quoteOf, type ApiOrder, type LiveOrder } from '../../live/index.ts';

/** Whether the order still waits for its stop: then the stop price is what moves. */
export const waitsForStop = (order: ApiOrder): boolean => order.stopPrice !== null && order.triggeredAt === null;

/** The price at which an order waits: its stop's until that triggers, then its limit; null where it has none. */
export const waitsAt = (order: LiveOrder): Price | null => (waitsForStop(order) ? order.units.stop : order.units.limit);

/** What an order would be at another price, or in words why it can't be there. */
export function orderMovedTo(order: LiveOrder, price: Price, instrument: Instrument): Result<Ghost, string> {
  const market = quoteOf(instrument.id);
  if (!market) return { ok: false, refusal: 'no price to tell by' };
  const ghost = ghostAt({ instrument, side: order.side, price, quantity: order.units.remaining, market, want: waitsForStop(order) ? 'stop' : 'limit' });
  if (ghost.ok && ghost.value.effect === 'fills now' && order.restOnly)
    return { ok: false, refusal: 'it would fill at once there, and was asked only to rest' };
  return ghost;
}

/** The change that a move to a price is. */
export const moveChange = (order: ApiOrder, price: Price, instrument: Instrument): Readonly<Record<string, string>> => ({
  [waitsForStop(order) ? 'stopPrice' : 'limitPrice']: formatPrice(instrument, price),
});
