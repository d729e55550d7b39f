import { useStore } from '@nanostores/react';
import { $undone, undoLast } from '../../client/undo.ts';
import { Button } from '../../kit/Button.tsx';
import { FLOAT } from '../../kit/floats.ts';
import { useFrameCommands } from '../act/keys.ts';
import { noSlip, slipForTarget } from '../act/target-slip.ts';

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
