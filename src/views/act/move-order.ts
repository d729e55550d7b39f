import { NO_QUANTITY, formatPrice, parseQuantity, type Instrument, type Price } from '../../core/instrument/index.ts';
import { ghostAt, type Ghost } from '../../core/orders/index.ts';
import type { Result } from '../../core/result.ts';
import { quoteOf, type ApiOrder } from '../../live/index.ts';
import { answer } from './answers.ts';
import { changeOrder } from './send.ts';

/** Whether the order still waits for its stop: then the stop price is what moves. */
export const waitsForStop = (order: ApiOrder): boolean => order.stopPrice !== null && order.triggeredAt === null;

/** What an order would be at another price, or in words why it can't be there. */
export function orderMovedTo(order: ApiOrder, price: Price, instrument: Instrument): Result<Ghost, string> {
  const market = quoteOf(instrument.id);
  if (!market) return { ok: false, refusal: 'no price to tell by' };
  const quantity = parseQuantity(instrument, order.remainingQuantity) ?? NO_QUANTITY;
  const ghost = ghostAt({ instrument, side: order.side, price, quantity, market, want: waitsForStop(order) ? 'stop' : 'limit' });
  if (ghost.ok && ghost.value.effect === 'fills now' && order.restOnly)
    return { ok: false, refusal: 'it would fill at once there, and was asked only to rest' };
  return ghost;
}

/** An order let go at another price moves there, if that is legal. */
export function moveOrder(pane: string, order: ApiOrder, price: Price, instrument: Instrument): void {
  const moved = orderMovedTo(order, price, instrument);
  if (!moved.ok) answer(pane, 'refused', moved.refusal);
  else void changeOrder(pane, order, { [waitsForStop(order) ? 'stopPrice' : 'limitPrice']: formatPrice(instrument, price) });
}
