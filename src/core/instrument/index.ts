export { type ReadSymbols, readSymbols } from './symbols.ts';
export {
  type Fundamentals,
  type Instrument,
  type InstrumentKind,
  type MarginRates,
  type Price,
  type Quantity,
  type TickBand,
  INSTRUMENT_KINDS,
  formatPrice,
  formatQuantity,
  isInverse,
  isTradable,
  parsePrice,
  parseQuantity,
} from './instrument.ts';
export { type Found, InstrumentSearch } from './search.ts';
export { addTicks, gridCeil, gridFloor, isOnGrid, nearestOnGrid, tickAt } from './grid.ts';
export { type OrderType, type Session, type Venue, type VenueId, ORDER_TYPES, VENUES, VENUE_IDS, venueOrderTypes } from './venue.ts';
