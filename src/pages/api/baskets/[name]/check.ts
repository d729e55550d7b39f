import { checkBasket } from '../../../../desk/baskets/check.ts';
import { percentOf, planNamed, savedBasket } from '../../_baskets.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { refusalProblem } from '../../_problem.ts';

export const ALL = endpoint('/api/baskets/{name}/check', {
  POST: async (call) => {
    const found = await savedBasket(call);
    if (found instanceof Response) return found;
    const percent = percentOf((call.body as { percent?: string } | undefined)?.percent);
    if (percent instanceof Response) return percent;
    const { rows, total } = await checkBasket(call.desk, found.basket, percent, planNamed(call, call.user));
    const told = await Promise.all(
      rows.map(async ({ refusal, ...row }) => ({ ...row, error: refusal === null ? null : ((await refusalProblem(refusal).json()) as object) })),
    );
    return json(200, { ok: told.every(({ ok }) => ok), rows: told, total });
  },
});
