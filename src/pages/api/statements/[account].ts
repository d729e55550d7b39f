import { homeVenue } from '../../../core/portfolio/index.ts';
import { mainPlace, placesOf, type Purpose } from '../../../core/backoffice/index.ts';
import { VENUES } from '../../../core/instrument/index.ts';
import { isTradingDay, tradingDay, type Day } from '../../../core/market/index.ts';
import type { Currency } from '../../../core/number/index.ts';
import { presentDay } from '../../../desk/backoffice/present.ts';
import { movement } from '../../../schemas/backoffice.ts';
import { csv, endpoint, json } from '../_endpoint.ts';
import { invalid, notFound } from '../_problem.ts';
import { daysAsked } from '../_review.ts';

export const ALL = endpoint('/api/statements/{account}', {
  GET: async (call) => {
    const account = call.parameter('account');
    if (!call.accounts.includes(account)) return notFound();
    const { terms } = call.desk.account(account);
    const venue = homeVenue(terms);
    const today = tradingDay(venue, call.desk.now());
    const asked = daysAsked(call, venue);
    if (asked instanceof Response) return asked;
    const { from, to } = asked;
    const main = mainPlace(terms);
    const asset = (call.query['asset'] ?? main.asset) as Currency;
    const purpose = (call.query['purpose'] ?? (asset === main.asset ? main.purpose : 'spot')) as Purpose;
    const places = placesOf(terms);
    if (!places.some((place) => place.asset === asset && place.purpose === purpose))
      return invalid([{ path: '?purpose', message: `must be one of ${places.map((place) => `${place.asset} ${place.purpose}`).join(', ')}` }]);
    const days: Day[] = [];
    for (let day = from; day <= Math.min(to, today); day++) if (isTradingDay(VENUES[venue], day)) days.push(day);
    const listed = (await call.past.statement(account, days, asset, purpose)).map((day) => presentDay(day, asset));
    if (call.query['format'] !== 'csv') return json(200, { account, currency: asset, asset, purpose, days: listed });
    const rows = listed.flatMap(({ movements, ...day }) => (movements.length === 0 ? [day] : movements.map((one) => ({ ...day, ...one }))));
    return csv('statement', ['day', 'opening', ...movement.required, 'closing'], rows);
  },
});
