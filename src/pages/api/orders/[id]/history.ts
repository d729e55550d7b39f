import { presentHistory } from '../../../../desk/present/index.ts';
import { endpoint, json, pageOf, pageQuery } from '../../_endpoint.ts';
import { notFound } from '../../_problem.ts';

import { page } from '../../../../core/page.ts';

const EVERY = 100_000;

export const ALL = endpoint('/api/orders/{id}/history', {
  GET: async (call) => {
    const order = call.desk.findOrder(call.parameter('id'), call.accounts);
    if (!order) return notFound();
    const asked = pageQuery(call);
    const entries = (await call.desk.entries({ accounts: [order.account], orderId: order.id, limit: EVERY })).filter((entry) => entry.history !== null);
    return json(
      200,
      pageOf(page(entries, asked), asked, (entry) => presentHistory(call.desk.instrument(order.instrument), entry)),
    );
  },
});
