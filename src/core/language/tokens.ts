/** Where something stands in a phrase: character positions in the text as it was sent, `to` exclusive. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

/**
 * What is wrong with a phrase. Nothing is guessed: a phrase with an error does nothing.
 *
 * `from` and `to` mark the word; where the text ends too early both are its length. `expected` are at most 12
 * things that could stand there, in words, the most used first.
 */
export interface PhraseError extends Span {
  readonly message: string;
  readonly expected: readonly string[];
}

export type TokenKind = 'word' | 'number' | 'text' | 'sign' | 'date' | 'time';

export interface Token extends Span {
  readonly kind: TokenKind;
  /** As it was written; of a text in quotes what stands between them. */
  readonly text: string;
}

export const LONGEST_PHRASE = 500;
const MOST_DIGITS = 18;

const BREAK = /[\n\r\u000b\u000c\u0085\u2028\u2029]/;
const DATE = /^\d{4}-\d\d-\d\d$/;
const NUMBER = /^(0|[1-9]\d*)(\.\d+)?$/;
const WORD = /^[A-Za-z0-9]+(-[A-Za-z0-9]+)*$/;
/** A ticker with its venue: a capital or a digit run with one in front, then the venue in capitals. */
const LISTING = /^[A-Z0-9][A-Za-z0-9-]*\.[A-Z]{2,8}$/;
/** A run of characters that belong together; a dash only between letters and digits. */
const RUN = /[A-Za-z0-9]+(?:[-:][A-Za-z0-9]+)*(?:\.(?:[A-Z]{2,8}\b|\d+(?:[A-Za-z]\w*)?))?/y;
const SIGNS: Readonly<Record<string, string>> = { '*': 'x', '×': 'x', '÷': '/' };
const SIGN = /<=|>=|[<>=(),.%+\-/*×÷]/y;
/** What the traded world writes as one word though it ends in a dash or sign is not known here: the rest is no word at all. */
const ODD = /[^\s<>=(),.%+\-/*×÷"]+/y;

const error = (message: string, { from, to }: Span, expected: readonly string[] = []): PhraseError => ({ message, from, to, expected });

/** The words of a phrase, or the first thing that is none. Linear in the length, whatever it holds. */
export function tokens(text: string): readonly Token[] | PhraseError {
  if (text.length > LONGEST_PHRASE)
    return error(`a phrase is at most ${LONGEST_PHRASE} characters long, this has ${text.length}`, { from: LONGEST_PHRASE, to: text.length });
  const broken = text.search(BREAK);
  if (broken >= 0) return error('one line only: a line break has no place in a phrase', { from: broken, to: broken + 1 });
  const found: Token[] = [];
  for (let at = 0; at < text.length;) {
    const first = text.charAt(at);
    if (first === ' ' || first === '\t') at++;
    else {
      const token = first === '"' ? quoted(text, at) : (written(text, at) ?? sign(text, at) ?? odd(text, at));
      if ('message' in token) return token;
      found.push(token);
      at = token.to;
    }
  }
  return found;
}

function quoted(text: string, from: number): Token | PhraseError {
  const end = text.indexOf('"', from + 1);
  if (end < 0) return error('the quotes are not closed', { from, to: text.length }, ['"']);
  const span = { from, to: end + 1 };
  const name = text.slice(from + 1, end);
  if (name.trim() !== name || name === '') return error('a name in quotes has 1 to 64 characters and no blank at either end', span, ['a name']);

  if (name.length > 64 || /[\u0000-\u001f\u007f]/.test(name)) return error('a name in quotes has 1 to 64 printing characters', span, ['a name']);
  return { kind: 'text', text: name, ...span };
}

function written(text: string, from: number): Token | PhraseError | null {
  RUN.lastIndex = from;
  const run = RUN.exec(text)?.[0];
  if (run === undefined) return null;
  const to = from + run.length;
  const isWord = WORD.test(run) || LISTING.test(run);
  if (isWord && run.charAt(0) > '9') return { kind: 'word', text: run, from, to };
  if (DATE.test(run)) return { kind: 'date', text: run, from, to };
  if (/^\d\d?:\d\d$/.test(run)) return { kind: 'time', text: run, from, to };
  if (/^[\d.]+$/.test(run)) {
    if (!NUMBER.test(run)) return error(`${run} is no number`, { from, to }, ['a number']);
    if (run.replace('.', '').length > MOST_DIGITS) return error(`a number has at most ${MOST_DIGITS} digits`, { from, to }, ['a number']);
    return { kind: 'number', text: run, from, to };
  }
  if (isWord) return { kind: 'word', text: run, from, to };
  return error(`${run} is neither a word nor a number`, { from, to }, /^\d/.test(run) ? ['a number'] : []);
}

function sign(text: string, from: number): Token | null {
  SIGN.lastIndex = from;
  const found = SIGN.exec(text)?.[0];
  return found === undefined ? null : { kind: 'sign', text: SIGNS[found] ?? found, from, to: from + found.length };
}

function odd(text: string, from: number): PhraseError {
  ODD.lastIndex = from;
  const found = ODD.exec(text)?.[0] ?? text.charAt(from);
  return error(`${JSON.stringify(found)} has no place in a phrase`, { from, to: from + found.length });
}

/** A token that can only be an instrument: a capital first, or a digit run with one, with or without its venue. */
export const looksLikeInstrument = ({ kind, text }: Token): boolean => kind === 'word' && /^(?:[A-Z]|\d+[A-Z0-9-]*[A-Z])/.test(text);
