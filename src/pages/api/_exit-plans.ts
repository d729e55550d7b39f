import { exitPlanText, readExitPlan, type ExitPlanText } from '../../core/exits/index.ts';
import type { exits, ShapeOf } from '../../schemas/shapes.ts';
import { isGivenName } from '../../schemas/formats.ts';
import { json, type Call } from './_endpoint.ts';
import { invalid, problem } from './_problem.ts';
import { missing, nameIn } from './_saved.ts';

type SavedPlan = ShapeOf<typeof exits.exitPlan>;

const KIND = 'exit-plan';

export const notCurrent = (version: number): Response => problem(409, 'conflict', `The plan is at version ${version}; read it again.`, { version });

/** All saved plans of the user, by name. */
export async function savedPlans(call: Call): Promise<SavedPlan[]> {
  const names = await call.saved.list(call.user, KIND);
  const found = await Promise.all(names.map(({ name }) => call.saved.get(call.user, KIND, name)));
  return found.flatMap((one) => (one ? [one.document as SavedPlan] : []));
}

/** A saved plan with what stands for it in the store. */
export async function savedPlan(call: Call): Promise<{ plan: SavedPlan; revision: string } | Response> {
  const name = nameIn(call);
  const found = isGivenName(name) ? await call.saved.get(call.user, KIND, name) : null;
  return found ? { plan: found.document as SavedPlan, revision: found.revision } : missing(KIND, name);
}

/** Saves a plan under a name, unless something else is there than expected. */
export async function keepPlan(call: Call, name: string, text: ExitPlanText, version: number, expected: { revision: string } | 'nothing'): Promise<Response> {
  const read = readExitPlan({ ...text, name });
  if (!read.ok) return invalid(read.refusal);
  const plan = { ...exitPlanText(read.value), version };
  const done = await call.saved.put(call.user, KIND, name, plan, Date.now(), expected);
  if (done.kind === 'conflict')
    return problem(
      409,
      'conflict',
      expected === 'nothing' ? `There is an exit plan named ${name} already.` : 'It was changed since it was read; read it again.',
    );
  return version > 1 ? json(200, plan) : json(201, plan, { location: `/api/exit-plans/${encodeURIComponent(name)}` });
}

export async function dropPlan(call: Call): Promise<Response> {
  const name = nameIn(call);
  return isGivenName(name) && (await call.saved.drop(call.user, KIND, name)) ? new Response(null, { status: 204 }) : missing(KIND, name);
}
