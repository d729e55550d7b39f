import type { BrokerLinkState, Facts, Needs, PriceRow, VisibleBook, Working } from '../core/desk/index.ts';
import type { Price } from '../core/instrument/index.ts';
import type { MarketData } from './market-data.ts';
import type { MarketTrade } from '../core/market/index.ts';
import type { Prices } from './outside.ts';
import type { Projector } from './projector.ts';

/** What a decision looks at, and the orders among it that no longer work. */
export type GatheredFacts = Facts & { readonly pastOrders: ReadonlyMap<string, Working> };

interface Sources {
  readonly market: MarketData;
  readonly prices: Prices;
  readonly tables: Projector;
  readonly link: () => BrokerLinkState;
  readonly data: () => 'up' | 'down';
  readonly consent: () => boolean;
  /** The market of an instrument as its newest row says it, where that is newer than its quote. */
  readonly seen: (instrument: string) => PriceRow | undefined;
  readonly standing: (orderId: string) => Price | null;
}

/** Levels of the visible book that an order is valued by. */
const DEPTH = 100;
const NO_BOOK: VisibleBook = { bids: [], asks: [] };

/** Fetches what a decision needs. Nothing is awaited after it: the decision is made on what is true in that moment. */
export async function gatherFacts(sources: Sources, account: string, needs: Needs): Promise<GatheredFacts> {
  const { market, prices, tables } = sources;
  const pastOrders = new Map<string, Working>();
  const asked = new Map<string, Awaited<ReturnType<Projector['askedFor']>>>();
  const books = new Map<string, VisibleBook>();
  const trades = new Map<string, readonly MarketTrade[]>();
  const waits: Promise<unknown>[] = [];
  if (needs.quotes.size > 0) waits.push(market.ensure([...needs.quotes]));
  for (const id of needs.books) waits.push(prices.depth(id, DEPTH).then((book) => books.set(id, book)));
  for (const id of needs.clientOrderIds) waits.push(tables.askedFor(account, id).then((found) => asked.set(id, found)));
  for (const id of needs.orders) waits.push(tables.order(id).then((found) => found && pastOrders.set(id, found)));
  for (const [id, after] of needs.trades) waits.push(prices.tradesSince(id, after + 1).then((found) => trades.set(id, found)));
  await Promise.all(waits);
  return {
    now: market.time,
    link: sources.link(),
    data: sources.data(),
    consent: sources.consent(),
    instrument: (id) => market.instrument(id),
    mark: (id) => sources.seen(id)?.mark ?? market.mark(id),
    view: (id) => {
      const row = sources.seen(id);
      const view = market.view(id);
      return row ? { ...view, state: row.state, bid: row.bid, ask: row.ask, last: row.last } : view;
    },
    book: (id) => books.get(id) ?? NO_BOOK,
    asked: (id) => asked.get(id) ?? null,
    past: (id) => pastOrders.get(id) ?? null,
    standing: sources.standing,
    tradesAfter: (id, after) => (trades.get(id) ?? []).flatMap(({ time, price }) => (time > after ? [price] : [])),
    pastOrders,
  };
}
