import { endpoint, json } from '../_endpoint.ts';
import { tradingDay } from '../../../core/market/index.ts';
import { accountsOf, daysBefore, inPeriod, namedDay, recapOf, weekOf, weeksBefore } from '../_review.ts';

export const ALL = endpoint('/api/review/recap', {
  GET: async (call) => {
    const { day: text } = call.query;
    const accounts = accountsOf(call);
    if (accounts instanceof Response) return accounts;
    const day = namedDay(String(text), '?day');
    if (day instanceof Response) return day;
    const [trips, missed, stopped] = await Promise.all([
      call.review.trips(accounts),
      call.review.missed(accounts, ({ instrument, endedAt }) => inPeriod(weekOf(day), tradingDay(call.desk.instrument(instrument).venue, endedAt))),
      call.review.stopped(accounts),
    ]);
    const besides = { missed, stopped };
    const choice = { from: null, to: day, accounts, setups: [], instruments: [], kinds: [], sides: [], hours: [] };
    return json(200, {
      day: recapOf(call, choice, trips, besides, { from: day, to: day }, daysBefore(day)),
      week: recapOf(call, choice, trips, besides, weekOf(day), weeksBefore(day)),
    });
  },
});
