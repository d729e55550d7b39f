import { LOST, request, requestRevised, type Answer, type AnswerOf } from '../live/index.ts';
import type { Remote, Revised } from './saved.ts';

type Kind = 'workspaces' | 'watchlists' | 'study-sets';

async function revised<T>(asked: ReturnType<typeof requestRevised>): Promise<Answer<Revised<T>>> {
  const { answer, revision } = await asked;
  if (!answer.ok) return answer;
  return revision === null ? { ok: false, problem: LOST } : { ok: true, status: answer.status, value: { value: answer.value as T, revision } };
}

const missing = <T>(answer: Answer<Revised<T>>): Answer<Revised<T> | null> =>
  !answer.ok && answer.problem.status === 404 ? { ok: true, status: 404, value: null } : answer;

/** Things that a user saves under names of their own. */
export const namedThings = <T>(kind: Kind): Remote<T> => ({
  read: async (name) => missing(await revised<T>(requestRevised(`GET /api/${kind}/{name}`, { path: { name } }))),
  write: (name, value, base) => revised<T>(requestRevised(`PUT /api/${kind}/{name}`, { path: { name }, body: value as object, base })),
  drop: (name) => request(`DELETE /api/${kind}/{name}`, { path: { name } }),
});

/** What is drawn, by instrument: nothing yet is an empty list. */
export const drawings: Remote<AnswerOf<'GET /api/drawings/{id}'>> = {
  read: (id) => revised(requestRevised('GET /api/drawings/{id}', { path: { id } })),
  write: (id, value, base) => revised(requestRevised('PUT /api/drawings/{id}', { path: { id }, body: value, base })),
};
