import { useStore } from '@nanostores/react';
import { atom, type ReadableAtom } from 'nanostores';
import { useEffect } from 'react';

/** A part of the program that is fetched after the first picture stands. */
export interface Later<T> {
  /** Null until it is here. */
  readonly $part: ReadableAtom<T | null>;
  /** Null where it can't be had now: who asks then tries again. */
  readonly fetch: () => Promise<T | null>;
}

const AGAIN_MS = 1000;
const waiting = new Set<() => unknown>();
let hasMoved = false;

function moved(event: Event): void {
  // A page that is laid out anew under a resting pointer is told of a move that was none.
  const { movementX, movementY } = event as PointerEvent;
  if (event.type === 'pointermove' && movementX === 0 && movementY === 0) return;
  hasMoved = true;
  for (const sign of SIGNS) window.removeEventListener(sign, moved, true);
  for (const fetch of waiting) void fetch();
  waiting.clear();
}

const SIGNS = ['pointermove', 'pointerdown', 'keydown'] as const;
if (typeof window !== 'undefined') for (const sign of SIGNS) window.addEventListener(sign, moved, true);

/**
 * Fetches a part at the first sign of a hand in the window (a pointer that moves, a key), at the latest when it is
 * asked for: what is opened finds it here, and a window that is only looked at never pays for it.
 */
export function later<T>(load: () => Promise<T>): Later<T> {
  const $part = atom<T | null>(null);
  let coming: Promise<T | null> | null = null;
  const fetch = (): Promise<T | null> =>
    (coming ??= load().then(
      (part) => {
        $part.set(part);
        return part;
      },
      () => {
        coming = null;
        return null;
      },
    ));
  if (hasMoved) void fetch();
  else waiting.add(fetch);
  return { $part, fetch };
}

/** The part, once it is here; where it is wanted it is fetched, again and again while there is no link. */
export function usePart<T>({ $part, fetch }: Later<T>, wanted: boolean): T | null {
  const part = useStore($part);
  useEffect(() => {
    if (!wanted) return undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let left = false;
    const ask = async (): Promise<void> => {
      if ((await fetch()) === null && !left) timer = setTimeout(() => void ask(), AGAIN_MS);
    };
    void ask();
    return () => {
      left = true;
      clearTimeout(timer);
    };
  }, [fetch, wanted]);
  return part;
}
