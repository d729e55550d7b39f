import { nearDays } from '../../../desk/review/risk-days.ts';
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
    const week = weekOf(day);
    const before = [...weeksBefore(day), ...daysBefore(day)];
    const [trips, missed, stopped, near] = await Promise.all([
      call.review.trips(accounts, { from: Math.min(...before.map(({ from }) => from)), to: week.to }),
      call.review.missed(accounts, week, ({ instrument, endedAt }) => inPeriod(week, tradingDay(call.desk.instrument(instrument).venue, endedAt))),
      call.review.stopped(accounts, week),
      Promise.all(accounts.map((id) => nearDays(call.desk, call.review, call.desk.account(id), week))),
    ]);
    const besides = { missed, stopped, near: near.flat() };
    const choice = { from: null, to: day, accounts, setups: [], instruments: [], kinds: [], sides: [], hours: [] };
    return json(200, {
      day: recapOf(call, choice, trips, besides, { from: day, to: day }, daysBefore(day)),
      week: recapOf(call, choice, trips, besides, week, weeksBefore(day)),
    });
  },
});
