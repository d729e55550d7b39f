import { map } from 'nanostores';
import { STILL_MS } from '../../client/gestures/index.ts';

const movedAt = new Map<string, number>();

/** The panes in which target, rows or scale moved a moment ago: a press under the pointer there is refused so long. */
export const $moving = map<Record<string, true>>({});

/** Something moved in a pane: what is under the pointer is something else now. */
export function moved(pane: string): void {
  movedAt.set(pane, performance.now());
  if ($moving.get()[pane]) return;
  $moving.setKey(pane, true);
  untilStill(pane, STILL_MS);
}

function untilStill(pane: string, ms: number): void {
  setTimeout(() => {
    const left = STILL_MS - (performance.now() - (movedAt.get(pane) ?? -Infinity));
    if (left > 0) untilStill(pane, left);
    else $moving.setKey(pane, undefined);
  }, ms);
}
