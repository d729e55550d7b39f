import { atom } from 'nanostores';
import { problemWords, request } from '../live/index.ts';
import { say } from './undo.ts';

/** Something that waits for the consent to exits held here. */
export const $consentAsked = atom<{ readonly go: () => void } | null>(null);

export const askConsent = (go: () => void): void => $consentAsked.set({ go });

/** Gives the consent, and does what waited for it; or leaves it. */
export async function answerConsent(given: boolean): Promise<void> {
  const asked = $consentAsked.get();
  $consentAsked.set(null);
  if (!given || !asked) return;
  const done = await request('PUT /api/consents/held-here', { body: { given: true } });
  if (done.ok) asked.go();
  else say(problemWords(done.problem));
}
