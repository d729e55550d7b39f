import type { Price, Quantity } from '../instrument/index.ts';
import type { MarketView } from '../orders/index.ts';
import type { Market } from '../portfolio/index.ts';
import type { Asked } from './entries.ts';
import type { Working } from './state.ts';

/** A displayed price and how much of it. */
export interface BookLevel {
  readonly price: Price;
  readonly quantity: Quantity;
}

/** The visible book, best first. */
export interface VisibleBook {
  readonly bids: readonly BookLevel[];
  readonly asks: readonly BookLevel[];
}

export type BrokerLinkState = 'up' | 'down' | 'reconciling';

/** All that a decision may look at besides the account's own state. */
export interface Facts extends Market {
  /** Market time in milliseconds. */
  readonly now: number;
  readonly link: BrokerLinkState;
  readonly data: 'up' | 'down';
  /** The account's trader has agreed to what it means that exits are held here. */
  readonly consent: boolean;
  /** The market of an instrument; only of those the decision {@link Needs}. */
  view(instrument: string): MarketView;
  book(instrument: string): VisibleBook;
  /** What a client order id was used for, if it was. */
  asked(clientOrderId: string): { readonly orderId: string; readonly asked: Asked } | null;
  /** An order that no longer works. */
  past(orderId: string): Working | null;
  /** Where a following or trailing order stands now, where that is known better than from its order. */
  standing(orderId: string): Price | null;
  /** The prices of the trades in an instrument after a time, oldest first; only of those the decision {@link Needs}. */
  tradesAfter(instrument: string, after: number): readonly Price[];
}

/** What must be known before a decision can be made. */
export interface Needs {
  /** Instruments whose quotes, and through them marks, are looked at. */
  readonly quotes: ReadonlySet<string>;
  /** Instruments whose visible book is looked at. */
  readonly books: readonly string[];
  readonly clientOrderIds: readonly string[];
  /** Orders that may no longer be working. */
  readonly orders: readonly string[];
  /** Instruments whose trades are looked at, from the earliest time on that something there asks for. */
  readonly trades: ReadonlyMap<string, number>;
}

export const NO_NEEDS: Needs = { quotes: new Set(), books: [], clientOrderIds: [], orders: [], trades: new Map() };
