import { formatPrice, formatQuantity, isOnGrid, asPrice, venueOrderTypes, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { Side } from '../market/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import { wouldTrade, type MarketView } from './check.ts';

/** The order that a press would send, and what it would do there. What it says is what is sent. */
export interface Ghost {
  readonly side: Side;
  readonly type: 'limit' | 'stop' | 'stop-limit';
  readonly price: Price;
  readonly quantity: Quantity;
  /** A limit that rests is sent with restOnly, so that the venue keeps the promise too. */
  readonly effect: 'rests' | 'fills now';
  readonly words: string;
}

export interface GhostAsk {
  readonly instrument: Instrument;
  readonly side: Side;
  readonly price: Price;
  readonly quantity: Quantity;
  readonly market: MarketView;
  /** `either` takes the one that makes sense at the price: beyond the market a stop, else a limit. */
  readonly want: 'limit' | 'stop' | 'either';
  /** It would be held here, where every type is possible. */
  readonly here?: boolean;
  /** What a limit through the market would take, best first. */
  readonly levels?: readonly { readonly price: Price; readonly quantity: Quantity }[];
}

/** The ghost at a price, or in words why there is none. */
export function ghostAt(ask: GhostAsk): Result<Ghost, string> {
  const { instrument, side, price, quantity, market, want, here = false } = ask;
  const say = (at: Price): string => formatPrice(instrument, at);
  const opposite = side === 'buy' ? market.ask : market.bid;
  if (!isOnGrid(instrument, price)) return refused(`${say(price)} is off the tick grid`);
  if (quantity <= 0) return refused('no size is set');
  const { lower, upper } = market.priceLimits;
  if ((lower !== null && price < lower) || (upper !== null && price > upper)) return refused(`${say(price)} is outside the day's limits`);
  const beyond = opposite !== null && (side === 'buy' ? price > opposite : price < opposite);
  const stop = want === 'stop' || (want === 'either' && beyond);
  const size = formatQuantity(instrument, quantity);
  const verb = side === 'buy' ? 'buys' : 'sells';
  if (stop) {
    const types = venueOrderTypes(instrument.venue, instrument.kind);
    const type = here || types.includes('stop') ? 'stop' : types.includes('stop-limit') ? 'stop-limit' : null;
    if (type === null) return refused(`${instrument.venue} takes no stop orders for ${instrument.id}`);
    if (opposite === null) return refused(`there is no ${side === 'buy' ? 'ask' : 'bid'} to tell a stop from`);
    if (!beyond) return refused(`a ${side} stop must be ${side === 'buy' ? 'above' : 'below'} ${say(opposite)}; a limit is legal here`);
    const then = type === 'stop' ? 'then market' : `then limit ${say(price)}`;
    return accepted({ side, type, price, quantity, effect: 'rests', words: `${verb} ${size} on a stop at ${say(price)}, ${then} · rests` });
  }
  if (want === 'either' && opposite === null) return refused('no quote on that side');
  if (!wouldTrade(price, side, market)) {
    return accepted({ side, type: 'limit', price, quantity, effect: 'rests', words: `${verb} ${size} at ${say(price)} · rests` });
  }
  const about = aboutPrice(ask);
  const at = about === null ? '' : `: ${size} at about ${say(about)}`;
  return accepted({ side, type: 'limit', price, quantity, effect: 'fills now', words: `${verb} ${side === 'buy' ? 'up' : 'down'} to ${say(price)} now${at}` });
}

/** The price, rounded to a unit, at which the visible depth would fill it. */
function aboutPrice({ side, price, quantity, levels = [], market }: GhostAsk): Price | null {
  let left: number = quantity;
  let sum = 0;
  for (const level of levels) {
    if (left === 0 || (side === 'buy' ? level.price > price : level.price < price)) break;
    const taken = Math.min(left, level.quantity);
    sum += taken * level.price;
    left -= taken;
  }
  if (left === quantity) return side === 'buy' ? market.ask : market.bid;
  return asPrice(Math.round(sum / (quantity - left)));
}

/** True where two ghosts say the same: side, type, price, quantity and effect. */
export const sameGhost = (a: Ghost, b: Ghost): boolean =>
  a.side === b.side && a.type === b.type && a.price === b.price && a.quantity === b.quantity && a.effect === b.effect;

/** The request that a ghost stands for. A stop-limit is sent with an offset of nothing: its limit goes with its stop. */
export function ghostRequest(ghost: Ghost, instrument: Instrument) {
  const price = formatPrice(instrument, ghost.price);
  const base = { instrument: instrument.id, side: ghost.side, quantity: formatQuantity(instrument, ghost.quantity), type: ghost.type } as const;
  switch (ghost.type) {
    case 'limit':
      return { ...base, limitPrice: price, ...(ghost.effect === 'rests' ? { restOnly: true } : {}) };
    case 'stop':
      return { ...base, stopPrice: price };
    case 'stop-limit':
      return { ...base, stopPrice: price, limitOffsetTicks: 0 };
    default:
      return ghost.type satisfies never;
  }
}
