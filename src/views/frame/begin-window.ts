import { loadBindings } from '../../client/bindings.ts';
import { notePopoverClosed, watchPresses } from '../../client/gestures/index.ts';
import { shareThings } from '../../client/things.ts';
import { loadSettings } from '../../client/settings.ts';
import { listenForSounds } from '../../client/sounds.ts';
import { say } from '../../client/undo.ts';
import { whenFloatCloses } from '../../kit/floats.ts';
import { $refused } from '../../live/index.ts';
import { listenToKeys } from '../act/keys.ts';
import { followSettings, loadTheme } from '../theme/theme.ts';

/** What every window of Kavix begins with, whatever it shows. Call once. */
export function beginWindow(): void {
  loadTheme();
  void loadSettings();
  void loadBindings();
  followSettings();
  listenForSounds();
  watchPresses();
  whenFloatCloses(notePopoverClosed);
  shareThings();
  listenToKeys();
  $refused.listen((one) => one && say(`not followed: ${one.words}`));
}
