import { formatPrice, formatQuantity, type Halves, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { formatScaled, type Money } from '../../core/number/index.ts';
import { averagePrice } from '../../core/portfolio/index.ts';

export const isoTime = (time: number): string => new Date(time).toISOString();
export const isoOrNull = (time: number | null): string | null => (time === null ? null : isoTime(time));
export const share = (tenThousandths: number): string => formatScaled(BigInt(tenThousandths), 4, 2);
export const priceOr = (instrument: Instrument, price: Price | null): string | null => (price === null ? null : formatPrice(instrument, price));
export const quantityOr = (instrument: Instrument, quantity: Quantity | null): string | null =>
  quantity === null ? null : formatQuantity(instrument, quantity);

/** A price in halves of a price unit; a half shows one place more. */
export function formatHalves(instrument: Instrument, halves: Halves): string {
  return formatScaled(BigInt(halves) * 5n, instrument.priceDecimals + 1, instrument.priceDecimals);
}

/** What a unit cost on average, or null where nothing was filled. */
export function averageText(instrument: Instrument, quantity: Quantity, cost: Money): string | null {
  const average = averagePrice(instrument, quantity, cost);
  return average === null ? null : formatScaled(average, 8, instrument.priceDecimals);
}
