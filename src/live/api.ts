import type { FieldProblem, Suggestion } from '../core/orders/index.ts';
import type { OPERATIONS, OperationName } from '../schemas/operations.ts';
import type { ShapeOf } from '../schemas/values.ts';

/** An answer that is no success, as the API's problems tell it. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  readonly needs?: string;
  readonly errors?: readonly FieldProblem[];
  readonly suggestion?: Suggestion;
}

export type Answer<T> = { readonly ok: true; readonly status: number; readonly value: T } | { readonly ok: false; readonly problem: Problem };

type Operations = typeof OPERATIONS;
type Answers<N extends OperationName> = Operations[N]['answers'][keyof Operations[N]['answers']];
/** What an operation answers, by the schema it is described with. */
export type AnswerOf<N extends OperationName> = Answers<N> extends null ? null : ShapeOf<Answers<N>>;
type Names<P extends string> = P extends `${string}{${infer Name}}${infer Rest}` ? Name | Names<Rest> : never;

export type Asked<N extends OperationName> = {
  readonly query?: Readonly<Record<string, string | number | undefined>>;
  readonly deadlineMs?: number;
} & ([Names<N>] extends [never] ? { readonly path?: undefined } : { readonly path: Readonly<Record<Names<N>, string>> }) &
  (Operations[N] extends { readonly body: unknown } ? { readonly body: object } : { readonly body?: undefined });

let csrf = '';
export const setCsrf = (token: string): void => {
  csrf = token;
};

/** What is unanswered for so long counts as lost: it is then not known whether it went. */
export const DEADLINE_MS = 10_000;

/** No answer came: it is not known whether the request went. */
const LOST: Problem = { type: '/problems/lost', title: 'No answer', status: 0, detail: 'No answer: it is not known whether it went.' };

function addressOf(template: string, path: Readonly<Record<string, string>> = {}, query: Asked<OperationName>['query'] = {}): string {
  const found = template.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(path[name] ?? ''));
  const given = Object.entries(query).flatMap(([name, value]) => (value === undefined ? [] : [[name, String(value)]]));
  return given.length === 0 ? found : `${found}?${new URLSearchParams(given)}`;
}

/** Calls an operation of the API; a missing answer is a problem of status 0, never an exception. */
export async function request<N extends OperationName>(
  name: N,
  ...[asked]: Record<never, never> extends Asked<N> ? [asked?: Asked<N>] : [asked: Asked<N>]
): Promise<Answer<AnswerOf<N>>> {
  const [method = 'GET', template = ''] = name.split(' ');
  const { path, query, body, deadlineMs = DEADLINE_MS } = (asked ?? {}) as Asked<OperationName> & { path?: Record<string, string>; body?: object };
  try {
    const response = await fetch(addressOf(template, path, query), {
      method,
      headers: { ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...(method === 'GET' ? {} : { 'x-csrf-token': csrf }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      signal: AbortSignal.timeout(deadlineMs),
    });
    const value: unknown = response.status === 204 ? null : await response.json();
    return response.ok ? { ok: true, status: response.status, value: value as AnswerOf<N> } : { ok: false, problem: value as Problem };
  } catch {
    return { ok: false, problem: LOST };
  }
}

/** A problem in one line of words. */
export const problemWords = (problem: Problem): string => problem.errors?.map((error) => error.message).join('; ') ?? problem.detail;
