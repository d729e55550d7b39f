import type { Interval } from '../../../core/market/index.ts';
import { presentBar } from '../../../desk/present/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

const timeOr = (text: string | number | undefined): number | null => (text === undefined ? null : Date.parse(String(text)));

export const ALL = endpoint('/api/bars/{id}', {
  GET: async (call) => {
    const instrument = call.desk.market.find(call.parameter('id'));
    if (!instrument) return notFound();
    const interval = String(call.query['interval']) as Interval;
    const { from, to, limit } = call.query;
    const { items } = await call.desk.bars({ instrument: instrument.id, interval, from: timeOr(from), to: timeOr(to), limit: Number(limit ?? 500) });
    return json(200, { instrument: instrument.id, interval, items: items.map((bar) => presentBar(instrument, bar)) });
  },
});
