import { NO_MONEY, minus, moneyOf, type Money } from '../number/index.ts';
import type { Instrument, Price } from '../instrument/index.ts';
import type { Position } from './position.ts';

/** A price in the units of the instrument it belongs to. */
export interface FinalPrice {
  readonly instrument: Instrument;
  readonly price: Price;
}

/**
 * What a position's whole size is worth when its instrument ends: a future's at the final price, an option's at
 * its intrinsic value, `max(0, S − K)` for a call and `max(0, K − S)` for a put.
 *
 * @param final price of the underlying, or of the contract itself where it has none; null before any price,
 *   and then nothing is gained or lost
 * @returns exact money, never negative
 */
export function worthAtExpiry(instrument: Instrument, position: Position, final: FinalPrice | null): Money {
  if (final === null) return position.cost;
  const settled = scaled(final.price, final.instrument.priceDecimals);
  const each = instrument.kind === 'option' && final.instrument.id !== instrument.id ? intrinsic(instrument, settled) : settled;
  return moneyOf((BigInt(Math.abs(position.quantity)) * each * BigInt(instrument.multiplier)) / 10n ** BigInt(instrument.quantityDecimals));
}

function intrinsic(option: Instrument, settled: Money): Money {
  const strike = option.strike === null ? NO_MONEY : scaled(option.strike, option.priceDecimals);
  const inside = option.right === 'put' ? minus(strike, settled) : minus(settled, strike);
  return inside > NO_MONEY ? inside : NO_MONEY;
}

const scaled = (price: Price, decimals: number): Money => moneyOf(BigInt(price) * 10n ** BigInt(8 - decimals));
