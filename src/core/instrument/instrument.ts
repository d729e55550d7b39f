import type { Currency } from '../number/index.ts';
import { formatScaled, parseScaled } from '../number/index.ts';
import type { InstrumentKind } from './kind.ts';
import type { VenueId } from './venue.ts';

declare const priceBrand: unique symbol;
declare const quantityBrand: unique symbol;
declare const halvesBrand: unique symbol;

/** Integer count of an instrument's price units (10^-priceDecimals). Convert with {@link formatPrice} and {@link parsePrice}. */
export type Price = number & { readonly [priceBrand]: true };

/** Integer count of an instrument's quantity steps (10^-quantityDecimals). */
export type Quantity = number & { readonly [quantityBrand]: true };

/** A price in halves of a price unit, because the mid of two prices can be one. */
export type Halves = number & { readonly [halvesBrand]: true };

/** An integer of an instrument's price units as a price. */
export const asPrice = (units: number): Price => units as Price;
/** An integer of an instrument's quantity steps as a quantity. */
export const asQuantity = (steps: number): Quantity => steps as Quantity;
export const asHalves = (halves: number): Halves => halves as Halves;

export const NO_QUANTITY = asQuantity(0);
export const leastQuantity = (...of: readonly Quantity[]): Quantity => asQuantity(Math.min(...of));
/** How much is held, whichever way. */
export const sizeOf = (signed: Quantity): Quantity => asQuantity(Math.abs(signed));

/** From this price upwards the tick holds, until the next band. Both in price units. */
export interface TickBand {
  readonly from: Price;
  readonly tick: Price;
}

/** Shares of the position's value, in ten-thousandths. */
export interface MarginRates {
  readonly overnight: number;
  readonly intraday: number;
  readonly maintenance: number;
}

/** Figures of an issuer, invented like everything else: shares in issue, and money a share and year as decimal text. */
export interface Fundamentals {
  readonly sharesOutstanding: string;
  readonly earningsPerShare: string;
  readonly dividendPerShare: string;
}

/** One listing on one venue. */
export interface Instrument {
  readonly id: string;
  readonly ticker: string;
  readonly venue: VenueId;
  readonly name: string;
  readonly kind: InstrumentKind;
  /** What it is quoted in. */
  readonly currency: Currency;
  /** What its P&L accrues in: the base asset for an inverse contract, else the currency. */
  readonly settlesIn: Currency;
  readonly sector: string | null;
  readonly priceDecimals: number;
  readonly quantityDecimals: number;
  readonly tickBands: readonly TickBand[];
  readonly minimumQuantity: Quantity;
  /** Money per whole price unit and contract; 1 for an inverse contract, where it is not used. */
  readonly multiplier: number;
  readonly underlying: string | null;
  /** `YYYY-MM-DD` of the last trading day. */
  readonly expiry: string | null;
  readonly strike: Price | null;
  readonly right: 'call' | 'put' | null;
  readonly margin: MarginRates;
  /** `YYYY-MM-DD` of the first trading day of what is not traded yet when its world begins; null for all others. */
  readonly listsOn: string | null;
  /** Of shares and funds; null for all others. */
  readonly fundamentals: Fundamentals | null;
}

export const isTradable = (instrument: Instrument): boolean => instrument.kind !== 'index';
/** Whether an instrument is traded on a day, `YYYY-MM-DD`. */
export const isListed = ({ listsOn }: Pick<Instrument, 'listsOn'>, day: string): boolean => listsOn === null || listsOn <= day;
export const isInverse = (instrument: Instrument): boolean => instrument.kind === 'inverse';

export const formatPrice = (instrument: Instrument, price: Price): string => formatScaled(BigInt(price), instrument.priceDecimals);

export const formatQuantity = (instrument: Instrument, quantity: Quantity): string => formatScaled(BigInt(quantity), instrument.quantityDecimals, 0);

/** The price of a decimal string, or null where it has more places than the instrument's price unit. */
export const parsePrice = (instrument: Instrument, text: string): Price | null => parseUnits(text, instrument.priceDecimals) as Price | null;

/** The quantity of a decimal string, or null where it is finer than the quantity step. */
export const parseQuantity = (instrument: Instrument, text: string): Quantity | null => parseUnits(text, instrument.quantityDecimals) as Quantity | null;

const PLAIN = /^(0|[1-9]\d*)(?:\.(\d+))?$/;
const EXACT_DIGITS = 15;

/** Digits that fit a double as they stand are read as one; all else goes the long way. */
function parseUnits(text: string, decimals: number): number | null {
  const found = PLAIN.exec(text);
  const fraction = found?.[2] ?? '';
  if (found && fraction.length <= decimals && (found[1] as string).length + decimals <= EXACT_DIGITS)
    return Number((found[1] as string) + fraction.padEnd(decimals, '0'));
  const scaled = parseScaled(text, decimals);
  return scaled === null ? null : safe(scaled);
}

function safe(value: bigint): number | null {
  const number = Number(value);
  return Number.isSafeInteger(number) ? number : null;
}

const UNITS = 8;
/** A quantity in 10⁻⁸ units, whatever the step of its instrument. */
export const inUnits = (quantity: number, instrument: Pick<Instrument, 'quantityDecimals'>): bigint =>
  BigInt(quantity) * 10n ** BigInt(UNITS - instrument.quantityDecimals);
