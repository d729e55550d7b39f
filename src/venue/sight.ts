import { aggregate, barStart, type Bar, type DayFigures, type MarketTrade } from '../core/market/index.ts';
import type { Exchange } from './exchange.ts';
import type { BarsRequest, DepthView, Headline, MarketUpdate } from './messages.ts';
import type { Listing } from './listing.ts';

const DEEPEST = 100;

interface Span {
  readonly instrument: string;
  /** Both inclusive. */
  readonly from: number;
  readonly to: number;
}

/** What can be seen of the market by those who ask. */
export interface Sight {
  quotes(ids: readonly string[]): MarketUpdate['quotes'];
  depth(id: string, levels: number): DepthView;
  bars(request: BarsRequest): Bar[];
  prints(id: string): Listing['prints'];
  tradesBetween(span: Span): MarketTrade[];
  headlines(): readonly Headline[];
  survey(): DayFigures[];
}

const awake = (exchange: Exchange, id: string): Listing | null => (exchange.isAwake(id) ? exchange.listing(id) : null);

/** Trades of a span as they were; before those that are kept, each whole minute's high and low in its order. */
function tradesBetween(exchange: Exchange, { instrument, from, to }: Span): MarketTrade[] {
  const kept = awake(exchange, instrument)?.prints ?? [];
  const until = Math.min(to, (kept[0]?.time ?? to + 1) - 1);
  const minutes =
    until < from ? [] : exchange.source.bars({ instrument, interval: '1m', from, to: until, limit: Infinity }, awake(exchange, instrument), exchange.time);
  const whole = minutes.filter(({ time }) => time >= from && time + 60_000 <= until + 1);
  const before = whole.flatMap(({ time, high, low, close }) => [high, low, close].map((price) => ({ time, price })));
  return [...before, ...kept.filter(({ time }) => time >= from && time <= to).map(({ time, price }) => ({ time, price }))];
}

/** The market as it is. */
export const openSight = (exchange: Exchange): Sight => ({
  tradesBetween: (span) => tradesBetween(exchange, span),
  quotes: (ids) => exchange.quotes(ids),
  depth: (id, levels) => exchange.depth(id, levels),
  bars: (request) => exchange.source.bars(request, awake(exchange, request.instrument), exchange.time),
  prints: (id) => exchange.listing(id).prints,
  headlines: () => exchange.source.headlines(exchange.time),
  survey: () => exchange.survey(),
});

/**
 * The market as it was when the prices were cut off, however far it has gone on since. Quotes and depth of an
 * instrument that nobody looked at then are those of the first look; after a restart, those of the restart.
 *
 * @param cut when the prices were cut off, in market time
 */
export function cutSight(exchange: Exchange, cut: number): Sight {
  const open = openSight(exchange);
  const survey = exchange.survey();
  const quotes = new Map(exchange.awake().map((id) => [id, exchange.quotes([id])[0] as MarketUpdate['quotes'][number]]));
  const depths = new Map(exchange.awake().map((id) => [id, exchange.depth(id, DEEPEST)]));
  const once = <T>(kept: Map<string, T>, id: string, look: () => T): T => {
    const found = kept.get(id) ?? look();
    kept.set(id, found);
    return found;
  };
  const prints: Sight['prints'] = (id) => open.prints(id).filter((print) => print.time <= cut);
  const bars: Sight['bars'] = (request) => {
    const to = Math.min(request.to ?? Infinity, cut + 1);
    const items = open.bars({ ...request, to });
    const last = items[items.length - 1];
    const venue = exchange.instruments.get(request.instrument)?.venue;
    if (!last || !venue || barStart(venue, request.interval, cut) !== last.time) return items;
    // The bar in which the prices were cut off: its whole minutes, and the prints of its last one.
    const minute = barStart(venue, '1m', cut);
    const whole = request.interval === '1m' ? [] : open.bars({ ...request, interval: '1m', from: last.time, to: minute, limit: Infinity });
    const rest = exchange.isAwake(request.instrument) ? prints(request.instrument).filter((print) => print.time >= minute) : [];
    const known = aggregate(venue, [...whole, ...rest.map(({ price, quantity }) => ({ time: minute, open: price, high: price, low: price, close: price, volume: quantity }))], request.interval); // prettier-ignore
    return [...items.slice(0, -1), ...known];
  };
  return {
    quotes: (ids) => ids.map((id) => once(quotes, id, () => exchange.quotes([id])[0] as MarketUpdate['quotes'][number])),
    depth: (id, levels) => {
      const { bids, asks, ...rest } = once(depths, id, () => exchange.depth(id, DEEPEST));
      return { ...rest, bids: bids.slice(0, levels), asks: asks.slice(0, levels) };
    },
    bars,
    tradesBetween: (span) => tradesBetween(exchange, { ...span, to: Math.min(span.to, cut) }),
    prints,
    headlines: () => exchange.source.headlines(cut).filter(({ time }) => time <= cut),
    survey: () => survey,
  };
}
