import type { Pace } from '../../../../core/basket/index.ts';
import { percentOf, runAnswer, savedBasket } from '../../_baskets.ts';
import { endpoint } from '../../_endpoint.ts';
import { refusalProblem } from '../../_problem.ts';

export const ALL = endpoint('/api/baskets/{name}/send', {
  POST: async (call) => {
    const found = await savedBasket(call);
    if (found instanceof Response) return found;
    const { pace, clientRunId, ...body } = call.body as { percent?: string; pace: Pace; clientRunId: string };
    const percent = percentOf(body.percent);
    if (percent instanceof Response) return percent;
    const done = await call.baskets.send(call.user, found.basket, percent, pace, clientRunId);
    if (!done.ok) return refusalProblem(done.refusal);
    await call.desk.quiet();
    const { run, made } = done.value;
    return runAnswer(call, made ? 201 : 200, call.baskets.find(call.user, run.id) ?? run);
  },
});
