import type { BasketRow } from '../../../../desk/baskets/things.ts';
import { basketAnswer, dropBasket, keepBasket, savedBasket } from '../../_baskets.ts';
import { endpoint } from '../../_endpoint.ts';
import { invalid, problem } from '../../_problem.ts';

export const ALL = endpoint('/api/baskets/{name}', {
  GET: async (call) => {
    const found = await savedBasket(call);
    return found instanceof Response ? found : basketAnswer(found.basket);
  },
  PUT: async (call) => {
    const found = await savedBasket(call);
    if (found instanceof Response) return found;
    const { name, rows, version } = call.body as { name?: string; rows: readonly BasketRow[]; version?: number };
    const { basket, revision } = found;
    if (name !== undefined && name !== basket.name) return invalid([{ path: '/name', message: `must be ${basket.name}, as in the path` }]);
    if (version !== undefined && version !== basket.version)
      return problem(409, 'conflict', `The basket is at version ${basket.version}; read it again.`, { version: basket.version });
    return keepBasket(call, basket.name, rows, basket.version + 1, { revision });
  },
  DELETE: dropBasket,
});
