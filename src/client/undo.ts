import { atom } from 'nanostores';

/** The last things that can be taken back, newest last. Orders never can: they only say so. */
type Act = { readonly kind: 'thing'; readonly words: string; readonly undo: () => void | Promise<void> } | { readonly kind: 'order'; readonly words: string };

const KEPT = 50;
const SHOWN_MS = 4000;
const acts: Act[] = [];

/** What the last Ctrl Z did, in words, for the frame's own answer line. */
export const $undone = atom<string | null>(null);

function push(act: Act): void {
  acts.push(act);
  if (acts.length > KEPT) acts.shift();
}

export const noteUndoable = (words: string, undo: () => void | Promise<void>): void => push({ kind: 'thing', words, undo });
export const noteOrderAct = (words: string): void => push({ kind: 'order', words });

export function undoLast(): void {
  const act = acts[acts.length - 1];
  if (!act) say('nothing to take back');
  else if (act.kind === 'order') say(`the last act was an order: ${act.words}. Undo never touches orders`);
  else {
    acts.pop();
    void Promise.resolve(act.undo()).then(() => say(`back: ${act.words}`));
  }
}

export function say(words: string): void {
  $undone.set(words);
  setTimeout(() => $undone.get() === words && $undone.set(null), SHOWN_MS);
}
