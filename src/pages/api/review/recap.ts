import { ownAccounts, endpoint, json } from '../_endpoint.ts';
import { daysBefore, namedDay, recapOf, weekOf, weeksBefore } from '../_review.ts';

export const ALL = endpoint('/api/review/recap', {
  GET: async (call) => {
    const { account, day: text } = call.query;
    const accounts = ownAccounts(call, account, '?account');
    if (accounts instanceof Response) return accounts;
    const day = namedDay(String(text), '?day');
    if (day instanceof Response) return day;
    const trips = await call.review.trips(accounts);
    const choice = { from: null, to: day, accounts, setups: [], instruments: [], kinds: [], sides: [] };
    return json(200, {
      day: recapOf(call, choice, trips, { from: day, to: day }, daysBefore(day)),
      week: recapOf(call, choice, trips, weekOf(day), weeksBefore(day)),
    });
  },
});
