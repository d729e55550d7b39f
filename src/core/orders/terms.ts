import { addTicks, type Instrument, type OrderType, type Price, type Quantity } from '../instrument/index.ts';
import { tighter, trailedStop, type Side, type Trail, type TriggerSource } from '../market/index.ts';

export const TIMES_IN_FORCE = ['day', 'gtc', 'gtd', 'ioc', 'fok'] as const;
export type TimeInForce = (typeof TIMES_IN_FORCE)[number];

/** How long an order lives: a time in force, and with gtd until when, in milliseconds. */
export type Lifetime = { readonly kind: Exclude<TimeInForce, 'gtd'> } | { readonly kind: 'gtd'; readonly until: number };

/** The limit price of a stop-limit order: a price of its own, or ticks from the stop price that stick when that moves. */
export type StopLimit = { readonly by: 'price'; readonly price: Price } | { readonly by: 'offset'; readonly ticks: number };

/** How an order is priced, by its type; no field is there that the type has no use for. */
export type Pricing =
  | { readonly type: 'market' }
  | { readonly type: 'limit'; readonly limit: Price; readonly restOnly: boolean }
  /** A close where only limits are taken: a limit at the best opposite price that moves with it; null until there is one. */
  | { readonly type: 'following'; readonly limit: Price | null }
  | { readonly type: 'stop'; readonly stop: Price; readonly triggerOn: TriggerSource }
  | { readonly type: 'stop-limit'; readonly stop: Price; readonly limit: StopLimit; readonly triggerOn: TriggerSource }
  /** `stop` is the price it stands at, null before any; what was asked for holds until the trail is tighter. */
  | TrailingPricing;

/** The best price that a trailing stop which is held here has seen of what triggers it, and when. */
export interface TrailSeen {
  readonly best: Price;
  readonly at: number;
}

export interface TrailingPricing {
  readonly type: 'trailing-stop';
  readonly trail: Trail;
  readonly stop: Price | null;
  readonly triggerOn: TriggerSource;
  /** Where it is held here, once there was a price; the venue keeps its own. */
  readonly seen?: TrailSeen;
}

/** The part of an order that a change can touch. */
export type OrderTerms = Pricing & {
  /** The order's total, filled part included. */
  readonly quantity: Quantity;
  readonly lifetime: Lifetime;
};

/** A type of order as the world outside knows it. */
export const orderType = (terms: Pricing): OrderType => (terms.type === 'following' ? 'limit' : terms.type);

export const stopPriceOf = (terms: Pricing): Price | null => ('stop' in terms ? terms.stop : null);

export const triggerOf = (terms: Pricing): TriggerSource => ('triggerOn' in terms ? terms.triggerOn : 'last');

export const isRestOnly = (terms: Pricing): boolean => terms.type === 'limit' && terms.restOnly;

/** The limit price of an order, that of an offset worked out; null where it has none. */
export function limitPriceOf(terms: Pricing, side: Side, instrument: Instrument): Price | null {
  switch (terms.type) {
    case 'limit':
    case 'following':
      return terms.limit;
    case 'stop-limit':
      return terms.limit.by === 'price' ? terms.limit.price : offsetLimit(instrument, side, terms.stop, terms.limit.ticks);
    case 'market':
    case 'stop':
    case 'trailing-stop':
      return null;
    default:
      return terms satisfies never;
  }
}

/** The limit price of a stop-limit order with an offset: a buy's that far above the stop price, a sell's below. */
export const offsetLimit = (instrument: Instrument, side: Side, stop: Price, ticks: number): Price =>
  addTicks(instrument, stop, side === 'buy' ? ticks : -ticks);

/** The same terms with the price at which a following or trailing order stands now. */
export function standingAt(terms: OrderTerms, price: Price): OrderTerms {
  if (terms.type === 'following') return { ...terms, limit: price };
  return terms.type === 'trailing-stop' ? { ...terms, stop: price } : terms;
}

/** A trailing stop that is held here as it stands after a price of what triggers it; the same where that is no better than the best so far. */
export function trailedTo<T extends TrailingPricing>(terms: T, side: Side, instrument: Instrument, price: Price, at: number): T {
  const best = terms.seen?.best ?? null;
  if (best !== null && (side === 'sell' ? price <= best : price >= best)) return terms;
  return { ...terms, stop: tighter(side, terms.stop, trailedStop(instrument, side, terms.trail, price)), seen: { best: price, at } };
}

/** A trail in money is money for the quantity that the order has when it is accepted. */
export const trailFor = (trail: Trail, quantity: Quantity): Trail => (trail.unit === 'money' ? { ...trail, quantity } : trail);

/** The same terms for a quantity that the order is cut to before it goes. */
export const cutTo = (terms: OrderTerms, quantity: Quantity): OrderTerms =>
  terms.type === 'trailing-stop' ? { ...terms, quantity, trail: trailFor(terms.trail, quantity) } : { ...terms, quantity };
