import type { ErrorObject } from 'ajv';
import { FORMAT_WORDS } from './formats.ts';

export interface ShapeError {
  readonly path: string;
  readonly message: string;
}

/** What a check found, in words, the first of each path. */
export function errorsOf(check: { readonly errors?: readonly ErrorObject[] | null }, path = pointer): ShapeError[] {
  const found = new Map<string, string>();
  for (const error of check.errors ?? []) {
    if (error.keyword === 'required' && error.schemaPath.includes('anyOf')) continue;
    const at = path(error);
    if (!found.has(at)) found.set(at, wordsFor(error));
  }
  return [...found].map(([at, message]) => ({ path: at, message }));
}

/** Where it is wrong: the field that is missing or unknown, or the one whose value does not fit. */
export function pointer(error: ErrorObject): string {
  const params = error.params as { missingProperty?: string; additionalProperty?: string };
  const inner = params.missingProperty ?? params.additionalProperty;
  return inner === undefined ? error.instancePath : `${error.instancePath}/${inner.replace(/~/g, '~0').replace(/\//g, '~1')}`;
}

const TYPE_WORDS: Readonly<Record<string, string>> = {
  string: 'a text',
  integer: 'a whole number',
  number: 'a number',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object',
  null: 'null',
};

const typesInWords = (types: string | readonly string[]): string =>
  [types]
    .flat()
    .map((type) => TYPE_WORDS[type] ?? type)
    .join(' or ');

function wordsFor(error: ErrorObject): string {
  const params = error.params as { allowedValues?: unknown[]; format?: string; type?: string | string[]; limit?: number };
  switch (error.keyword) {
    case 'required':
      return 'is needed';
    case 'additionalProperties':
      return 'is not known here';
    case 'enum':
      return `must be one of ${(params.allowedValues ?? []).join(', ')}`;
    case 'format':
      return FORMAT_WORDS[params.format ?? ''] ?? 'has the wrong form';
    case 'pattern':
      return (error.parentSchema as { description?: string } | undefined)?.description
        ? `must be ${(error.parentSchema as { description: string }).description}`
        : (error.message ?? 'has the wrong form');
    case 'type': {
      const text = FORMAT_WORDS[(error.parentSchema as { format?: string } | undefined)?.format ?? ''];
      return params.type === 'string' && text ? text : `must be ${typesInWords(params.type ?? [])}`;
    }
    case 'minimum':
      return `must be at least ${params.limit}`;
    case 'maximum':
      return `must be at most ${params.limit}`;
    case 'minLength':
      return 'must not be empty';
    case 'maxLength':
      return `must have at most ${params.limit} characters`;
    case 'minItems':
      return `must have at least ${params.limit}`;
    case 'maxItems':
      return `must have at most ${params.limit}`;
    case 'uniqueItems':
      return 'must name nothing twice';
    case 'const':
      return `must be ${JSON.stringify((error.params as { allowedValue: unknown }).allowedValue)}`;
    case 'oneOf':
      return 'has none of the forms that are accepted here';
    case 'anyOf':
      return 'must change at least one thing';
    case 'not':
      return 'takes quantity or percent, not both';
    default:
      return error.message ?? 'is not accepted';
  }
}
