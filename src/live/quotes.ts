import { NO_QUANTITY, parseQuantity, type Instrument, type Price, type Quantity } from '../core/instrument/index.ts';
import type { MarketView } from '../core/orders/index.ts';
import { instrumentOf, priceOf } from './instruments.ts';
import type { ApiDepth, ApiQuote } from './shapes.ts';
import { follow } from './stream.ts';

/** A quote with its prices in the instrument's units beside the API's own text. */
export interface LiveQuote extends MarketView {
  readonly text: ApiQuote;
}

const latest = new Map<string, LiveQuote>();
const followers = new Map<string, number>();

function read(instrument: Instrument, text: ApiQuote): LiveQuote {
  const { lower, upper } = text.priceLimits;
  return {
    text,
    state: text.state,
    bid: priceOf(instrument, text.bid),
    ask: priceOf(instrument, text.ask),
    last: priceOf(instrument, text.last),
    priceLimits: { lower: priceOf(instrument, lower), upper: priceOf(instrument, upper) },
  };
}

/** The newest quote this window has heard, as long as somebody follows it. */
export const quoteOf = (id: string): LiveQuote | undefined => latest.get(id);

/** Follows an instrument's quote; the listener writes its own cell. */
export function followQuote(id: string, listener: (quote: LiveQuote) => void): () => void {
  const instrument = instrumentOf(id);
  if (!instrument) return () => undefined;
  const known = latest.get(id);
  const stop = follow<ApiQuote | null>(`quote:${id}`, (data) => {
    if (!data) return;
    let quote = latest.get(id);
    if (quote?.text !== data) latest.set(id, (quote = read(instrument, data)));
    listener(quote);
  });
  followers.set(id, (followers.get(id) ?? 0) + 1);
  if (known) listener(known);
  return () => {
    stop();
    const left = (followers.get(id) ?? 1) - 1;
    followers.set(id, left);
    // What nobody follows grows old: it is not known any more.
    if (left === 0) latest.delete(id);
  };
}

export interface LiveLevel {
  readonly price: Price;
  readonly quantity: Quantity;
  readonly text: string;
  readonly orders: number | null;
}

export interface LiveDepth {
  readonly bids: ReadonlyMap<Price, LiveLevel>;
  readonly asks: ReadonlyMap<Price, LiveLevel>;
  readonly largest: number;
}

const readDepths = new WeakMap<ApiDepth, LiveDepth>();

/** Follows an instrument's depth by price. */
export function followDepth(id: string, listener: (depth: LiveDepth) => void): () => void {
  const instrument = instrumentOf(id);
  if (!instrument) return () => undefined;
  return follow<ApiDepth | null>(`depth:${id}`, (data) => {
    if (!data) return;
    // Several panes of one window show the same depth: it is read once.
    const known = readDepths.get(data);
    if (known) {
      listener(known);
      return;
    }
    let largest = 1;
    const side = (levels: ApiDepth['bids']): Map<Price, LiveLevel> => {
      const found = new Map<Price, LiveLevel>();
      for (const level of levels) {
        const price = priceOf(instrument, level.price);
        const quantity = parseQuantity(instrument, level.quantity) ?? NO_QUANTITY;
        if (price === null) continue;
        if (found.size < 20) largest = Math.max(largest, quantity);
        found.set(price, { price, quantity, text: level.quantity, orders: level.orders });
      }
      return found;
    };
    const bids = side(data.bids);
    const depth = { bids, asks: side(data.asks), largest };
    readDepths.set(data, depth);
    listener(depth);
  });
}
