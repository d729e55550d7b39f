import { openSlip } from '../slip/slip-store.ts';
import { $directSend, type Surface } from '../workspace/panes.ts';
import { answer } from './answers.ts';
import { screenUp } from './lamps.ts';
import { crossing, reduces, sendOrder, type OrderWish } from './send.ts';

/** Sends an order at once or opens its slip, as direct send is set for the surface. What would cross zero is refused. */
export function route(pane: string, surface: Surface, wish: OrderWish, always: 'slip' | null = null): void {
  const direct = $directSend.get()[surface];
  const atOnce = always === null && (direct === 'all' || (direct === 'exits only' && reduces(wish)));
  const refusal = !screenUp() ? 'this screen has no link to Kavix; nothing was sent' : crossing(wish);
  if (refusal !== null) answer(pane, 'refused', refusal);
  else if (atOnce) void sendOrder(pane, wish);
  else openSlip(pane, wish);
}
