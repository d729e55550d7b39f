import { MONEY_DECIMALS, NO_MONEY, divideHalfUp, minorUnit, money, moneyOf, parseScaled, type Currency, type Money } from '../number/index.ts';
import type { Instrument, InstrumentKind, Quantity } from '../instrument/index.ts';
import { isDay } from '../market/index.ts';
import { accepted, refused, type Result } from '../result.ts';

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

/** A line of commission as it is asked for. Decimal strings; `percent` in percent of the value. */
export interface CommissionText {
  readonly kind: InstrumentKind;
  readonly basis: CommissionBasis;
  readonly rate: string;
  readonly minimum: string | null;
  readonly maximum: string | null;
  readonly exchangeFee: string;
  /** The trading day, `2026-03-03`, on which it comes into force. */
  readonly from: string;
}

const MOST_PERCENT = money('100');
const CONTRACTS: ReadonlySet<InstrumentKind> = new Set(['future', 'option', 'inverse']);

const AMOUNTS = ['rate', 'minimum', 'maximum', 'exchangeFee'] as const;
const isAmount = (text: string): boolean => (parseScaled(text, MONEY_DECIMALS) ?? -1n) >= 0n;

interface CommissionRefusal {
  readonly path: string;
  readonly message: string;
}

/**
 * Reads a line that an account could agree on.
 *
 * @param kinds what the account trades
 * @param currency what the fees of a kind are paid in
 * @param today the account's trading day: commission changes with a day to come, so that what an order was told stands
 */
export function readCommission(
  text: CommissionText,
  kinds: readonly InstrumentKind[],
  currency: (kind: InstrumentKind) => Currency,
  today: string,
): Result<Commission, CommissionRefusal> {
  const { kind, basis, from } = text;
  if (!kinds.includes(kind)) return refused({ path: '/kind', message: `the account does not trade it; accepted: ${kinds.join(', ')}` });
  const unit = CONTRACTS.has(kind) ? 'per-contract' : 'per-unit';
  if ((basis === 'per-unit' || basis === 'per-contract') && basis !== unit) return refused({ path: '/basis', message: `${kind}s are charged ${unit}` });
  if (!isDay(from) || from <= today) return refused({ path: '/from', message: `must be a day after ${today}, as ${today} is written` });
  for (const name of AMOUNTS) {
    const asked = text[name];
    if (asked !== null && !isAmount(asked)) return refused({ path: `/${name}`, message: `must be 0 or more, with at most ${MONEY_DECIMALS} decimals` });
  }
  const [rate, exchangeFee] = [money(text.rate), money(text.exchangeFee)];
  const [minimum, maximum] = [text.minimum, text.maximum].map((one) => (one === null ? null : money(one))) as [Money | null, Money | null];
  if (basis === 'percent' && rate > MOST_PERCENT) return refused({ path: '/rate', message: 'must be at most 100 percent' });
  if (minimum !== null && maximum !== null && minimum > maximum) return refused({ path: '/maximum', message: 'must not be below the minimum' });
  return accepted({ kind, basis, rate, minimum, maximum, exchangeFee, currency: currency(kind), from });
}
