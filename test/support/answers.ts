import { Ajv, type ValidateFunction } from 'ajv';
import { OPERATIONS, type Operation } from '../../src/schemas/operations.ts';

const formats = { dec: /^-?(0|[1-9]\d*)(\.\d+)?$/, 'iso-time': /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z$/, 'given-name': /^\S(.*\S)?$/s };
const ajv = new Ajv({ allErrors: true, strict: false, formats });
const compiled = new Map<string, ValidateFunction | null>();

const PATHS = Object.keys(OPERATIONS).map((name) => {
  const [method = '', path = ''] = name.split(' ');
  const parts = path.split('/').map((part) => (part.startsWith('{') ? '[^/]+' : part.replace('.', '\\.')));
  return { name, method, pattern: new RegExp(`^${parts.join('/')}$`), fixed: !path.includes('{') };
});

/** The operation that a call is. A path without a parameter comes before one that would take its last part for one. */
function operationOf(method: string, path: string): string | null {
  const clean = path.split('?')[0] ?? '';
  const found = PATHS.filter((one) => one.method === method && one.pattern.test(clean));
  return (found.find(({ fixed }) => fixed) ?? found[0])?.name ?? null;
}

/** Why a successful answer is not what its schema says, in words; null where it is, or is no JSON. */
export function answerProblem(method: string, path: string, status: number, body: unknown): string | null {
  const name = operationOf(method, path);
  if (name === null || status >= 300 || typeof body === 'string' || /[?&]format=/.test(path)) return null;
  const key = `${name} ${status}`;
  let check = compiled.get(key);
  if (check === undefined) {
    const { answers } = OPERATIONS[name as keyof typeof OPERATIONS] as Operation;
    if (!(status in answers)) return `${key} is no answer that is described`;
    const schema = answers[status] ?? null;
    check = schema && ajv.compile({ ...schema, $id: undefined });
    compiled.set(key, check);
  }
  if (!check || check(body)) return null;
  return `${key}: ${(check.errors ?? []).map(({ instancePath, message }) => `${instancePath} ${message ?? ''}`).join('; ')}`;
}
