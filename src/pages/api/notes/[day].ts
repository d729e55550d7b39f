import { formatDay } from '../../../core/market/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { namedDay } from '../_review.ts';

const KIND = 'day-note';

export const ALL = endpoint('/api/notes/{day}', {
  GET: async (call) => {
    const day = namedDay(call.parameter('day'), '/day');
    if (day instanceof Response) return day;
    const found = await call.saved.get(call.user, KIND, formatDay(day));
    return json(200, { day: formatDay(day), text: (found?.document as string | undefined) ?? '' });
  },
  PUT: async (call) => {
    const day = namedDay(call.parameter('day'), '/day');
    if (day instanceof Response) return day;
    const { text } = call.body as { text: string };
    await call.saved.put(call.user, KIND, formatDay(day), text, Date.now(), 'anything');
    return json(200, { day: formatDay(day), text });
  },
});
