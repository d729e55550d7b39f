import { endpoint, json } from '../_endpoint.ts';
import { orderReader } from '../_phrases.ts';

export const ALL = endpoint('/api/phrases/order', {
  POST: async (call) => {
    const { phrase, account, instrument } = call.body as { phrase: string; account?: string; instrument?: string };
    const read = await orderReader(call, account, instrument);
    return read instanceof Response ? read : json(200, await read(phrase));
  },
});
