import { formatDay } from '../../../core/market/index.ts';
import { NO_MONEY, formatMoney, plus } from '../../../core/number/index.ts';
import { figuresOf, type Grouping } from '../../../core/review/index.ts';
import { isoTime } from '../../../desk/present/text.ts';
import { presentFigures } from '../../../desk/review/present.ts';
import { figures } from '../../../schemas/review.ts';
import { csv, endpoint, json } from '../_endpoint.ts';
import { choiceOf, chosenTrips, daysOf, groupsOf, periodOf } from '../_review.ts';

export const ALL = endpoint('/api/review/figures', {
  GET: async (call) => {
    const choice = choiceOf(call);
    if (choice instanceof Response) return choice;
    const trips = await chosenTrips(call, choice);
    const period = periodOf(choice, trips);
    const days = daysOf(call, choice, period);
    const by = call.query['by'] as Grouping | undefined;
    const all = presentFigures(figuresOf(trips, days));
    const groups = by === undefined ? [] : groupsOf(trips, by, days);
    if (call.query['format'] === 'csv') {
      const rows = by === undefined ? [{ key: 'all', figures: all }] : groups;
      return csv(
        'figures',
        ['key', ...figures.required],
        rows.map(({ key, figures: of }) => ({ key, ...of })),
      );
    }
    let net = NO_MONEY;
    const curve = trips.map((trip) => ({ time: isoTime(trip.closedAt), net: formatMoney((net = plus(net, trip.net)), 'EUR') }));
    return json(200, { period: { from: formatDay(period.from), to: formatDay(period.to), days }, all, groups, curve });
  },
});
