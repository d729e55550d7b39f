import { presentDepth } from '../../../desk/present/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

export const ALL = endpoint('/api/depth/{id}', {
  GET: async (call) => {
    const instrument = call.desk.market.find(call.parameter('id'));
    if (!instrument) return notFound();
    const levels = Number(call.query['levels'] ?? 10);
    await call.desk.market.ensure([instrument.id]);
    const depth = await call.desk.depth(instrument.id, levels);
    return json(200, presentDepth(instrument, depth, levels, call.desk.market.view(instrument.id).priceLimits));
  },
});
