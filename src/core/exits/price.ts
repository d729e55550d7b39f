import {
  addTicks,
  asPrice,
  gridCeil,
  gridFloor,
  isInverse,
  isOnGrid,
  parsePrice,
  tickAt,
  type Instrument,
  type Price,
  type Quantity,
} from '../instrument/index.ts';
import type { Money } from '../number/index.ts';
import type { Distance, LegName } from './plan.ts';

/** What exits are measured from: the average of a quantity that cost this, in what the instrument settles in. */
export interface Reference {
  readonly quantity: Quantity;
  readonly cost: Money;
}

/** An exact price in price units: numerator and positive denominator. */
type Exact = readonly [bigint, bigint];

/** The exact average of a reference: cost ÷ (quantity × multiplier), of an inverse contract quantity ÷ cost. */
export function averageOf(instrument: Instrument, { quantity, cost }: Reference): Exact {
  const { priceDecimals, quantityDecimals, multiplier } = instrument;
  if (isInverse(instrument)) return [BigInt(quantity) * 10n ** BigInt(8 + priceDecimals), cost * 10n ** BigInt(quantityDecimals)];
  return [cost * 10n ** BigInt(priceDecimals + quantityDecimals), 10n ** 8n * BigInt(quantity) * BigInt(multiplier)];
}

const floorOf = ([numerator, denominator]: Exact): Price => asPrice(Number(numerator / denominator));
const ceilOf = ([numerator, denominator]: Exact): Price => asPrice(Number((numerator + denominator - 1n) / denominator));
const moved = ([n, d]: Exact, [dn, dd]: Exact, up: boolean): Exact => [up ? n * dd + dn * d : n * dd - dn * d, d * dd];

/** The exact price a distance away from a reference, upwards or downwards; null where there is none. */
function exactAt(instrument: Instrument, distance: Distance, reference: Reference, quantity: Quantity, up: boolean): Exact | null {
  const average = averageOf(instrument, reference);
  switch (distance.by) {
    case 'ticks':
      return moved(average, [BigInt(distance.ticks) * BigInt(tickAt(instrument, floorOf(average))), 1n], up);
    case 'percent':
      return moved(average, [average[0] * distance.percent, average[1] * 10n ** 10n], up);
    case 'money':
      return isInverse(instrument)
        ? inverseAt(instrument, distance.value, average, quantity, up)
        : moved(
            average,
            [
              distance.value * 10n ** BigInt(instrument.priceDecimals + instrument.quantityDecimals),
              10n ** 8n * BigInt(quantity) * BigInt(instrument.multiplier),
            ],
            up,
          );
    case 'price': {
      const price = parsePrice(instrument, distance.price);
      return price === null ? null : [BigInt(price), 1n];
    }
    default:
      return distance satisfies never;
  }
}

/** Where an inverse contract has made or lost a sum of the base asset: quantity ÷ price falls by it upwards, and grows downwards. */
function inverseAt(instrument: Instrument, value: Money, [n, d]: Exact, quantity: Quantity, up: boolean): Exact | null {
  const { priceDecimals, quantityDecimals } = instrument;
  // quantity ÷ average, and the sum, both times 10^(8 + quantityDecimals − priceDecimals), over n.
  const scaled = BigInt(quantity) * 10n ** 8n * 10n ** BigInt(priceDecimals);
  const base = scaled * d;
  const sum = value * 10n ** BigInt(quantityDecimals) * n;
  const left = up ? base - sum : base + sum;
  return left <= 0n ? null : [scaled * n, left];
}

/**
 * The price of a leg, rounded up to the grid for a long position and down for a short one; a stop is at least one
 * tick from the reference (exact rules *Exits* 1 and 2).
 *
 * @param quantity the step's
 * @returns null where there is no positive price that far away
 */
export function legPrice(instrument: Instrument, long: boolean, leg: LegName, distance: Distance, reference: Reference, quantity: Quantity): Price | null {
  const up = long === (leg === 'target');
  const exact = exactAt(instrument, distance, reference, quantity, up);
  if (exact === null || exact[0] <= 0n) return null;
  if (distance.by === 'price') return floorOf(exact);
  const price = long ? gridCeil(instrument, ceilOf(exact)) : gridFloor(instrument, floorOf(exact));
  if (leg === 'target') return price > 0 ? price : null;
  const average = averageOf(instrument, reference);
  const nearest = long ? addTicks(instrument, gridFloor(instrument, floorOf(average)), -1) : addTicks(instrument, gridCeil(instrument, ceilOf(average)), 1);
  const stop = asPrice(long ? Math.min(price, nearest) : Math.max(price, nearest));
  return stop > 0 ? stop : null;
}

/** The price at which a position comes out even, `plusTicks` in the direction of gain. */
export function evenPrice(instrument: Instrument, long: boolean, reference: Reference, plusTicks: number): Price {
  const average = averageOf(instrument, reference);
  const exact = moved(average, [BigInt(plusTicks) * BigInt(tickAt(instrument, floorOf(average))), 1n], long);
  return long ? gridCeil(instrument, ceilOf(exact)) : gridFloor(instrument, floorOf(exact));
}

/** Whether a price has gained at least this much against the reference. */
export function hasGained(instrument: Instrument, long: boolean, gain: Distance, reference: Reference, quantity: Quantity, price: Price): boolean {
  const exact = exactAt(instrument, gain, reference, quantity, long);
  if (exact === null) return false;
  const [numerator, denominator] = exact;
  return long ? BigInt(price) * denominator >= numerator : BigInt(price) * denominator <= numerator;
}

/** Why an absolute price can't be a leg of this instrument, or null. */
export function priceProblem(instrument: Instrument, distance: Distance): string | null {
  if (distance.by !== 'price') return null;
  const price = parsePrice(instrument, distance.price);
  return price === null || !isOnGrid(instrument, price) ? `${distance.price} is off the tick grid` : null;
}
