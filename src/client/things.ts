import { atom } from 'nanostores';
import { SavedThings, type SavedSettings } from './saved.ts';
import { say } from './undo.ts';

const SAVE_AFTER_MS = 400;
const AGAIN_MS = 3000;

/** A thing that was changed here and elsewhere: the trader chooses which one stays. */
export interface Question {
  readonly what: string;
  readonly name: string;
  readonly settle: (which: 'mine' | 'theirs') => void;
}

const kinds = new Map<string, SavedThings<unknown>>();
/** What is to be chosen, of all kinds. */
export const $questions = atom<readonly Question[]>([]);

let channel: BroadcastChannel | null = null;

/** Begins to hear what other windows save, and saves what is left when this one goes. Call once. */
export function shareThings(): void {
  channel = new BroadcastChannel('kavix-saved');
  channel.onmessage = ({ data }: MessageEvent<{ kind: string; name: string }>) => void kinds.get(data.kind)?.heard(data.name);
  window.addEventListener('pagehide', () => void saveAll());
}

/** Saves everything that has changed now. */
export async function saveAll(): Promise<void> {
  await Promise.all([...kinds.values()].map((things) => things.flushAll()));
}

/** This window's things of a kind. */
export function thingsOf<T>(kind: string, what: string, settings: Pick<SavedSettings<T>, 'remote' | 'first' | 'merge' | 'showsProblems'>): SavedThings<T> {
  const things = new SavedThings<T>({
    ...settings,
    saveAfterMs: SAVE_AFTER_MS,
    againMs: AGAIN_MS,
    say: (words) => say(`${what} ${words}`),
    tell: (name) => channel?.postMessage({ kind, name }),
  });
  kinds.set(kind, things as SavedThings<unknown>);
  things.$all.listen((all) => {
    const others = $questions.get().filter((one) => one.what !== what);
    const mine = Object.entries(all).flatMap(([name, thing]) =>
      thing?.kind === 'known' && thing.theirs !== null ? [{ what, name, settle: (which: 'mine' | 'theirs') => things.settle(name, which) }] : [],
    );
    if (mine.length > 0 || others.length !== $questions.get().length) $questions.set([...others, ...mine]);
  });
  return things;
}

type Fields = Readonly<Record<string, unknown>>;
const isFields = (value: unknown): value is Fields => typeof value === 'object' && value !== null && !Array.isArray(value);
const sameText = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
const CLASH = Symbol('both changed it');

function merged(base: unknown, mine: unknown, theirs: unknown): unknown {
  if (sameText(mine, base) || sameText(mine, theirs)) return theirs;
  if (sameText(theirs, base)) return mine;
  if (!isFields(mine) || !isFields(theirs)) return CLASH;
  const before = isFields(base) ? base : {};
  const all = [...new Set([...Object.keys(theirs), ...Object.keys(mine)])].map((key): [string, unknown] => [key, merged(before[key], mine[key], theirs[key])]);
  return all.some(([, value]) => value === CLASH) ? CLASH : Object.fromEntries(all.filter(([, value]) => value !== undefined));
}

/** Makes one of two changes to a thing of fields, field by field; null where both changed the same one in different ways. */
export function mergeFields<T>(base: T | null, mine: T, theirs: T): T | null {
  const value = merged(base, mine, theirs);
  return value === CLASH ? null : (value as T);
}

/**
 * Makes one of two changes to a list whose items have names: what either added, changed or took away. Null where both
 * changed the same item in different ways.
 */
export function mergeByName<I>(nameOf: (item: I) => string, base: readonly I[], mine: readonly I[], theirs: readonly I[]): readonly I[] | null {
  const text = (items: readonly I[]): Map<string, string> => new Map(items.map((item) => [nameOf(item), JSON.stringify(item)]));
  const [was, here, there] = [text(base), text(mine), text(theirs)];
  for (const [name, value] of here) {
    const other = there.get(name);
    const before = was.get(name);
    const changedHere = value !== before;
    const changedThere = other !== before;
    if (changedHere && changedThere && value !== other && (other !== undefined || before !== undefined)) return null;
  }
  for (const [name, value] of there) if (!here.has(name) && was.has(name) && was.get(name) !== value) return null;
  const kept = theirs.filter((item) => here.has(nameOf(item)) || !was.has(nameOf(item)));
  const changed = new Map(mine.filter((item) => here.get(nameOf(item)) !== was.get(nameOf(item))).map((item) => [nameOf(item), item]));
  const added = mine.filter((item) => !there.has(nameOf(item)) && !was.has(nameOf(item)));
  return [...kept.map((item) => changed.get(nameOf(item)) ?? item), ...added];
}
