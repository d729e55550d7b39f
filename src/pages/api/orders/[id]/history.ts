import { presentHistory } from '../../../../desk/present/index.ts';
import { endpoint, json, pageOf, pageQuery, withMore } from '../../_endpoint.ts';
import { notFound } from '../../_problem.ts';

export const ALL = endpoint('/api/orders/{id}/history', {
  GET: async (call) => {
    const order = await call.desk.findOrder(call.parameter('id'), call.accounts);
    if (!order) return notFound();
    const asked = pageQuery(call);
    const found = await withMore(asked, (page) => call.desk.entries({ accounts: [order.account], orderId: order.id, withHistory: true, ...page }));
    return json(
      200,
      pageOf(found, asked, (entry) => presentHistory(call.desk.instrument(order.instrument), entry)),
    );
  },
});
