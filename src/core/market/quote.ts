import { divideHalfEven, formatScaled } from '../number/index.ts';
import { NO_QUANTITY, asHalves, asPrice, asQuantity, type Halves, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { MarketState, PriceLimits } from './tape-row.ts';

/** The statistics of a trading day, from the market's prints alone. */
export interface DayStatistics {
  open: Price | null;
  high: Price | null;
  low: Price | null;
  last: Price | null;
  lastQuantity: Quantity | null;
  lastTime: number | null;
  volume: Quantity;
  /** Σ price × quantity in price units × quantity steps, exact as a string of an integer would be. */
  turnover: bigint;
}

export const NO_STATISTICS: Readonly<DayStatistics> = {
  open: null,
  high: null,
  low: null,
  last: null,
  lastQuantity: null,
  lastTime: null,
  volume: NO_QUANTITY,
  turnover: 0n,
};

/** Adds one print to the day, in place. */
export function countPrint(day: DayStatistics, price: Price, quantity: Quantity, time: number): void {
  day.open ??= price;
  day.high = day.high === null ? price : asPrice(Math.max(day.high, price));
  day.low = day.low === null ? price : asPrice(Math.min(day.low, price));
  day.last = price;
  day.lastQuantity = quantity;
  day.lastTime = time;
  day.volume = asQuantity(day.volume + quantity);
  day.turnover += BigInt(price) * BigInt(quantity);
}

/** The newest known market of one instrument; prices and quantities in the instrument's units. */
export interface Quote extends Omit<DayStatistics, 'turnover'> {
  instrument: string;
  time: number;
  state: MarketState;
  bid: Price | null;
  bidQuantity: Quantity | null;
  ask: Price | null;
  askQuantity: Quantity | null;
  /** The last trade of any day, unlike `last` of the day's statistics never forgotten. */
  lastEver: Price | null;
  turnover: bigint;
  /** Volume of the trading day, which VWAP counts; `volume` is of the last 24 hours where a venue never closes. */
  dayVolume: Quantity;
  previousSettlement: Price | null;
  priceLimits: PriceLimits;
}

/**
 * What a position is valued at: today's last trade, else the mid of best bid and ask, else the previous
 * settlement, else null (the position's own average then). In halves of a price unit, because a mid can be one.
 */
export function markInHalves(quote: Pick<Quote, 'last' | 'bid' | 'ask' | 'previousSettlement'>): Halves | null {
  if (quote.last !== null) return asHalves(quote.last * 2);
  if (quote.bid !== null && quote.ask !== null) return asHalves(quote.bid + quote.ask);
  return quote.previousSettlement === null ? null : asHalves(quote.previousSettlement * 2);
}

/** The change against the previous settlement in percent with two decimals, a half going to the even. */
export function changePercent(last: Price, previous: Price): string {
  return formatScaled(divideHalfEven(BigInt(last - previous) * 10_000n, BigInt(previous)), 2);
}

/** VWAP with up to 8 decimals, or null without volume. */
export function vwapText(instrument: Instrument, turnover: bigint, volume: Quantity): string | null {
  if (volume === 0) return null;
  const scaled = divideHalfEven(turnover * 10n ** BigInt(8 - instrument.priceDecimals), BigInt(volume));
  return formatScaled(scaled, 8, instrument.priceDecimals);
}
