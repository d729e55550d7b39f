import { computed } from 'nanostores';
import { drawings as remote } from '../../../client/saved-remote.ts';
import { mergeByName, thingsOf } from '../../../client/things.ts';
import { noteUndoable } from '../../../client/undo.ts';
import type { Drawing } from './drawings.ts';
import { moveAlerts } from './line-alerts.ts';

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
  if (put(instrument, items) && before) noteUndoable(words, () => void put(instrument, withAlertsOf(drawn.valueOf(instrument)?.items ?? [], before.items)));
}

/** Ties a drawing to the alert that waits for it; no undo takes it back. */
export function tieAlert(instrument: string, drawing: string, alert: string): void {
  put(instrument, (drawn.valueOf(instrument)?.items ?? []).map((one) => (one.id === drawing ? { ...one, alert } : one))); // prettier-ignore
}

const withAlertsOf = (now: readonly Drawing[], items: readonly Drawing[]): readonly Drawing[] =>
  items.map((one) => {
    const alert = now.find(({ id }) => id === one.id)?.alert ?? one.alert;
    return alert === undefined ? one : { ...one, alert };
  });

function put(instrument: string, items: readonly Drawing[]): boolean {
  const before = drawn.valueOf(instrument)?.items ?? [];
  if (!drawn.change(instrument, () => ({ items }))) return false;
  moveAlerts(instrument, before, items);
  return true;
}
