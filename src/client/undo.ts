import { atom } from 'nanostores';

/** What can be done about an order instead of taking it back: a press of its own, named for what it does. */
export interface Offer {
  readonly words: string;
  readonly run: () => void;
}

/** The last things that can be taken back, newest last. Orders never can: they only say so, and what can be done. */
type Act =
  | { readonly kind: 'thing'; readonly words: string; readonly undo: () => void | Promise<void> }
  | { readonly kind: 'order'; readonly words: string; readonly offer: Offer | null };

const KEPT = 50;
const SHOWN_MS = 4000;
/** Words with a button in them stay long enough to be pressed. */
const OFFERED_MS = 15_000;
const acts: Act[] = [];

/** What the last Ctrl Z did, in words, for the frame's own answer line. */
export const $undone = atom<{ readonly words: string; readonly offer: Offer | null } | null>(null);

function push(act: Act): void {
  acts.push(act);
  if (acts.length > KEPT) acts.shift();
}

export const noteUndoable = (words: string, undo: () => void | Promise<void>): void => push({ kind: 'thing', words, undo });
export const noteOrderAct = (words: string, offer: Offer | null = null): void => push({ kind: 'order', words, offer });

export function undoLast(): void {
  const act = acts[acts.length - 1];
  if (!act) say('nothing to take back');
  else if (act.kind === 'order') say(`the last act was an order: ${act.words}. Undo never touches orders`, act.offer);
  else {
    acts.pop();
    void Promise.resolve(act.undo()).then(() => say(`back: ${act.words}`));
  }
}

export function say(words: string, offer: Offer | null = null): void {
  const said = { words, offer };
  $undone.set(said);
  setTimeout(() => $undone.get() === said && $undone.set(null), offer ? OFFERED_MS : SHOWN_MS);
}
