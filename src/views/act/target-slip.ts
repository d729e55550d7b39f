import { openSlip } from '../../client/gestures/index.ts';
import { canTrade, sizeOf } from '../../client/session.ts';
import { quoteOf } from '../../live/index.ts';
import { $page } from '../pages/route.ts';
import { $target } from '../workspace/panes.ts';

/** Why no slip can be opened for what the keys act on. */
export function noSlip(): string | null {
  const target = $target.get();
  if (target === null || $page.get() !== null) return 'there is no target';
  return canTrade(target.account, target.instrument) ? null : `${target.account} can’t trade ${target.instrument}`;
}

/** The slip for what the keys act on: a buy that rests at the bid, to be made what is meant. */
export function slipForTarget(): void {
  const target = $target.get();
  if (target === null) return;
  const { pane, account, instrument } = target;
  const bid = quoteOf(instrument)?.text.bid ?? null;
  const order = { account, instrument, side: 'buy', quantity: sizeOf(account, instrument) } as const;
  openSlip(pane, bid === null ? { ...order, type: 'market' } : { ...order, type: 'limit', limitPrice: bid });
}
