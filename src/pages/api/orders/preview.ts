import { previewOrder } from '../../../desk/preview.ts';
import { endpoint, json } from '../_endpoint.ts';
import { readIntent, type OrderBody } from '../_order.ts';
import { refusalProblem } from '../_problem.ts';

export const ALL = endpoint('/api/orders/preview', {
  POST: async (call) => {
    const read = await readIntent(call, { clientOrderId: 'preview', ...(call.body as Omit<OrderBody, 'clientOrderId'>) });
    if (read instanceof Response) return read;
    const preview = read.ok ? await previewOrder(call.desk, read.value) : read;
    return preview.ok ? json(200, preview.value) : refusalProblem(preview.refusal);
  },
});
