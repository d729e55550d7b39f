import { asPrice, type Instrument, type Price, type TickBand } from './instrument.ts';

function bandOf(instrument: Instrument, price: Price): TickBand {
  const bands = instrument.tickBands;
  let found = bands[0];
  for (const band of bands) if (price >= band.from) found = band;
  if (!found) throw new RangeError(`${instrument.id} has no tick bands`);
  return found;
}

/** The tick, in price units, of the band in which `price` lies. */
export const tickAt = (instrument: Instrument, price: Price): Price => bandOf(instrument, price).tick;

/** True where `price` is positive and a whole number of its band's ticks. */
export const isOnGrid = (instrument: Instrument, price: Price): boolean => price > 0 && price % tickAt(instrument, price) === 0;

/** The highest grid price at or below `price`. */
export function gridFloor(instrument: Instrument, price: Price): Price {
  const tick = tickAt(instrument, price);
  return asPrice(Math.floor(price / tick) * tick);
}

/** The lowest grid price at or above `price`. Band bounds are on both bands' grids, so this never skips one. */
export function gridCeil(instrument: Instrument, price: Price): Price {
  const tick = tickAt(instrument, price);
  return asPrice(Math.ceil(price / tick) * tick);
}

/** `ticks` grid steps up (or down, when negative) from a grid price, each by the tick of where it stands. */
export function addTicks(instrument: Instrument, price: Price, ticks: number): Price {
  let at = price;
  for (let step = 0; step < Math.abs(ticks); step++) at = asPrice(ticks > 0 ? at + tickAt(instrument, at) : at - tickAt(instrument, asPrice(at - 1)));
  return at;
}

/** The grid prices around one that is off the grid, lowest first; positive ones only. */
export function nearestOnGrid(instrument: Instrument, price: Price): Price[] {
  return [...new Set([gridFloor(instrument, price), gridCeil(instrument, price)])].filter((p) => p > 0);
}
