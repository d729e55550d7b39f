import { NONE } from '../../../core/review/index.ts';
import { isoOrNull } from '../../../desk/present/text.ts';
import { endpoint, json } from '../_endpoint.ts';
import { choiceOf, chosenTrips } from '../_review.ts';

export const ALL = endpoint('/api/review/choices', {
  GET: async (call) => {
    const choice = choiceOf(call);
    if (choice instanceof Response) return choice;
    const trips = await chosenTrips(call, choice);
    const [setups, instruments] = [new Set<string>(), new Set<string>()];
    for (const { setup, instrument } of trips) {
      setups.add(setup ?? NONE);
      instruments.add(instrument.id);
    }
    return json(200, { setups: [...setups].sort(), instruments: [...instruments].sort(), newest: isoOrNull(trips.at(-1)?.closedAt ?? null) });
  },
});
