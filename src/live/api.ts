import type { FieldProblem, Suggestion } from '../core/orders/index.ts';

/** An answer that is no success, as the API's problems tell it. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  readonly errors?: readonly FieldProblem[];
  readonly suggestion?: Suggestion;
}

export type Answer<T> = { readonly ok: true; readonly status: number; readonly value: T } | { readonly ok: false; readonly problem: Problem };

let csrf = '';
export const setCsrf = (token: string): void => {
  csrf = token;
};

/** No answer came: it is not known whether the request went. */
const LOST: Problem = { type: '/problems/lost', title: 'No answer', status: 0, detail: 'No answer: it is not known whether it went.' };

/** Calls the API; a missing answer is a problem of status 0, never an exception. */
export async function call<T>(method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE', path: string, body?: unknown): Promise<Answer<T>> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers: { ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...(method === 'GET' ? {} : { 'x-csrf-token': csrf }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  } catch {
    return { ok: false, problem: LOST };
  }
  if (response.status === 204) return { ok: true, status: 204, value: null as T };
  try {
    const value = (await response.json()) as unknown;
    return response.ok ? { ok: true, status: response.status, value: value as T } : { ok: false, problem: value as Problem };
  } catch {
    return { ok: false, problem: LOST };
  }
}
