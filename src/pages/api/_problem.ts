import type { Refusal } from '../../core/orders/index.ts';

export const PROBLEM_TYPE = 'application/problem+json';

const TITLES = {
  validation: 'Not accepted',
  unauthenticated: 'Sign in first',
  forbidden: 'Not allowed',
  'not-found': 'Not found',
  conflict: 'Not possible now',
  'risk-blocked': 'A rule blocks it',
  'venue-rejected': 'The venue refused',
  locked: 'Locked',
  'rate-limited': 'Too many tries',
  unavailable: 'Not available now',
} as const;

export type ProblemName = keyof typeof TITLES;

/** An error as RFC 9457 has it. */
export function problem(status: number, name: ProblemName, detail: string, more: Readonly<Record<string, unknown>> = {}, headers: HeadersInit = {}): Response {
  const body = { type: `/problems/${name}`, title: TITLES[name], status, detail, ...more };
  return new Response(JSON.stringify(body), { status, headers: { 'content-type': PROBLEM_TYPE, ...headers } });
}

export const notFound = (): Response => problem(404, 'not-found', 'There is nothing here by that name.');

export const invalid = (errors: readonly { readonly path: string; readonly message: string }[], more: Readonly<Record<string, unknown>> = {}): Response =>
  problem(422, 'validation', errors.map(({ path, message }) => `${path === '' ? 'The body' : path} ${message}`).join('; '), { errors, ...more });

/** A refusal of the desk as its problem. */
export function refusalProblem(refusal: Refusal): Response {
  switch (refusal.kind) {
    case 'validation':
      return invalid(refusal.errors, refusal.suggestion ? { suggestion: refusal.suggestion } : {});
    case 'conflict': {
      const { kind: _kind, detail, ...more } = refusal;
      return problem(409, 'conflict', detail, more);
    }
    case 'not-found':
      return notFound();
    case 'risk-blocked': {
      const { kind: _kind, detail, ...more } = refusal;
      return problem(422, 'risk-blocked', detail, more);
    }
    case 'locked': {
      const { kind: _kind, detail, ...more } = refusal;
      return problem(423, 'locked', detail, more);
    }
    case 'venue-rejected':
      return problem(422, 'venue-rejected', refusal.detail);
    case 'unavailable':
      return problem(503, 'unavailable', refusal.detail);
    default:
      return refusal satisfies never;
  }
}
