import { NO_QUANTITY, asQuantity, parseQuantity, type Instrument, type Price, type Quantity } from '../core/instrument/index.ts';
import { instrumentOf, priceOf } from './instruments.ts';
import type { ApiFill, ApiOrder, ApiPosition } from './shapes.ts';

/** An order as it was told, with what is computed with of it in the instrument's units: read once. */
export interface LiveOrder extends ApiOrder {
  readonly units: { readonly quantity: Quantity; readonly remaining: Quantity; readonly limit: Price | null; readonly stop: Price | null };
}

/** A position as it was told, with what is computed with of it in the instrument's units. */
export interface LivePosition extends ApiPosition {
  readonly units: {
    /** Below nothing where it is short. */
    readonly quantity: Quantity;
    /** With its fraction of a unit; null while flat. */
    readonly average: number | null;
    readonly mark: Price | null;
  };
}

/** A fill as it was told, with what is computed with of it in the instrument's units. */
export interface LiveFill extends ApiFill {
  readonly units: { readonly quantity: Quantity; readonly price: Price | null };
}

/** A quantity with its sign; none of an instrument that is not known. */
function signedQuantity(instrument: Instrument | undefined, text: string): Quantity {
  if (!instrument) return NO_QUANTITY;
  const size = parseQuantity(instrument, text.replace('-', '')) ?? NO_QUANTITY;
  return text.startsWith('-') ? asQuantity(0 - size) : size;
}

const priceIn = (instrument: Instrument | undefined, text: string | null): Price | null => (instrument ? priceOf(instrument, text) : null);

export function readOrder(order: ApiOrder, instrument = instrumentOf(order.instrument)): LiveOrder {
  const [quantity, remaining] = [signedQuantity(instrument, order.quantity), signedQuantity(instrument, order.remainingQuantity)];
  return { ...order, units: { quantity, remaining, limit: priceIn(instrument, order.limitPrice), stop: priceIn(instrument, order.stopPrice) } };
}

export function readPosition(position: ApiPosition, instrument = instrumentOf(position.instrument)): LivePosition {
  const { averagePrice, mark } = position;
  const average = averagePrice === null || !instrument ? null : Number(averagePrice) * 10 ** instrument.priceDecimals;
  return { ...position, units: { quantity: signedQuantity(instrument, position.quantity), average, mark: priceIn(instrument, mark) } };
}

export function readFill(fill: ApiFill, instrument = instrumentOf(fill.instrument)): LiveFill {
  return { ...fill, units: { quantity: signedQuantity(instrument, fill.quantity), price: priceIn(instrument, fill.price) } };
}
