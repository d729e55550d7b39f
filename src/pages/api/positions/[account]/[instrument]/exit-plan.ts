import { readExitPlan, type ExitPlanText } from '../../../../../core/exits/index.ts';
import { endpoint } from '../../../_endpoint.ts';
import { noPlan, planAsked, unreadable } from '../../../_order.ts';
import { askPlan } from '../../../_plan.ts';
import { invalid, notFound } from '../../../_problem.ts';

export const ALL = endpoint('/api/positions/{account}/{instrument}/exit-plan', {
  POST: async (call) => {
    const account = call.parameter('account');
    const instrument = call.desk.market.find(call.parameter('instrument'));
    if (!call.accounts.includes(account) || !instrument) return notFound();
    const { plan: asked } = call.body as { plan: string | ExitPlanText };
    const text = await planAsked(call, asked);
    if (text === null) return invalid([{ path: '/plan', message: noPlan(asked) }]);
    const read = 'saved' in text ? readExitPlan(text.saved, true) : readExitPlan(text);
    if (read.ok) return askPlan(call, account, { kind: 'put-plan', instrument: instrument.id, plan: read.value }, 201);
    const errors = read.refusal.map(({ path, message }) => ({ path: `/plan${path}`, message }));
    const said = { what: `exit plan on ${instrument.id}`, asked: call.body, instrument: instrument.id, orderId: null };
    return unreadable(call, account, { ...said, refusal: { kind: 'validation', errors } });
  },
});
