import type { Instrument } from '../core/instrument/index.ts';
import { dayStart, expiryTime, gtcEnd, nextTradingDay, tradingDay, type BookOrder, type StopOrder } from '../core/market/index.ts';
import {
  firstStop,
  isRestOnly,
  limitPriceOf,
  priceLimitProblems,
  refusalText,
  remainingQuantity,
  restOnlyProblem,
  stopPriceOf,
  stopProblem,
  triggerOf,
  type MarketView,
  type Order,
  type OrderTerms,
} from '../core/orders/index.ts';
import type { Listing } from './listing.ts';

/** Why the venue does not take these terms, or null. */
export function problemWith(order: Order, terms: OrderTerms, listing: Listing): string | null {
  const { book, instrument } = listing;
  const view: MarketView = { state: book.state, bid: book.best('bid'), ask: book.best('ask'), last: book.last, priceLimits: book.limits };
  const outside = priceLimitProblems(terms, order.side, instrument, view.priceLimits);
  if (outside.length > 0) return outside.map(({ message }) => message).join('; ');
  const stop = terms.type === 'trailing-stop' ? firstStop(terms, order.side, instrument, view) : terms;
  const refusal = (order.triggeredAt === null ? stopProblem(stop, order.side, instrument, view) : null) ?? restOnlyProblem(terms, order.side, instrument, view);
  return refusal ? refusalText(refusal) : null;
}

/** When terms end by themselves. No order outlives its instrument. */
export function endWithin(terms: OrderTerms, listing: Listing, now: number): number | null {
  const end = endOf(terms, listing, now);
  const last = expiryTime(listing.instrument);
  return end === null || last === null ? end : Math.min(end, last);
}

function endOf({ lifetime }: OrderTerms, listing: Listing, now: number): number | null {
  const { venue } = listing.instrument;
  switch (lifetime.kind) {
    case 'day': {
      const over = listing.openedToday && listing.book.state === 'closed';
      const day = tradingDay(venue, now);
      return dayStart(venue, nextTradingDay(venue, over ? nextTradingDay(venue, day) : day));
    }
    case 'gtc':
      return gtcEnd(venue, now);
    case 'gtd':
      return lifetime.until;
    case 'ioc':
    case 'fok':
      return null;
    default:
      return lifetime satisfies never;
  }
}

/** An order as its book takes it: one that waits for its trigger, or one that is in the market. */
export function entryOf(order: Order, instrument: Instrument): BookOrder | StopOrder {
  const { terms } = order;
  const limit = order.triggeredAt !== null && terms.type === 'stop' ? null : limitPriceOf(terms, order.side, instrument);
  const entry: BookOrder = {
    id: order.id,
    side: order.side,
    limit,
    timeInForce: terms.lifetime.kind,
    restOnly: isRestOnly(terms),
    remaining: remainingQuantity(order),
  };
  const waits = (terms.type === 'stop' || terms.type === 'stop-limit' || terms.type === 'trailing-stop') && order.triggeredAt === null;
  if (!waits) return entry;
  return { ...entry, stopPrice: stopPriceOf(terms), triggerOn: triggerOf(terms), trail: terms.type === 'trailing-stop' ? terms.trail : null, best: null };
}

/** Whether two entries of a book are one and the same but for what remains of them. A trailing stop stands where it went. */
export function sameEntry(a: BookOrder | StopOrder, b: BookOrder | StopOrder): boolean {
  if (a.side !== b.side || a.limit !== b.limit || a.timeInForce !== b.timeInForce || a.restOnly !== b.restOnly) return false;
  const [stopA, stopB] = ['triggerOn' in a ? a : null, 'triggerOn' in b ? b : null];
  if (stopA === null || stopB === null) return stopA === stopB;
  if (stopA.triggerOn !== stopB.triggerOn || trailText(stopA) !== trailText(stopB)) return false;
  return stopA.trail !== null || stopA.stopPrice === stopB.stopPrice;
}

const trailText = ({ trail }: StopOrder): string => (trail === null ? '' : Object.values(trail).join(' '));
