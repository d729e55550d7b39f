import { tradingDay } from '../../../core/market/index.ts';
import type { MissedEntry } from '../../../core/review/index.ts';
import { presentMiss } from '../../../desk/review/present.ts';
import { missed } from '../../../schemas/review.ts';
import { csv, endpoint, json } from '../_endpoint.ts';
import { choiceOf, inPeriod, isChosen } from '../_review.ts';

export const ALL = endpoint('/api/review/missed', {
  GET: async (call) => {
    const choice = choiceOf(call);
    if (choice instanceof Response) return choice;
    const wanted = ({ setup, side, instrument: id, endedAt }: MissedEntry): boolean => {
      const instrument = call.desk.instrument(id);
      return inPeriod(choice, tradingDay(instrument.venue, endedAt)) && isChosen(choice, { setup, instrument, long: side === 'buy', endedAt });
    };
    const found = (await call.review.missed(choice.accounts, choice, wanted)).map(presentMiss);
    return call.query['format'] === 'csv' ? csv('missed', missed.required, found) : json(200, found);
  },
});
