import { endpoint } from '../_endpoint.ts';
import { groupAnswer } from '../_group.ts';
import { notFound } from '../_problem.ts';

const MOST = 10;

export const ALL = endpoint('/api/order-groups/{id}', {
  GET: async (call) => {
    const found = await call.desk.listOrders({ accounts: call.accounts, groupId: call.parameter('id'), limit: MOST });
    const orders = found.map(({ order }) => order);
    const group = orders[0]?.group;
    return group ? groupAnswer(call, 200, group, orders) : notFound();
  },
});
