import { LONGEST_PHRASE, tokens, type PhraseError, type Span, type Token } from './tokens.ts';

/** Thrown inside a reader and caught where it begins: the first thing that is wrong. */
export class PhraseFault extends Error {
  readonly error: PhraseError;

  constructor(error: PhraseError) {
    super(error.message);
    this.error = error;
  }
}

/** What is wrong with a part of a phrase, to be thrown. */
export const faultAt = ({ from, to }: Span, message: string, expected: readonly string[] = []): PhraseFault => new PhraseFault({ from, to, message, expected });

const MOST_EXPECTED = 12;

/** The words of what is looked for, by how it is written: a grammar looks for few things, often. */
const PARTS = new Map<string, readonly string[]>();

function partsOf(words: string): readonly string[] {
  let parts = PARTS.get(words);
  if (!parts) PARTS.set(words, (parts = words.split(' ')));
  return parts;
}

/**
 * Walks over the words of a phrase. Whatever is looked for and not found is noted until something is: so where it
 * fails, and where somebody wants to know how a phrase can go on, the same list says what could stand there.
 */
export class PhraseReader {
  readonly length: number;
  at = 0;
  private readonly found: readonly Token[];
  /** The same words in small letters; what stands in quotes is none. */
  private readonly words: readonly string[];
  private readonly wanted: string[] = [];

  private constructor(text: string, found: readonly Token[]) {
    this.length = text.length;
    this.found = found;
    this.words = found.map((token) => (token.kind === 'text' ? '' : token.text.toLowerCase()));
  }

  /** @throws PhraseFault where the text has something that is no word */
  static of(text: string): PhraseReader {
    const found = tokens(text);
    if ('message' in found) throw new PhraseFault(found);
    return new PhraseReader(text, found);
  }

  get next(): Token | null {
    return this.found[this.at] ?? null;
  }

  peek(ahead: number): Token | null {
    return this.found[this.at + ahead] ?? null;
  }

  get isAtEnd(): boolean {
    return this.at >= this.found.length;
  }

  /** What could stand here, the most used first. */
  get expected(): readonly string[] {
    return [...new Set(this.wanted)].slice(0, MOST_EXPECTED);
  }

  take(): Token {
    const token = this.found[this.at];
    if (!token) throw new Error('the phrase has ended');
    this.at++;
    this.wanted.length = 0;
    return token;
  }

  /** Notes what could stand here. */
  want(...what: readonly string[]): void {
    this.wanted.push(...what);
  }

  /** Whether the next words are these, in any case; noted where they are not. */
  is(words: string, ahead = 0): boolean {
    if (this.matches(words, ahead)) return true;
    this.wanted.push(words);
    return false;
  }

  matches(words: string, ahead = 0): boolean {
    const parts = partsOf(words);
    for (let i = 0; i < parts.length; i++) if (this.words[this.at + ahead + i] !== parts[i]) return false;
    return true;
  }

  /** Takes the words where they come next. */
  accept(words: string): Span | null {
    if (!this.is(words)) return null;
    const from = this.next?.from ?? this.length;
    const count = partsOf(words).length;
    for (let i = 0; i < count; i++) this.take();
    return { from, to: this.found[this.at - 1]?.to ?? this.length };
  }

  /** Takes the words, or fails with all that could stand here. */
  expect(words: string, message?: string): Span {
    return this.accept(words) ?? this.fail(message);
  }

  /** The first of these that comes next. */
  oneOf<T extends string>(words: readonly T[]): T | null {
    for (const word of words) if (this.accept(word)) return word;
    return null;
  }

  number(what = 'a number'): Token {
    return this.accepted('number', what) ?? this.fail();
  }

  accepted(kind: Token['kind'], what: string): Token | null {
    if (this.next?.kind === kind) return this.take();
    this.want(what);
    return null;
  }

  /** A name in quotes, or one word. */
  name(what: string): Token {
    const { next } = this;
    if (next && (next.kind === 'text' || (next.kind === 'word' && !next.text.includes('.')))) return this.take();
    this.want(what);
    return this.fail();
  }

  /** Fails at the next word, or at the end where there is none. */
  fail(message?: string): never {
    const { next, expected } = this;
    const span = next ? { from: next.from, to: next.to } : { from: this.length, to: this.length };
    const said = expected.length > 0 ? `; what could stand there: ${expected.join(', ')}` : '';
    const words = message ?? (next ? `“${next.text}” is not understood here${said}` : `the phrase ends too early${said}`);
    throw new PhraseFault({ message: words, ...span, expected });
  }

  /** Fails at something that was read already. */
  failAt({ from, to }: Span, message: string, expected: readonly string[] = []): never {
    throw new PhraseFault({ message, from, to, expected: expected.slice(0, MOST_EXPECTED) });
  }

  end(): void {
    if (!this.isAtEnd) this.fail();
  }
}

/** Where a reading ended: with a tree, or with the first thing that is wrong. */
export type Read<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: PhraseError };

/** Reads a phrase by a grammar's first production. */
export function read<T>(text: string, production: (reader: PhraseReader) => T): Read<T> {
  return caught(() => {
    const reader = PhraseReader.of(text);
    const value = production(reader);
    reader.end();
    return value;
  });
}

/** Printing parts with blanks what was written without: it makes of one character three at most. */
const MOST_PRINTED = 3;

/** What was read of a text, if its canonical text is no longer than a phrase may be: that is what is kept, and read again. */
export function keptWithin<T>(text: string, found: Read<T>, print: (value: T) => string): Read<T> {
  if (!found.ok || text.length * MOST_PRINTED <= LONGEST_PHRASE) return found;
  const { length } = print(found.value);
  if (length <= LONGEST_PHRASE) return found;
  const message = `a phrase is at most ${LONGEST_PHRASE} characters long; written out this has ${length}`;
  return { ok: false, error: { message, from: 0, to: text.length, expected: [] } };
}

/** What a piece of reading gives, or the fault that it ends with. */
export function caught<T>(work: () => T): Read<T> {
  try {
    return { ok: true, value: work() };
  } catch (error) {
    if (error instanceof PhraseFault) return { ok: false, error: error.error };
    throw error;
  }
}

/** A name as it is printed: in quotes unless it is one word. */
export const printName = (name: string): string => (/^[A-Za-z0-9]+(-[A-Za-z0-9]+)*$/.test(name) ? name : `"${name}"`);
