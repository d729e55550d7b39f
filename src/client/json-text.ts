import { parseTree, printParseErrorCode, type Node, type ParseError } from 'jsonc-parser';
import { accepted, refused, type Result } from '../core/result.ts';

/** JSON that was read, in which each part can be found again. */
export interface JsonText {
  readonly value: unknown;
  /** Where a part stands, or what is nearest to where it would, as "line 3, column 7"; by its JSON pointer (RFC 6901). */
  placeOf(pointer: string): string;
}

/** Something that is wrong with a part of a body. */
interface Wrong {
  readonly path: string;
  readonly message: string;
}

const STRICT = { disallowComments: true, allowTrailingComma: false, allowEmptyContent: false };
const TOLD = 3;

const inWords = (error: ParseError): string =>
  printParseErrorCode(error.error)
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase();

/** Reads JSON (RFC 8259); where it is none, says in which line and column and what was expected there. */
export function readJson(text: string): Result<JsonText, string> {
  const place = (offset: number): string => {
    const before = text.slice(0, offset).split('\n');
    return `line ${before.length}, column ${(before[before.length - 1] ?? '').length + 1}`;
  };
  const errors: ParseError[] = [];
  const tree = parseTree(text, errors, STRICT);
  const [first] = errors;
  if (first || !tree) return refused(`This is no JSON: ${place(first?.offset ?? 0)}: ${first ? inWords(first) : 'value expected'}.`);
  return accepted({ value: JSON.parse(text) as unknown, placeOf: (pointer) => place(nearest(tree, pointer).offset) });
}

function nearest(tree: Node, pointer: string): Node {
  let node = tree;
  for (const part of pointer.split('/').slice(1)) {
    const name = part.replaceAll('~1', '/').replaceAll('~0', '~');
    const child = node.type === 'array' ? node.children?.[Number(name)] : node.children?.find(({ children }) => children?.[0]?.value === name)?.children?.[1];
    if (!child) return node;
    node = child;
  }
  return node;
}

/** What is wrong with parts of JSON, the first few with their places. */
export function wrongWords(json: JsonText, wrong: readonly Wrong[]): string {
  const told = wrong.slice(0, TOLD).map(({ path, message }) => `${json.placeOf(path)}: ${path === '' ? 'it' : path} ${message}`);
  return `${told.join('; ')}${wrong.length > TOLD ? `; and ${wrong.length - TOLD} more` : ''}.`;
}

/**
 * Reads JSON of a shape, all of it or nothing.
 *
 * @param problems what is wrong with the shape of a body, as the server would say it
 */
export async function readShaped<T>(text: string, problems: (body: unknown) => Promise<readonly Wrong[]>): Promise<Result<T, string>> {
  const json = readJson(text);
  if (!json.ok) return json;
  const wrong = await problems(json.value.value);
  return wrong.length > 0 ? refused(wrongWords(json.value, wrong)) : accepted(json.value.value as T);
}
