import { isInverse, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import {
  ceilRatio,
  compareRatio,
  divideRatio,
  floorRatio,
  moneyOf,
  multiplyRatio,
  plus,
  powerOfTen,
  ratio,
  subtractRatio,
  type Money,
  type Ratio,
} from '../number/index.ts';
import { valueAt } from './position.ts';

/** The estimated fee of an order in what the instrument settles in. */
export type FeeOf = (instrument: Instrument, quantity: Quantity, value: Money) => Money;

/** What a quantity is worth at an exact price in price units: of an inverse contract quantity ÷ price. */
function worthAt(instrument: Instrument, quantity: Quantity, price: Ratio): Ratio {
  const { priceDecimals, quantityDecimals, multiplier } = instrument;
  const scale = powerOfTen(8 - quantityDecimals);
  if (isInverse(instrument)) return divideRatio(ratio(BigInt(quantity) * scale * powerOfTen(priceDecimals)), price);
  return divideRatio(multiplyRatio(ratio(BigInt(quantity) * scale * BigInt(multiplier)), price), ratio(powerOfTen(priceDecimals)));
}

/**
 * What an entry loses at a price, with the estimated fees in and out, in what the instrument settles in:
 * quantity × |entry − price| × multiplier; of an inverse contract |quantity ÷ entry − quantity ÷ price|. Rounded up.
 *
 * @param at an exact price in price units, above 0; need not be on the grid
 */
export function lossAt(instrument: Instrument, quantity: Quantity, entry: Price, at: Ratio, fee: FeeOf): Money {
  const [a, b] = [worthAt(instrument, quantity, ratio(BigInt(entry))), worthAt(instrument, quantity, at)];
  const lost = compareRatio(a, b) > 0 ? subtractRatio(a, b) : subtractRatio(b, a);
  return plus(moneyOf(ceilRatio(lost)), fee(instrument, quantity, valueAt(instrument, quantity, entry)), fee(instrument, quantity, moneyOf(floorRatio(b))));
}
