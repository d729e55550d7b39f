import { bindingProblem, canonicalBinding, type Binding } from '../../core/language/index.ts';
import { endpoint, json, type Call } from './_endpoint.ts';
import { invalid, problem } from './_problem.ts';

const KIND = 'bindings';
const NAME = 'own';

interface Kept {
  readonly items: readonly Binding[];
  readonly version: number;
}

async function kept(call: Call): Promise<Kept & { readonly revision: string | null }> {
  const found = await call.saved.get(call.user, KIND, NAME);
  return found ? { ...(found.document as Kept), revision: found.revision } : { items: [], version: 1, revision: null };
}

export const ALL = endpoint('/api/bindings', {
  GET: async (call) => {
    const { items, version } = await kept(call);
    return json(200, { items, version });
  },
  PUT: async (call) => {
    const body = call.body as { items: readonly Partial<Binding>[]; version: number };
    const items = body.items.map(({ key = '', phrase = null, command = null, sets = [] }) => ({ key, phrase, command, sets }));
    const problems = items.flatMap((binding, i) => {
      const wrong = bindingProblem(binding);
      return wrong ? [{ path: `/items/${i}/${wrong.field}`, message: wrong.message, ...wrong.at }] : [];
    });
    const known = items.map(canonicalBinding);
    known.forEach(({ key, sets }, i) => {
      const other = known.findIndex(
        (one, k) => k < i && one.key === key && (one.sets.length === 0 || sets.length === 0 || one.sets.some((set) => sets.includes(set))),
      );
      if (other >= 0) problems.push({ path: `/items/${i}/key`, message: `${key} is bound already, at /items/${other}` });
    });
    if (problems.length > 0) return invalid(problems);
    const before = await kept(call);
    if (body.version !== before.version)
      return problem(409, 'conflict', `The bindings are at version ${before.version}; read them again.`, { version: before.version });
    const next: Kept = { items: known, version: before.version + 1 };
    const expected = before.revision === null ? 'nothing' : { revision: before.revision };
    const done = await call.saved.put(call.user, KIND, NAME, next, Date.now(), expected);
    return done.kind === 'conflict' ? problem(409, 'conflict', 'They were changed since they were read; read them again.') : json(200, next);
  },
});
