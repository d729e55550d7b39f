import { computed } from 'nanostores';
import { drawings as remote } from '../../../client/saved-remote.ts';
import { mergeByName, thingsOf } from '../../../client/things.ts';
import { noteUndoable } from '../../../client/undo.ts';
import type { Drawing } from './drawings.ts';

interface Drawn {
  readonly items: readonly Drawing[];
}

const drawn = thingsOf<Drawn>('drawings', 'the drawings of', {
  remote,
  first: () => ({ items: [] }),
  merge: (base, mine, theirs) => {
    const items = mergeByName(({ id }) => id, base?.items ?? [], mine.items, theirs.items);
    return items && { items };
  },
});

/** What is drawn, by instrument, as far as it is known. */
export const $drawings = computed(drawn.$all, (all): Readonly<Record<string, readonly Drawing[] | undefined>> =>
  Object.fromEntries(Object.entries(all).map(([instrument, thing]) => [instrument, thing?.kind === 'known' ? thing.value.items : undefined])),
);

export const loadDrawings = (instrument: string): Promise<unknown> => drawn.load(instrument);

/** Puts an instrument's drawings; Ctrl Z takes it back. */
export function changeDrawings(instrument: string, items: readonly Drawing[], words: string): void {
  const before = drawn.valueOf(instrument);
  if (!drawn.change(instrument, () => ({ items })) || !before) return;
  noteUndoable(words, () => void drawn.change(instrument, () => before));
}
