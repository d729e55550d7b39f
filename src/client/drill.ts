import type { BoundKey } from './bindings.ts';

/** A drill of keys: an order is named, the key that does it is to be pressed. */
export interface Drill {
  readonly asked: BoundKey;
  readonly askedAt: number;
  readonly right: number;
  readonly wrong: number;
  /** How long the right keys took together, in milliseconds. */
  readonly took: number;
  /** What the last press was, in words; null before the first. */
  readonly said: string | null;
}

type Pick = (count: number) => number;

const withPhrase = (keys: readonly BoundKey[]): BoundKey[] => keys.filter(({ phrase }) => phrase !== null && phrase !== '');

/** Begins with one of the keys that have a phrase; null where there is none. */
export function beginDrill(keys: readonly BoundKey[], now: number, pick: Pick): Drill | null {
  const all = withPhrase(keys);
  const asked = all[pick(all.length)];
  return asked ? { asked, askedAt: now, right: 0, wrong: 0, took: 0, said: null } : null;
}

/**
 * A key was pressed: the right one counts with its time and brings another order, any other counts as wrong. Right is
 * whatever would ask for the very same now.
 *
 * @param wouldAsk what a phrase would ask for now; null where that can't be told
 */
export function pressInDrill(
  drill: Drill,
  key: string,
  keys: readonly BoundKey[],
  now: number,
  pick: Pick,
  wouldAsk: (phrase: string) => string | null = () => null,
): Drill {
  const does = keys.find((one) => one.key === key)?.phrase ?? '';
  const asked = wouldAsk(drill.asked.phrase ?? '');
  const isRight = key === drill.asked.key || (does !== '' && asked !== null && wouldAsk(does) === asked);
  if (!isRight) return { ...drill, wrong: drill.wrong + 1, said: `${key} ${does ? `is “${does}”` : 'does nothing'}` };
  const others = withPhrase(keys).filter((one) => one.key !== drill.asked.key);
  const took = now - drill.askedAt;
  const next = others[pick(others.length)] ?? drill.asked;
  return { asked: next, askedAt: now, right: drill.right + 1, wrong: drill.wrong, took: drill.took + took, said: `right, ${(took / 1000).toFixed(1)} s` };
}

/** Seconds a right key took on average; null before the first. */
export const averageSeconds = ({ right, took }: Drill): number | null => (right === 0 ? null : took / right / 1000);
