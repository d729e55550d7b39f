import { endpoint, json } from '../_endpoint.ts';
import { orderReader } from '../_phrases.ts';

export const ALL = endpoint('/api/phrases/orders', {
  POST: async (call) => {
    const { phrases, account, instrument } = call.body as { phrases: string[]; account?: string; instrument?: string };
    const read = await orderReader(call, account, instrument);
    return read instanceof Response ? read : json(200, { items: await Promise.all(phrases.map(read)) });
  },
});
