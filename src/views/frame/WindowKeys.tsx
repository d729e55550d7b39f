import { useStore } from '@nanostores/react';
import { openSlip } from '../../client/gestures/index.ts';
import { canTrade, sizeOf } from '../../client/session.ts';
import { $undone, undoLast } from '../../client/undo.ts';
import { Button } from '../../kit/Button.tsx';
import { FLOAT } from '../../kit/floats.ts';
import { quoteOf } from '../../live/index.ts';
import { useFrameCommands } from '../act/keys.ts';
import { $page } from '../pages/route.ts';
import { $target } from '../workspace/panes.ts';

/** Why no slip can be opened for what the keys act on. */
function noSlip(): string | null {
  const target = $target.get();
  if (target === null || $page.get() !== null) return 'there is no target';
  return canTrade(target.account, target.instrument) ? null : `${target.account} can’t trade ${target.instrument}`;
}

/** The slip for the target: a buy that rests at the bid, to be made what is meant. */
function slipForTarget(): void {
  const target = $target.get();
  if (target === null) return;
  const { pane, account, instrument } = target;
  const bid = quoteOf(instrument)?.text.bid ?? null;
  const order = { account, instrument, side: 'buy', quantity: sizeOf(account, instrument) } as const;
  openSlip(pane, bid === null ? { ...order, type: 'market' } : { ...order, type: 'limit', limitPrice: bid });
}

/** Keys that every window has, and what was said of the last thing taken back. */
export function WindowKeys() {
  const undone = useStore($undone);
  useFrameCommands([
    { keys: ['Ctrl+Z'], words: 'take back what was done last; never an order', run: undoLast },
    { keys: ['F4'], words: 'the slip for what the keys act on', cannot: noSlip, run: slipForTarget },
  ]);
  if (undone === null) return null;
  return (
    <p role="status" data-testid="said" className={`${FLOAT} pointer-events-none fixed left-14 top-[3px] flex min-h-[28px] items-center gap-2 px-2`}>
      {undone.words}
      {undone.offer && (
        <Button
          size="small"
          className="pointer-events-auto"
          onClick={() => {
            undone.offer?.run();
            $undone.set(null);
          }}
        >
          {undone.offer.words}
        </Button>
      )}
    </p>
  );
}
