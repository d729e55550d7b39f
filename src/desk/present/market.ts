import {
  NO_QUANTITY,
  VENUES,
  formatPrice,
  formatQuantity,
  isInverse,
  isTradable,
  asQuantity,
  venueOrderTypes,
  type Instrument,
  type Price,
} from '../../core/instrument/index.ts';
import { changePercent, localClock, markInHalves, vwapText, type Bar, type DayFigures, type LiveListName, type Quote } from '../../core/market/index.ts';
import { formatScaled } from '../../core/number/index.ts';
import type { DeskLink } from '../outside.ts';
import type { DepthLevel, DepthView, Headline, Print, VenueClock } from '../../venue/messages.ts';
import type { market, ShapeOf } from '../../schemas/shapes.ts';
import { formatHalves, isoOrNull, isoTime, priceOr, quantityOr, share } from './text.ts';

export function presentInstrument(instrument: Instrument): ShapeOf<typeof market.instrument> {
  const { id, ticker, venue, name, kind, currency, sector, underlying, expiry, right } = instrument;
  return {
    id,
    ticker,
    venue,
    name,
    kind,
    currency,
    sector,
    tradable: isTradable(instrument),
    tickBands: instrument.tickBands.map(({ from, tick }) => ({ from: formatPrice(instrument, from), tick: formatPrice(instrument, tick) })),
    quantityStep: formatQuantity(instrument, asQuantity(1)),
    minimumQuantity: formatQuantity(instrument, instrument.minimumQuantity),
    multiplier: isInverse(instrument) ? null : String(instrument.multiplier),
    inverse: isInverse(instrument),
    underlying,
    expiry,
    strike: priceOr(instrument, instrument.strike),
    right,
    venueOrderTypes: venueOrderTypes(venue, kind),
    zone: VENUES[venue].zone,
    session: VENUES[venue].session,
    margin: {
      overnight: share(instrument.margin.overnight),
      intraday: share(instrument.margin.intraday),
      maintenance: share(instrument.margin.maintenance),
    },
    fundamentals: instrument.fundamentals,
    listsOn: instrument.listsOn,
  };
}

export function presentQuote(instrument: Instrument, quote: Quote): ShapeOf<typeof market.quote> {
  const price = (value: Price | null): string | null => priceOr(instrument, value);
  const mark = markInHalves(quote);
  const { last, previousSettlement } = quote;
  const known = last !== null && previousSettlement !== null;
  return {
    instrument: quote.instrument,
    time: isoTime(quote.time),
    state: quote.state,
    bid: price(quote.bid),
    bidQuantity: quantityOr(instrument, quote.bidQuantity),
    ask: price(quote.ask),
    askQuantity: quantityOr(instrument, quote.askQuantity),
    last: price(last),
    lastQuantity: quantityOr(instrument, quote.lastQuantity),
    lastTime: isoOrNull(quote.lastTime),
    mark: mark === null ? null : formatHalves(instrument, mark),
    open: price(quote.open),
    high: price(quote.high),
    low: price(quote.low),
    volume: formatQuantity(instrument, quote.volume),
    vwap: vwapText(instrument, quote.turnover, quote.dayVolume),
    previousSettlement: price(previousSettlement),
    change: known ? formatScaled(BigInt(last - previousSettlement), instrument.priceDecimals) : null,
    changePercent: known ? changePercent(last, previousSettlement) : null,
    priceLimits: { lower: price(quote.priceLimits.lower), upper: price(quote.priceLimits.upper) },
  };
}

export function presentDepth(instrument: Instrument, depth: DepthView, levels: number, limits: Quote['priceLimits']): ShapeOf<typeof market.depth> {
  const side = (of: readonly DepthLevel[]): ShapeOf<typeof market.depth>['bids'] => {
    let total = NO_QUANTITY;
    return of.slice(0, levels).map(({ price, quantity, orders }) => {
      total = asQuantity(total + quantity);
      return { price: formatPrice(instrument, price), quantity: formatQuantity(instrument, quantity), orders, total: formatQuantity(instrument, total) };
    });
  };
  return {
    instrument: depth.instrument,
    time: isoTime(depth.time),
    bids: side(depth.bids),
    asks: side(depth.asks),
    priceLimits: { lower: priceOr(instrument, limits.lower), upper: priceOr(instrument, limits.upper) },
  };
}

export const presentPrint = (instrument: Instrument, print: Print): ShapeOf<typeof market.trade> => ({
  seq: print.seq,
  time: isoTime(print.time),
  instrument: print.instrument,
  side: print.side,
  price: formatPrice(instrument, print.price),
  quantity: formatQuantity(instrument, print.quantity),
});

export const presentNews = ({ seq, time, instrument, text }: Headline): ShapeOf<typeof market.news> => ({ seq, time: isoTime(time), instrument, text });

export const presentBar = (instrument: Instrument, bar: Bar): ShapeOf<typeof market.bar> => ({
  time: isoTime(bar.time),
  open: formatPrice(instrument, bar.open),
  high: formatPrice(instrument, bar.high),
  low: formatPrice(instrument, bar.low),
  close: formatPrice(instrument, bar.close),
  volume: formatQuantity(instrument, bar.volume),
});

export const presentClock = (clock: VenueClock): ShapeOf<typeof market.clock> => ({
  ...clock,
  time: isoTime(clock.time),
  tapeEndsAt: isoOrNull(clock.tapeEndsAt),
});

export const presentLink = (link: DeskLink): ShapeOf<typeof market.link> => ({
  broker: link.broker,
  data: link.data,
  since: isoTime(link.since),
  brokerSince: isoTime(link.brokerSince),
  dataSince: isoTime(link.dataSince),
});

/** A row of a live list; its measure in the words of what the list orders by. */
export function presentLiveRow(instrument: Instrument, name: LiveListName, row: { figures: DayFigures; measure: number }): Record<string, unknown> {
  const { figures, measure } = row;
  const { last, previousSettlement } = figures;
  const known = last !== null && previousSettlement !== null;
  return {
    instrument: figures.instrument,
    last: priceOr(instrument, last),
    change: known ? formatScaled(BigInt(last - previousSettlement), instrument.priceDecimals) : null,
    changePercent: known ? changePercent(last, previousSettlement) : null,
    volume: formatQuantity(instrument, figures.volume),
    measure: measureText(name, measure, VENUES[instrument.venue].zone),
    asOf: isoTime(figures.asOf),
    live: figures.live,
  };
}

function measureText(name: LiveListName, measure: number, zone: string): string {
  switch (name) {
    case 'risers':
    case 'fallers':
    case 'gaps up':
    case 'gaps down':
      return `${(measure * 100).toFixed(2)} %`;
    case 'most active':
      return measure.toFixed(0);
    case 'unusually active':
      return `${measure.toFixed(1)} ×`;
    case 'new highs':
    case 'new lows':
    case 'halted':
      return localClock(zone, measure).slice(0, 5);
    default:
      return name satisfies never;
  }
}
