import { LOST, request, requestRevised, type Answer, type AnswerOf } from '../live/index.ts';
import type { Remote, Revised } from './saved.ts';

export type NamedKind = 'workspaces' | 'watchlists' | 'study-sets' | 'rule-templates';

async function revised<T>(asked: ReturnType<typeof requestRevised>): Promise<Answer<Revised<T>>> {
  const { answer, revision } = await asked;
  if (!answer.ok) return answer;
  return revision === null ? { ok: false, problem: LOST } : { ok: true, status: answer.status, value: { value: answer.value as T, revision } };
}

/** Things that a user saves under names of their own. */
export const namedThings = <T>(kind: NamedKind): Remote<T> => ({
  // What is not listed is not asked for: it would be an error in the browser's own eyes.
  read: async (name) => {
    const listed = await request(`GET /api/${kind}`);
    if (!listed.ok) return listed;
    if (!listed.value.items.some((one) => one.name === name)) return { ok: true, status: 200, value: null };
    const found = await revised<T>(requestRevised(`GET /api/${kind}/{name}`, { path: { name } }));
    return !found.ok && found.problem.status === 404 ? { ok: true, status: 404, value: null } : found;
  },
  write: (name, value, base) => revised<T>(requestRevised(`PUT /api/${kind}/{name}`, { path: { name }, body: value as object, base })),
  drop: (name) => request(`DELETE /api/${kind}/{name}`, { path: { name } }),
});

/** How Kavix is set up: one document to a user. */
export const settings: Remote<Partial<AnswerOf<'GET /api/settings'>>> = {
  read: () => revised(requestRevised('GET /api/settings', {})),
  write: (_name, value, base) => revised(requestRevised('PUT /api/settings', { body: value, base })),
};

/** What is drawn, by instrument: nothing yet is an empty list. */
export const drawings: Remote<AnswerOf<'GET /api/drawings/{id}'>> = {
  read: (id) => revised(requestRevised('GET /api/drawings/{id}', { path: { id } })),
  write: (id, value, base) => revised(requestRevised('PUT /api/drawings/{id}', { path: { id }, body: value, base })),
};
