import { MONEY_DECIMALS, NO_MONEY, divideHalfEven, minus, moneyOf, plus, powerOfTen, type Money } from '../number/index.ts';
import { NO_QUANTITY, asHalves, isInverse, asQuantity, sizeOf, type Halves, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { Side } from '../market/index.ts';
import { feePart } from './commission.ts';

export const PRODUCTS = ['overnight', 'intraday'] as const;
export type Product = (typeof PRODUCTS)[number];

/** What an account holds of one instrument. Costs are sums of entries' values, never negative. */
export interface Position {
  readonly instrument: string;
  readonly product: Product;
  /** Signed: a short position is negative. */
  readonly quantity: Quantity;
  readonly cost: Money;
  /** The same, with what was carried over the day's turn counted at the settlement price. */
  readonly dayCost: Money;
  readonly dayRealised: Money;
  readonly dayFees: Money;
  readonly openedAt: number | null;
  readonly updatedAt: number;
  /** True once something was filled on the present trading day. */
  readonly filledToday: boolean;
}

export const flatPosition = (instrument: string, time: number): Position => ({
  instrument,
  product: 'overnight',
  quantity: NO_QUANTITY,
  cost: NO_MONEY,
  dayCost: NO_MONEY,
  dayRealised: NO_MONEY,
  dayFees: NO_MONEY,
  openedAt: null,
  updatedAt: time,
  filledToday: false,
});

/**
 * What a quantity is worth at a price: quantity × price × multiplier in the quote currency; for an inverse
 * contract quantity ÷ price in the base asset, rounded half to even at 8 decimals.
 */
export function valueAt(instrument: Instrument, quantity: Quantity, price: Price): Money {
  const { priceDecimals, quantityDecimals, multiplier } = instrument;
  // A product of whole numbers that comes out below 2⁵³ is exact.
  const units = quantity * price * multiplier;
  if (isInverse(instrument) || !Number.isSafeInteger(units)) return valueAtHalves(instrument, quantity, asHalves(price * 2));
  return moneyOf(BigInt(units) * powerOfTen(MONEY_DECIMALS - priceDecimals - quantityDecimals));
}

/** {@link valueAt} for a price in halves of a price unit, as marks are. */
export function valueAtHalves(instrument: Instrument, quantity: Quantity, halves: Halves): Money {
  const { priceDecimals, quantityDecimals, multiplier } = instrument;
  if (isInverse(instrument))
    return moneyOf(divideHalfEven(BigInt(quantity) * 2n * powerOfTen(MONEY_DECIMALS + priceDecimals), BigInt(halves) * powerOfTen(quantityDecimals)));
  const scale = powerOfTen(MONEY_DECIMALS - priceDecimals - quantityDecimals);
  return moneyOf((BigInt(quantity) * BigInt(halves) * BigInt(multiplier) * scale) / 2n);
}

/**
 * Realised P&L of closing part of a position, before fees.
 *
 * @param removed cost removed by the closing
 * @param brought what the closing brought
 * @returns exact money in what the instrument settles in. An inverse contract gains what it no longer costs in base.
 */
export function realised(instrument: Instrument, long: boolean, removed: Money, brought: Money): Money {
  return long !== isInverse(instrument) ? minus(brought, removed) : minus(removed, brought);
}

/** A quantity with the sign its side has: what is sold is negative. */
export const signedQuantity = (side: Side, quantity: Quantity): Quantity => asQuantity(side === 'buy' ? quantity : 0 - quantity);

export interface AppliedFill {
  readonly position: Position;
  readonly realised: Money;
}

export interface FillTerms {
  readonly side: Side;
  readonly price: Price;
  readonly quantity: Quantity;
  readonly fee: Money;
  readonly product: Product;
  readonly time: number;
}

/** A position after a fill. One that crosses zero closes at its price and opens the rest there. */
export function applyFill(instrument: Instrument, before: Position, fill: FillTerms): AppliedFill {
  const signed = signedQuantity(fill.side, fill.quantity);
  const held = sizeOf(before.quantity);
  const against = before.quantity !== 0 && Math.sign(signed) !== Math.sign(before.quantity);
  const closed = asQuantity(against ? Math.min(held, fill.quantity) : 0);
  const opened = asQuantity(fill.quantity - closed);
  const long = before.quantity > 0;

  let { cost, dayCost, dayRealised } = before;
  let made = NO_MONEY;
  if (closed > 0) {
    const brought = valueAt(instrument, closed, fill.price);
    const removed = share(cost, closed, held);
    const dayRemoved = dayCost === cost ? removed : share(dayCost, closed, held);
    made = realised(instrument, long, removed, brought);
    dayRealised = plus(dayRealised, realised(instrument, long, dayRemoved, brought));
    cost = minus(cost, removed);
    dayCost = minus(dayCost, dayRemoved);
  }
  if (opened > 0) {
    const value = valueAt(instrument, opened, fill.price);
    cost = plus(cost, value);
    dayCost = plus(dayCost, value);
  }
  const quantity = asQuantity(before.quantity + signed);
  const begins = opened > 0 && (before.quantity === 0 || closed > 0);
  return {
    realised: made,
    position: {
      instrument: before.instrument,
      product: begins ? fill.product : before.product,
      quantity,
      cost,
      dayCost,
      dayRealised,
      dayFees: plus(before.dayFees, fill.fee),
      openedAt: begins ? fill.time : quantity === 0 ? null : before.openedAt,
      updatedAt: fill.time,
      filledToday: true,
    },
  };
}

/**
 * A position settled in cash at what it is worth when its instrument ends.
 *
 * @param worth value of the whole size, never negative, in what the instrument settles in
 */
export function settlePosition(instrument: Instrument, before: Position, worth: Money, time: number): AppliedFill {
  const long = before.quantity > 0;
  return {
    realised: realised(instrument, long, before.cost, worth),
    position: {
      ...before,
      quantity: NO_QUANTITY,
      cost: NO_MONEY,
      dayCost: NO_MONEY,
      dayRealised: plus(before.dayRealised, realised(instrument, long, before.dayCost, worth)),
      openedAt: null,
      updatedAt: time,
      filledToday: true,
    },
  };
}

/** `cost × closed ÷ held`, half to even at 8 decimals; the last unit takes what is left. */
const share = (cost: Money, closed: Quantity, held: Quantity): Money => (closed === held ? cost : moneyOf(divideHalfEven(cost * BigInt(closed), BigInt(held))));

/** The position on the next trading day: what is carried counts from the settlement price, or its cost without one. */
export function turnDay(instrument: Instrument, before: Position, settlement: Price | null): Position {
  const carried = settlement === null ? before.cost : valueAt(instrument, sizeOf(before.quantity), settlement);
  return { ...before, dayCost: carried, dayRealised: NO_MONEY, dayFees: NO_MONEY, filledToday: false };
}

/** Cost ÷ (quantity × multiplier) at 8 decimals, half to even, as 10⁻⁸; inverse: quantity ÷ cost. Null when flat. For display. */
export function averagePrice(instrument: Instrument, quantity: Quantity, cost: Money): bigint | null {
  if (quantity === 0) return null;
  const units = BigInt(Math.abs(quantity));
  const step = 10n ** BigInt(instrument.quantityDecimals);
  if (isInverse(instrument)) return cost === 0n ? null : divideHalfEven(units * 10n ** 16n, cost * step);
  return divideHalfEven(cost * step, units * BigInt(instrument.multiplier));
}

/** Unrealised P&L against a cost, at a mark in halves of a price unit; without a mark nothing is gained or lost. */
export function unrealised(instrument: Instrument, quantity: Quantity, cost: Money, mark: Halves | null): Money {
  if (quantity === 0 || mark === null) return NO_MONEY;
  return realised(instrument, quantity > 0, cost, valueAtHalves(instrument, sizeOf(quantity), mark));
}

/** A fill as what of it closes and what opens, each with its share of the fee: rounded half up, what closes first. */
export interface FillParts {
  readonly closing: Quantity;
  readonly closingFee: Money;
  readonly opening: Quantity;
  readonly openingFee: Money;
}

/** Parts a fill where a position that it meets is flat. */
export function partsAtFlat(instrument: Instrument, held: Quantity, fill: Pick<FillTerms, 'side' | 'quantity' | 'fee'>): FillParts {
  const against = held !== 0 && held > 0 !== (fill.side === 'buy');
  const closing = against ? asQuantity(Math.min(sizeOf(held), fill.quantity)) : NO_QUANTITY;
  const opening = asQuantity(fill.quantity - closing);
  const closingFee = opening === 0 ? fill.fee : feePart(instrument, fill.fee, closing, fill.quantity);
  return { closing, closingFee, opening, openingFee: minus(fill.fee, closingFee) };
}
