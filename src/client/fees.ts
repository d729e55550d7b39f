import type { Instrument, Quantity } from '../core/instrument/index.ts';
import { NO_MONEY, money, type Money } from '../core/number/index.ts';
import { commissionOf, type Commission } from '../core/portfolio/index.ts';
import type { ApiAccount } from '../live/index.ts';

type Lines = Pick<ApiAccount, 'commission'>;

/** The line of commission in force for an instrument in an account: of those told the first of its kind. */
export function lineFor(instrument: Instrument, { commission }: Lines): Commission | null {
  const line = commission.find((one) => one.kind === instrument.kind);
  if (!line) return null;
  return {
    ...(line as unknown as Commission),
    rate: money(line.rate),
    minimum: line.minimum === null ? null : money(line.minimum),
    maximum: line.maximum === null ? null : money(line.maximum),
    exchangeFee: money(line.exchangeFee),
  };
}

/** The estimated fee of an order, in what its instrument settles in. */
export function feeOf(account: Lines, instrument: Instrument, quantity: Quantity, value: Money): Money {
  const line = lineFor(instrument, account);
  return line ? commissionOf(line, instrument, quantity, value) : NO_MONEY;
}
