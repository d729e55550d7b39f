import { readHere } from '../../client/order-reading.ts';
import { sizeAtRisk } from '../../client/risk-size.ts';
import { HEARD } from '../../client/size-worth.ts';
import type { Instrument } from '../../core/instrument/index.ts';
import type { ApiAccount, ApiPlan } from '../../live/index.ts';

/** The largest buy at the ask that loses no more than what is left of the day at the stop of the plan on the plate. */
export function withinRisk(account: ApiAccount, instrument: Instrument, plan: ApiPlan, left: string): string | null {
  const entry = HEARD.ask(instrument.id);
  if (entry === null) return null;
  const read = (phrase: string): ReturnType<typeof readHere> => readHere(phrase, { account: account.id, instrument: instrument.id });
  return sizeAtRisk({ account, instrument, side: 'buy', entry, plan, amount: left, left }, read).quantity;
}
