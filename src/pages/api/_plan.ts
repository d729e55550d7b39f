import type { RunningPlan } from '../../core/exits/index.ts';
import { presentPlan, type RunningPlanAnswer } from '../../desk/present/index.ts';
import type { Intent } from '../../core/desk/index.ts';
import { json, type Call } from './_endpoint.ts';
import { notFound, refusalProblem } from './_problem.ts';

/** A plan as it is answered: its trailing stops where they stand at the venue just now. */
export async function plansAnswered(call: Call, plans: readonly RunningPlan[]): Promise<RunningPlanAnswer[]> {
  const legs = plans.flatMap(({ steps }) => steps.flatMap(({ stop }) => stop?.orderId ?? []));
  const standings = await call.desk.standing(legs);
  return plans.map((plan) =>
    presentPlan(call.desk.account(plan.account), plan, call.desk.instrument(plan.instrument), (id) => standings.get(id)?.price ?? null),
  );
}

/** Asks something that answers with a plan. */
export async function askPlan(call: Call, account: string, intent: Intent, status: number): Promise<Response> {
  const done = await call.desk.ask(account, intent);
  if (!done.ok) return refusalProblem(done.refusal);
  if (done.value.kind !== 'plan') throw new Error('a plan was asked for');
  const { plan } = done.value;
  return json(status, (await plansAnswered(call, [plan]))[0], status === 201 ? { location: `/api/running-plans/${plan.id}` } : {});
}

/** The plan in the path, where it is one of the user's. */
export function planIn(call: Call): RunningPlan | Response {
  for (const account of call.accounts) {
    const plan = call.desk.account(account).plans.get(call.parameter('id'));
    if (plan) return plan;
  }
  return notFound();
}
