import { Ajv, type ErrorObject, type ValidateFunction } from 'ajv';
import { OPERATIONS, type Operation, type OperationName } from './operations.ts';

export interface ShapeError {
  readonly path: string;
  readonly message: string;
}

const DECIMAL = /^-?(0|[1-9]\d*)(\.\d+)?$/;
const TIME = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d{1,3})?Z$/;

const formats = {
  dec: (text: string): boolean => DECIMAL.test(text) && text.replace(/[-.]/g, '').length <= 18,
  'iso-time': (text: string): boolean => TIME.test(text) && !Number.isNaN(Date.parse(text)),
  // Printing characters, no blank at either end.
  'given-name': (text: string): boolean => text.trim() === text && !/[\p{C}\p{Zl}\p{Zp}]/u.test(text),
};

/** Whether a text may be the name of what a trader saves: 1 to 64 printing characters, no blank at either end. */
export const isGivenName = (text: string): boolean => text.length >= 1 && text.length <= 64 && formats['given-name'](text);

const WORDS: Readonly<Record<string, string>> = {
  dec: 'must be a decimal string such as "41.20", at most 18 digits',
  'iso-time': 'must be a time such as "2026-03-02T09:00:00.000Z"',
  'given-name': 'must be 1 to 64 printing characters without a blank at either end',
};

/**
 * Checks are made when a path is loaded: what optimising their code costs then is more than it ever saves, and that the
 * schemas themselves are sound is tested once instead.
 */
const SETTINGS = { allErrors: true, verbose: true, strict: false, validateSchema: false, formats, code: { optimize: false } } as const;
const bodies = new Ajv(SETTINGS);
const queries = new Ajv({ ...SETTINGS, coerceTypes: true });
const bodyChecks = new Map<OperationName, ValidateFunction>();
const queryChecks = new Map<OperationName, ValidateFunction>();

/** Shapes that hold themselves are nested no deeper than this: far beyond any that makes sense, well within the stack. */
const DEEPEST = 64;

/** Whether a value is nested deeper than so many levels. Looked at level by level, so that no depth is too much for it. */
function deeperThan(value: unknown, most: number): boolean {
  let level: unknown[] = [value];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > most) return true;
    level = level.flatMap((one) => (one !== null && typeof one === 'object' ? (Object.values(one) as unknown[]) : []));
  }
  return false;
}

function bodyCheck(name: OperationName): ValidateFunction {
  let check = bodyChecks.get(name);
  if (!check) {
    const operation: Operation = OPERATIONS[name];
    bodyChecks.set(name, (check = bodies.compile(operation.body ?? operation.optionalBody ?? {})));
  }
  return check;
}

function queryCheck(name: OperationName): ValidateFunction {
  let check = queryChecks.get(name);
  if (!check) {
    const { query = {}, requiredQuery = [] }: Operation = OPERATIONS[name];
    check = queries.compile({ type: 'object', properties: query, required: requiredQuery, additionalProperties: false });
    queryChecks.set(name, check);
  }
  return check;
}

/** Compiles the checks of an operation, so that its first request need not wait for it. The machine compiles what Ajv made when it first runs. */
export function compileChecks(name: OperationName): void {
  bodyCheck(name)({});
  queryCheck(name)({});
}

/** What is wrong with a body's shape; empty where nothing is. */
export function bodyErrors(name: OperationName, body: unknown): ShapeError[] {
  if (deeperThan(body, DEEPEST)) return [{ path: '', message: `is nested deeper than ${DEEPEST} levels` }];
  const check = bodyCheck(name);
  return check(body) ? [] : errorsOf(check, (error) => pointer(error));
}

/** Reads query parameters into numbers and strings; unknown ones are errors. */
export function readQuery(name: OperationName, parameters: URLSearchParams): { query: Record<string, string | number>; errors: ShapeError[] } {
  const query: Record<string, string | number> = Object.fromEntries(parameters);
  const check = queryCheck(name);
  return { query, errors: check(query) ? [] : errorsOf(check, (error) => `?${pointer(error).slice(1)}`) };
}

function errorsOf(check: ValidateFunction, path: (error: ErrorObject) => string): ShapeError[] {
  const found = new Map<string, string>();
  for (const error of check.errors ?? []) {
    if (error.keyword === 'required' && error.schemaPath.includes('anyOf')) continue;
    const at = path(error);
    if (!found.has(at)) found.set(at, wordsFor(error));
  }
  return [...found].map(([at, message]) => ({ path: at, message }));
}

function pointer(error: ErrorObject): string {
  const params = error.params as { missingProperty?: string; additionalProperty?: string };
  const inner = params.missingProperty ?? params.additionalProperty;
  return inner === undefined ? error.instancePath : `${error.instancePath}/${inner.replace(/~/g, '~0').replace(/\//g, '~1')}`;
}

function wordsFor(error: ErrorObject): string {
  const params = error.params as { allowedValues?: unknown[]; format?: string };
  switch (error.keyword) {
    case 'required':
      return 'is needed';
    case 'additionalProperties':
      return 'is not known here';
    case 'enum':
      return `must be one of ${(params.allowedValues ?? []).join(', ')}`;
    case 'format':
      return WORDS[params.format ?? ''] ?? 'has the wrong form';
    case 'pattern':
      return (error.parentSchema as { description?: string } | undefined)?.description
        ? `must be ${(error.parentSchema as { description: string }).description}`
        : (error.message ?? 'has the wrong form');
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
