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
  /** A list is the same name several times. */
  readonly query?: Readonly<Record<string, string | number | readonly string[] | undefined>>;
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
export const LOST: Problem = { type: '/problems/lost', title: 'No answer', status: 0, detail: 'No answer: it is not known whether it went.' };

function addressOf(template: string, path: Readonly<Record<string, string>> = {}, query: Asked<OperationName>['query'] = {}): string {
  const found = template.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(path[name] ?? ''));
  return withQuery(found, query);
}

/** A path with its query; what is undefined is left out. */
export function withQuery(path: string, query: NonNullable<Asked<OperationName>['query']>): string {
  const given = Object.entries(query).flatMap(([name, value]) => (value === undefined ? [] : [value].flat().map((one) => [name, String(one)])));
  return given.length === 0 ? path : `${path}?${new URLSearchParams(given)}`;
}

/** A browser takes no more than 64 kB along when its window closes. */
const MOST_KEPT_ALIVE = 60_000;

type Call = Asked<OperationName> & { readonly path?: Readonly<Record<string, string>>; readonly body?: object };

async function fetched(name: string, { path, query, body, deadlineMs = DEADLINE_MS }: Call, more: Readonly<Record<string, string>> = {}) {
  const [method = 'GET', template = ''] = name.split(' ');
  const text = body === undefined ? undefined : JSON.stringify(body);
  try {
    const response = await fetch(addressOf(template, path, query), {
      method,
      headers: {
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...(method === 'GET' ? {} : { 'x-csrf-token': csrf }),
        ...more,
      },
      ...(text === undefined ? {} : { body: text }),
      // What a window saves while it closes still arrives.
      keepalive: method === 'PUT' && (text?.length ?? 0) < MOST_KEPT_ALIVE,
      signal: AbortSignal.timeout(deadlineMs),
    });
    const value: unknown = response.status === 204 ? null : await response.json();
    const answer: Answer<unknown> = response.ok ? { ok: true, status: response.status, value } : { ok: false, problem: value as Problem };
    return { answer, revision: response.headers.get('etag') };
  } catch {
    return { answer: { ok: false, problem: LOST } as const, revision: null };
  }
}

/** Calls an operation of the API; a missing answer is a problem of status 0, never an exception. */
export async function request<N extends OperationName>(
  name: N,
  ...[asked]: Record<never, never> extends Asked<N> ? [asked?: Asked<N>] : [asked: Asked<N>]
): Promise<Answer<AnswerOf<N>>> {
  return (await fetched(name, (asked ?? {}) as Call)).answer as Answer<AnswerOf<N>>;
}

/** The same for what has revisions. `base` is the one a change was made from; null says that nothing is there yet. */
export function requestRevised<N extends OperationName>(name: N, asked: Asked<N> & { readonly base?: string | null }) {
  const { base, ...call } = asked as Asked<N> & { base?: string | null };
  const condition: Record<string, string> = base === undefined ? {} : base === null ? { 'if-none-match': '*' } : { 'if-match': base };
  return fetched(name, call as unknown as Call, condition);
}

/** What is said of a part begins so; what else is said stands by itself. */
const SAYS = /^(is|are|must|has|have|does|goes|takes|would|tie)\b/;
const NAMES: Readonly<Record<string, string>> = { expiresAt: 'its end', until: 'its end' };

/** What a part is called: the last name in its path, in words. */
function subjectOf(path: string): string {
  const name = path.split(/[/?]/).findLast((part) => !/^\d*$/.test(part)) ?? 'it';
  return NAMES[name] ?? name.replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`);
}

/** A problem in one line of words. */
export const problemWords = (problem: Problem): string =>
  problem.errors?.map(({ path, message }) => (SAYS.test(message) ? `${subjectOf(path)} ${message}` : message)).join('; ') ?? problem.detail;
