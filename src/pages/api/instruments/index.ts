import { presentInstrument } from '../../../desk/present/index.ts';
import { endpoint, json } from '../_endpoint.ts';

export const ALL = endpoint('/api/instruments', {
  GET: (call) => {
    const { query, kind, venue, limit } = call.query;
    const found = call.desk.market
      .search(String(query ?? ''))
      .filter((one) => (kind === undefined || one.kind === kind) && (venue === undefined || one.venue === venue));
    return json(200, { items: found.slice(0, Number(limit ?? 100)).map(presentInstrument) });
  },
});
