import { map } from 'nanostores';
import { STILL_MS } from '../../client/gestures/index.ts';

const movedAt = new Map<string, number>();

/** The panes in which something moved under the pointer a moment ago: a press there is refused so long. */
export const $moving = map<Record<string, true>>({});

/** When target, rows or scale of a pane last moved, in machine time; -∞ if never. */
export const lastMoved = (pane: string): number => movedAt.get(pane) ?? -Infinity;

/** Target, rows or scale of a pane moved: what is under the pointer is something else now. */
export function moved(pane: string): void {
  movedAt.set(pane, performance.now());
  if ($moving.get()[pane]) return;
  $moving.setKey(pane, true);
  untilStill(pane, STILL_MS);
}

function untilStill(pane: string, ms: number): void {
  setTimeout(() => {
    const left = STILL_MS - (performance.now() - lastMoved(pane));
    if (left > 0) untilStill(pane, left);
    else $moving.setKey(pane, undefined);
  }, ms);
}
