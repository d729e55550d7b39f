import { atom, type WritableAtom } from 'nanostores';

/** What all windows of a user have in common, kept over reloads: how each takes what another window has set. */
const all = new Map<string, (value: unknown) => void>();
let post: ((key: string, value: unknown) => void) | null = null;
const storageKey = (key: string): string => `kavix.${key}`;

function kept(key: string): unknown {
  try {
    return JSON.parse(localStorage.getItem(storageKey(key)) ?? 'null') as unknown;
  } catch {
    // Nothing is kept, or nothing can be: it begins as it is given.
    return null;
  }
}

/**
 * A store whose value is the same in every window: what one sets all others have at once, through the worker that
 * they share. What was kept is taken up where it has the form of the first value.
 */
export function shared<T>(key: string, first: T): WritableAtom<T> {
  const before = kept(key);
  const fits = before !== null && typeof before === typeof first && Array.isArray(before) === Array.isArray(first);
  const store = atom<T>(fits ? (before as T) : first);
  let hearing = false;
  store.listen((value) => {
    if (hearing) return;
    localStorage.setItem(storageKey(key), JSON.stringify(value));
    post?.(key, value);
  });
  all.set(key, (value) => {
    hearing = true;
    store.set(value as T);
    hearing = false;
  });
  return store;
}

/** What another window has set. */
export function hearShared(values: Readonly<Record<string, unknown>>): void {
  for (const [key, value] of Object.entries(values)) all.get(key)?.(value);
}

/** From now on what is set here goes to the other windows. */
export const tellShared = (to: (key: string, value: unknown) => void): void => {
  post = to;
};
