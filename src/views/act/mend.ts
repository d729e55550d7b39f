import type { PhraseError } from '../../core/language/index.ts';

/** The text with what is wrong in it replaced by what could stand there. */
export function mended(text: string, { from, to }: PhraseError, by: string): string {
  const before = text.slice(0, from).trimEnd();
  const after = text.slice(to).trimStart();
  return [before, by, after].filter(Boolean).join(' ');
}

/** Whether something that could stand there is words to put in, and no description. */
export const isInsertable = (words: string): boolean => !/^(a|an|the) |…|such as/.test(words);
