import { watchPresses } from '../../client/gestures/index.ts';
import { shareThings } from '../../client/things.ts';
import { say } from '../../client/undo.ts';
import { $refused } from '../../live/index.ts';
import { listenToKeys } from '../act/keys.ts';
import { loadTheme } from '../theme/theme.ts';

/** What every window of Kavix begins with, whatever it shows. Call once. */
export function beginWindow(): void {
  loadTheme();
  watchPresses();
  shareThings();
  listenToKeys();
  $refused.listen((one) => one && say(`not followed: ${one.words}`));
}
