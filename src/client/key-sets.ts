import { keyName } from '../core/language/index.ts';
import { accepted, refused, type Result } from '../core/result.ts';
import type { BoundKey } from './bindings.ts';
import { readJson } from './json-text.ts';

/** The form of key sets that this Kavix writes and reads. */
const FORMAT = 1;
/** More keys than that are on no keyboard. */
const MOST_KEYS = 500;

/** A set of keys as it stands in a file. */
export const keySetOf = (items: readonly BoundKey[]): object => ({ format: FORMAT, items });

const isText = (value: unknown): value is string => typeof value === 'string';
const isTextOrNothing = (value: unknown): value is string | null | undefined => value === null || value === undefined || isText(value);

/**
 * Reads a set of keys, all of it or nothing. What its keys and phrases say is looked at where they are shown.
 *
 * @returns why it is none, in words that name what is wrong and what would be taken
 */
export function readKeySet(text: string): Result<readonly BoundKey[], string> {
  const json = readJson(text);
  if (!json.ok) return refused(`${json.refusal} A set of keys was expected.`);
  const { format = FORMAT, items } = (json.value.value ?? {}) as { format?: unknown; items?: unknown };
  const at = (i: number): string => json.value.placeOf(`/items/${i}`);
  if (!Array.isArray(items)) return refused('This is no set of keys: an object with a list of items was expected.');
  if (typeof format === 'number' && format > FORMAT)
    return refused(`This set has format ${format}; this Kavix reads format ${FORMAT}. A newer Kavix wrote it.`);
  if (format !== FORMAT) return refused(`This is no set of keys: its format is ${JSON.stringify(format)}, and ${FORMAT} was expected.`);
  if (items.length > MOST_KEYS) return refused(`A set has at most ${MOST_KEYS} keys; this has ${items.length}.`);
  const keys: BoundKey[] = [];
  for (const [i, item] of (items as unknown[]).entries()) {
    const { key, phrase, command, sets = [] } = (item ?? {}) as Record<string, unknown>;
    if (!isText(key)) return refused(`${at(i)}: key ${i + 1} of the set has no name: a text such as Space B was expected.`);
    if (!isTextOrNothing(phrase) || !isTextOrNothing(command) || !(isText(phrase) || isText(command)))
      return refused(`${at(i)}: key ${i + 1} of the set, ${key}, does nothing: a phrase or a command was expected.`);
    if (!Array.isArray(sets) || !sets.every(isText))
      return refused(`${at(i)}: key ${i + 1} of the set, ${key}, names no workspaces: a list of their names was expected.`);
    keys.push({ key, phrase: phrase ?? null, command: command ?? null, sets });
  }
  return accepted(keys);
}

const told = ({ phrase, command, sets }: BoundKey): string => JSON.stringify([phrase, command, sets]);
const byName = (items: readonly BoundKey[]): Map<string, string> => new Map(items.map((one) => [keyName(one.key) ?? one.key, told(one)]));

/** What a set would change of what is bound, in words. */
export function keyChanges(before: readonly BoundKey[], after: readonly BoundKey[]): string {
  const [was, is] = [byName(before), byName(after)];
  const added = [...is.keys()].filter((key) => !was.has(key));
  const changed = [...is].filter(([key, what]) => was.has(key) && was.get(key) !== what).map(([key]) => key);
  const dropped = [...was.keys()].filter((key) => !is.has(key));
  const parts = [
    ['new', added],
    ['changed', changed],
    ['gone', dropped],
  ] as const;
  const said = parts.flatMap(([word, keys]) => (keys.length > 0 ? [`${keys.length} ${word} (${keys.join(', ')})`] : []));
  return `${is.size} keys: ${said.length > 0 ? said.join('; ') : 'the same as now'}. Nothing counts until it is saved.`;
}
