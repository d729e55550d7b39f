import { answer } from '../../client/answers.ts';
import type { Surface } from '../../client/session.ts';
import { later } from '../../kit/later.ts';
import type { Target } from '../workspace/panes.ts';

/** The reader of order phrases, and what does what they say. */
export const PHRASES = later(() => import('./phrase-order.ts'));

/** Does what a phrase says; what can't be is said in the pane. */
export async function doPhrase(pane: string, from: Surface, phrase: string, target: Target): Promise<void> {
  const phrases = await PHRASES.fetch();
  if (phrases) await phrases.doPhrase(pane, from, phrase, target);
  else answer(pane, 'refused', `${phrase}: what reads it could not be loaded`);
}
