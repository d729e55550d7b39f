export { type InstrumentKind, INSTRUMENT_KINDS } from './kind.ts';
export { type ReadSymbols, readSymbols } from './symbols.ts';
export {
  type Fundamentals,
  type Halves,
  type Instrument,
  type MarginRates,
  type Price,
  type Quantity,
  type TickBand,
  NO_QUANTITY,
  formatPrice,
  formatQuantity,
  inUnits,
  asHalves,
  isInverse,
  isListed,
  isTradable,
  leastQuantity,
  parsePrice,
  parseQuantity,
  asPrice,
  asQuantity,
  sizeOf,
} from './instrument.ts';
export { type Found, InstrumentSearch } from './search.ts';
export { addTicks, gridCeil, gridFloor, isOnGrid, nearestOnGrid, tickAt } from './grid.ts';
export { type OrderType, type Session, type Venue, type VenueId, ORDER_TYPES, VENUES, VENUE_IDS, venueOrderTypes } from './venue.ts';
