import { Ajv, type ValidateFunction } from 'ajv';
import { formats } from './formats.ts';
import { OPERATIONS, type Operation, type OperationName } from './operations.ts';
import { errorsOf, pointer, type ShapeError } from './shape-errors.ts';

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
  return check(body) ? [] : errorsOf(check);
}

/** Reads query parameters into numbers and strings; unknown ones are errors. */
export function readQuery(name: OperationName, parameters: URLSearchParams): { query: Record<string, string | number>; errors: ShapeError[] } {
  const query: Record<string, string | number> = Object.fromEntries(parameters);
  const check = queryCheck(name);
  return { query, errors: check(query) ? [] : errorsOf(check, (error) => `?${pointer(error).slice(1)}`) };
}
