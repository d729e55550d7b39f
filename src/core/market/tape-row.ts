import type { Price, Quantity } from '../instrument/index.ts';

export const MARKET_STATES = ['pre-open', 'open', 'halted', 'closed'] as const;
export type MarketState = (typeof MARKET_STATES)[number];

export type Side = 'buy' | 'sell';
export type BookSide = 'bid' | 'ask';

/** What happens in an instrument's market, from a tape or from the generated market alike. */
export type MarketEvent =
  | { readonly event: 'level'; readonly side: BookSide; readonly price: Price; readonly quantity: Quantity }
  | { readonly event: 'trade'; readonly side: Side; readonly price: Price; readonly quantity: Quantity }
  | { readonly event: 'state'; readonly state: MarketState }
  | { readonly event: 'settlement'; readonly price: Price }
  | { readonly event: 'price-limit'; readonly bound: 'lower' | 'upper'; readonly price: Price | null };

export interface PriceLimits {
  readonly lower: Price | null;
  readonly upper: Price | null;
}
