import { NO_MONEY, divideHalfUp, minorUnit, moneyOf, type Currency, type Money } from '../number/index.ts';
import type { Instrument, InstrumentKind, Quantity } from '../instrument/index.ts';

export const COMMISSION_BASES = ['per-order', 'per-unit', 'per-contract', 'percent'] as const;
export type CommissionBasis = (typeof COMMISSION_BASES)[number];

/** One line of an account's commission schedule, a side. All amounts in 10⁻⁸ of `currency`; `percent` in 10⁻⁸ percent. */
export interface Commission {
  readonly kind: InstrumentKind;
  readonly basis: CommissionBasis;
  readonly rate: Money;
  readonly minimum: Money | null;
  readonly maximum: Money | null;
  /** Per unit or contract, outside minimum and maximum. */
  readonly exchangeFee: Money;
  readonly currency: Currency;
  readonly from: string;
}

/**
 * The whole fee of an order of which this much is filled: rate, then minimum and maximum, plus the exchange
 * fee, rounded half up to the currency's smallest unit. The fee of one fill is the difference of two of these.
 *
 * @param value Σ of the fills' values, in the fee's currency
 */
export function commissionOf(line: Commission, instrument: Instrument, filled: Quantity, value: Money): Money {
  if (filled === 0) return NO_MONEY;
  const step = 10n ** BigInt(instrument.quantityDecimals);
  const unit = minorUnit(line.currency);
  // Everything × step × 10¹⁰, so that no division comes before the one rounding.
  const scale = step * 10n ** 10n;
  let rate: bigint;
  switch (line.basis) {
    case 'per-order':
      rate = line.rate * scale;
      break;
    case 'per-unit':
    case 'per-contract':
      rate = line.rate * BigInt(filled) * 10n ** 10n;
      break;
    case 'percent':
      rate = value * line.rate * step;
      break;
    default:
      return line.basis satisfies never;
  }
  if (line.minimum !== null && rate < line.minimum * scale) rate = line.minimum * scale;
  if (line.maximum !== null && rate > line.maximum * scale) rate = line.maximum * scale;
  const exact = rate + line.exchangeFee * BigInt(filled) * 10n ** 10n;
  return moneyOf(divideHalfUp(exact, scale * unit) * unit);
}

/** The part of a fee that goes with a part of a fill, rounded half up to the smallest unit it is paid in. */
export function feePart(instrument: Instrument, fee: Money, part: Quantity, whole: Quantity): Money {
  if (part === 0) return NO_MONEY;
  const unit = minorUnit(instrument.settlesIn);
  return moneyOf(divideHalfUp(fee * BigInt(part), BigInt(whole) * unit) * unit);
}
