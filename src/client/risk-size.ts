import { legPrice, readExitPlan, type ExitPlanText } from '../core/exits/index.ts';
import { asQuantity, formatPrice, formatQuantity, parseQuantity, type Instrument, type Price } from '../core/instrument/index.ts';
import type { Side } from '../core/market/index.ts';
import { formatMoney, ratio } from '../core/number/index.ts';
import { lossAt, valueAt } from '../core/portfolio/index.ts';
import { shared, type ApiAccount } from '../live/index.ts';
import { feeOf } from './fees.ts';
import type { PhraseReading } from './phrase-acts.ts';
import { sizePhrase } from './size-by.ts';

/** The money that an order was last sized to risk, by account. */
export const $riskAmounts = shared<Readonly<Record<string, string>>>('risk-amounts', {});

export const rememberRisk = (account: string, amount: string): void => $riskAmounts.set({ ...$riskAmounts.get(), [account]: amount });

/**
 * Where the stops of a plan would stand for an entry at a price: of several the one that loses most.
 *
 * @returns null where a part has no stop, or one that hangs on the quantity
 */
export function planStop(plan: ExitPlanText, instrument: Instrument, side: Side, entry: Price): Price | null {
  const read = readExitPlan(plan, true);
  if (!read.ok) return null;
  const long = side === 'buy';
  const quantity = asQuantity(instrument.minimumQuantity);
  const stops = read.value.steps.map(({ stop }) =>
    stop === null || stop.distance.by === 'money'
      ? null
      : legPrice(instrument, long, 'stop', stop.distance, { quantity, cost: valueAt(instrument, quantity, entry) }, quantity),
  );
  return stops.reduce<Price | null>((worst, stop) => (worst === null || stop === null ? null : long === stop < worst ? stop : worst), stops[0] ?? null);
}

/** An entry that is to be sized. */
export interface EntryAtRisk {
  readonly account: Pick<ApiAccount, 'id' | 'commission'>;
  readonly instrument: Instrument;
  readonly side: Side;
  readonly entry: Price;
  /** The plan on the plate. */
  readonly plan: ExitPlanText | null;
  /** Money that may be lost. */
  readonly amount: string | null;
  /** What is left of the day's limit; null without one. */
  readonly left: string | null;
}

/** A size, and what it risks; or why there is none. */
export interface SizeAtRisk {
  readonly quantity: string | null;
  readonly words: string;
}

/** The size whose plan loses at most an amount at its stop, fees in and out included: read as an order phrase says it. */
export function sizeAtRisk(of: EntryAtRisk, read: (phrase: string) => PhraseReading | null): SizeAtRisk {
  const { account, instrument, side, entry, plan, amount, left } = of;
  const none = (words: string): SizeAtRisk => ({ quantity: null, words });
  if (amount === null) return none('no money at risk was chosen yet: by … beside a size');
  if (plan === null) return none('no exit plan on the plate, so no stop to risk to');
  const stop = planStop(plan, instrument, side, entry);
  if (stop === null) return none('the plan on the plate has a part without a stop that a size can follow from');
  const to = formatPrice(instrument, stop);
  const order = { account: account.id, instrument: instrument.id, side, type: 'limit', limitPrice: formatPrice(instrument, entry) } as const;
  const phrase = sizePhrase({ by: 'risk', amount, to }, order);
  const found = phrase === null ? null : read(phrase);
  if (found === null) return none('what it would risk can’t be told here');
  const quantity = (found.requests[0] as { quantity?: string } | undefined)?.quantity;
  const units = quantity === undefined ? null : parseQuantity(instrument, quantity);
  if (units === null) return none(found.error?.message ?? 'no size risks that');
  const fee = (one: Instrument, many: typeof units, value: ReturnType<typeof valueAt>) => feeOf(account, one, many, value);
  const loses = formatMoney(lossAt(instrument, units, entry, ratio(BigInt(stop)), fee), instrument.settlesIn);
  const leaves = left === null || instrument.settlesIn !== 'EUR' ? '' : `; ${leavesWords(left, loses)}`;
  return { quantity: formatQuantity(instrument, units), words: `loses ${loses} with fees at ${to}${leaves}` };
}

/** What is left of the day's limit once so much is lost. */
export function leavesWords(left: string, lost: string): string {
  const after = Number(left) - Number(lost);
  return after >= 0 ? `${after.toFixed(2)} of ${left} are left of the day then` : `that is more than the ${left} left of the day`;
}
