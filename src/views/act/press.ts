import { ghostAt, ghostRequest, type Ghost, type GhostAsk } from '../../core/orders/index.ts';
import { changedAt, type Surface } from '../workspace/panes.ts';
import { answer } from './answers.ts';
import { refuseGesture } from './guard.ts';
import { quotesFresh, screenUp } from './lamps.ts';
import { route } from './route.ts';
import { crossing } from './send.ts';

let spent: { readonly until: number; readonly on: 'woke the window' | 'closed a popover' } = { until: 0, on: 'woke the window' };
let last: { at: number; key: string } | null = null;

/** A press that wakes the window is no order: call once. */
export function watchWaking(): void {
  let asleep = !document.hasFocus();
  window.addEventListener('blur', () => (asleep = true));
  window.addEventListener(
    'pointerdown',
    () => {
      if (asleep) spent = { until: performance.now() + 600, on: 'woke the window' };
      asleep = false;
    },
    true,
  );
  window.addEventListener('focus', () => {
    // The focus comes with the press itself; the press that brings it still counts as waking.
    if (asleep) spent = { until: performance.now() + 60, on: 'woke the window' };
    setTimeout(() => (asleep = false), 0);
  });
}

/** A popover that this press closed: it was for that, not for an order. */
export const notePopoverClosed = (): void => {
  spent = { until: performance.now() + 120, on: 'closed a popover' };
};

export interface Press {
  readonly pane: string;
  readonly surface: Surface;
  readonly account: string;
  /** When rows or scale of the surface last moved. */
  readonly movedAt: number;
  readonly painted: Ghost | null;
  readonly ask: GhostAsk;
  /** Through the market by more than this many ticks the slip opens in every setting. */
  readonly farTicks: number;
}

/** A press in an order area: refused with its reason, sent at once, or opened in the slip. */
export function pressOrder(press: Press): void {
  const { pane, ask, account, painted } = press;
  const now = performance.now();
  const present = ghostAt(ask);
  const key = `${pane} ${ask.side} ${ask.price}`;
  const wish = present.ok ? { account, ...ghostRequest(present.value, ask.instrument) } : null;
  const refusal = refuseGesture({
    now,
    spent: now < spent.until ? spent.on : null,
    changedAt: Math.max(changedAt.get(pane) ?? 0, press.movedAt),
    screenUp: screenUp(),
    quoteFresh: quotesFresh(),
    last,
    key,
    painted,
    present: present.ok ? present.value : null,
    reason: present.ok ? null : present.refusal,
    crossesZero: wish ? crossing(wish) : null,
    closes: false,
  });
  last = { at: now, key };
  if (refusal !== null || !wish || !present.ok) {
    answer(pane, 'refused', refusal ?? 'nothing was sent');
    return;
  }
  route(pane, press.surface, wish, isFar(press, present.value) ? 'slip' : null);
}

function isFar({ ask, farTicks }: Press, ghost: Ghost): boolean {
  if (ghost.effect !== 'fills now') return false;
  const best = ask.side === 'buy' ? ask.market.ask : ask.market.bid;
  const tick = ask.instrument.tickBands[0]?.tick ?? 1;
  return best !== null && Math.abs(ghost.price - best) > farTicks * tick;
}
