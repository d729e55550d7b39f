import type { BasketRow } from '../../../desk/baskets/things.ts';
import { keepBasket, savedBaskets } from '../_baskets.ts';
import { endpoint, json } from '../_endpoint.ts';

export const ALL = endpoint('/api/baskets', {
  GET: async (call) => json(200, { items: await savedBaskets(call) }),
  POST: (call) => {
    const { name, rows } = call.body as { name: string; rows: readonly BasketRow[] };
    return keepBasket(call, name, rows, 1, 'nothing');
  },
});
