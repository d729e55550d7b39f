import { randomUUID } from 'node:crypto';
import type { ExitPlanText } from '../../core/exits/index.ts';
import { printPrice } from '../../core/language/index.ts';
import { compareRatio, ratio, ratioOf } from '../../core/number/index.ts';
import type { Refusal } from '../../core/orders/index.ts';
import type { Result } from '../../core/result.ts';
import { presentRun } from '../../desk/baskets/present.ts';
import { rowProblems, type PlanNamed } from '../../desk/baskets/read-row.ts';
import type { Basket, BasketRow, Run } from '../../desk/baskets/things.ts';
import { isGivenName } from '../../schemas/formats.ts';
import { json, type Call } from './_endpoint.ts';
import { invalid, notFound, problem, refusalProblem } from './_problem.ts';
import { missing, nameIn } from './_saved.ts';

const KIND = 'basket';

export const planNamed =
  (call: Pick<Call, 'saved'>, user: string): PlanNamed =>
  async (name) =>
    ((await call.saved.get(user, 'exit-plan', name))?.document as ExitPlanText | undefined) ?? null;

const presentBasket = ({ name, rows, version }: Basket): object => ({ name, rows, version });

export async function savedBaskets(call: Call): Promise<object[]> {
  const names = await call.saved.list(call.user, KIND);
  const found = await Promise.all(names.map(({ name }) => call.saved.get(call.user, KIND, name)));
  return found.flatMap((one) => (one ? [presentBasket(one.document as Basket)] : []));
}

export async function savedBasket(call: Call): Promise<{ basket: Basket; revision: string } | Response> {
  const name = nameIn(call);
  const found = isGivenName(name) ? await call.saved.get(call.user, KIND, name) : null;
  return found ? { basket: found.document as Basket, revision: found.revision } : missing(KIND, name);
}

export const basketAnswer = (basket: Basket): Response => json(200, presentBasket(basket));

/** Saves a basket, its phrases in canonical form, unless something else is there than expected. */
export async function keepBasket(
  call: Call,
  name: string,
  rows: readonly BasketRow[],
  version: number,
  expected: { revision: string } | 'nothing',
): Promise<Response> {
  const { problems, phrases } = await rowProblems(rows, call.desk, call.accounts, planNamed(call, call.user));
  if (problems.length > 0) return invalid(problems);
  const canonical = rows.map((row, i): BasketRow => {
    const phrase = phrases.get(i);
    return phrase ? { ...row, limitPhrase: printPrice(phrase) } : row;
  });
  const basket: Basket = { name, rows: canonical, version, key: randomUUID() };
  const done = await call.saved.put(call.user, KIND, name, basket, Date.now(), expected);
  if (done.kind === 'conflict')
    return problem(409, 'conflict', expected === 'nothing' ? `There is a basket named ${name} already.` : 'It was changed since it was read; read it again.');
  return version > 1 ? basketAnswer(basket) : json(201, presentBasket(basket), { location: `/api/baskets/${encodeURIComponent(name)}` });
}

export async function dropBasket(call: Call): Promise<Response> {
  const name = nameIn(call);
  return isGivenName(name) && (await call.saved.drop(call.user, KIND, name)) ? new Response(null, { status: 204 }) : missing(KIND, name);
}

/** Over 0 and at most 100; a Response where it is not. */
export function percentOf(percent: string | undefined): string | Response {
  const value = ratioOf(percent ?? '100');
  return value.n > 0n && compareRatio(value, ratio(100n)) <= 0
    ? (percent ?? '100')
    : invalid([{ path: '/percent', message: 'must be over 0 and at most 100' }]);
}

export const runAnswer = async (call: Call, status: number, run: Run): Promise<Response> =>
  json(status, await presentRun(call.desk, run), status === 201 ? { location: `/api/basket-runs/${run.id}` } : {});

/** An act on a run of the user's: paused, resumed, cancelled. */
export async function runAct(call: Call, act: (run: Run) => Promise<Result<Run, Refusal>>): Promise<Response> {
  const found = call.baskets.find(call.user, call.parameter('id'));
  if (!found) return notFound();
  const done = await act(found);
  if (!done.ok) return refusalProblem(done.refusal);
  await call.desk.quiet();
  return runAnswer(call, 200, call.baskets.find(call.user, found.id) ?? done.value);
}
