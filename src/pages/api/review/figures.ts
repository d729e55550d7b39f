import { formatDay } from '../../../core/market/index.ts';
import { formatMoney } from '../../../core/number/index.ts';
import { curveOf, type Grouping } from '../../../core/review/index.ts';
import { isoTime } from '../../../desk/present/text.ts';
import { figures } from '../../../schemas/review.ts';
import { csv, endpoint, json } from '../_endpoint.ts';
import { choiceOf, chosenTrips, daysOf, groupsOf, periodOf, wholeOf } from '../_review.ts';

const POINTS_AT_ONCE = 5000;
const othersTurn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

export const ALL = endpoint('/api/review/figures', {
  GET: async (call) => {
    const choice = choiceOf(call);
    if (choice instanceof Response) return choice;
    const trips = await chosenTrips(call, choice);
    const period = periodOf(choice, trips);
    const days = daysOf(call, choice, period);
    const by = call.query['by'] as Grouping | undefined;
    // A long past takes its time: orders are not to wait for the whole of it.
    await othersTurn();
    const all = wholeOf(trips, days);
    await othersTurn();
    const groups = by === undefined ? [] : groupsOf(trips, by, days);
    await othersTurn();
    if (call.query['format'] === 'csv') {
      const rows = by === undefined ? [{ key: 'all', figures: all }] : groups;
      return csv(
        'figures',
        ['key', ...figures.required],
        rows.map(({ key, figures: of }) => ({ key, ...of })),
      );
    }
    const { points } = call.query;
    const drawn = curveOf(trips, points === undefined ? trips.length : Number(points));
    const curve: { time: string; net: string }[] = [];
    for (const { time, net } of drawn) {
      curve.push({ time: isoTime(time), net: formatMoney(net, 'EUR') });
      if (curve.length % POINTS_AT_ONCE === 0) await othersTurn();
    }
    return json(200, { period: { from: formatDay(period.from), to: formatDay(period.to), days }, all, groups, curve });
  },
});
