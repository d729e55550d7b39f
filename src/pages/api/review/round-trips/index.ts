import { presentTrip } from '../../../../desk/review/present.ts';
import { roundTrip } from '../../../../schemas/review.ts';
import { csv, endpoint, json } from '../../_endpoint.ts';
import { choiceOf, chosenTrips } from '../../_review.ts';

export const ALL = endpoint('/api/review/round-trips', {
  GET: async (call) => {
    const choice = choiceOf(call);
    if (choice instanceof Response) return choice;
    const { newest } = call.query;
    const chosen = await chosenTrips(call, choice);
    const found = (newest === undefined ? chosen : chosen.slice(-Number(newest))).map(presentTrip);
    return call.query['format'] === 'csv' ? csv('round-trips', roundTrip.required, found) : json(200, { items: found });
  },
});
