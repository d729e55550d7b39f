import { asPrice, gridCeil, gridFloor, venueOrderTypes, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { ghostAt, ghostRequest, type MarketView } from '../../core/orders/index.ts';
import type { Side } from '../../core/market/index.ts';
import { accepted, refused, type Result } from '../../core/result.ts';
import type { OrderWish } from './intent.ts';

/** The two stops of a breakout pair, the buying one first: the one that fills cancels the other. */
export type BreakoutPair = readonly [buy: OrderWish, sell: OrderWish];

interface Ask {
  readonly account: string;
  readonly instrument: Instrument;
  readonly quantity: Quantity;
  readonly market: MarketView;
}

/** The stops that a press at a price stands for: there, and as far away on the other side of the market. */
export function pairBounds(instrument: Instrument, price: Price, { bid, ask }: MarketView): { readonly high: Price; readonly low: Price } | null {
  if (bid === null || ask === null || (price >= bid && price <= ask)) return null;
  const mirrored = bid + ask - price;
  if (mirrored <= 0) return null;
  return { high: gridCeil(instrument, asPrice(Math.max(price, mirrored))), low: gridFloor(instrument, asPrice(Math.min(price, mirrored))) };
}

/**
 * A buy stop at `high` and a sell stop at `low`. Where the venue takes no stops they are held here.
 *
 * @returns in words why there is no such pair where a stop would not be legal
 */
export function breakoutPair(
  { account, instrument, quantity, market }: Ask,
  { high, low }: { readonly high: Price; readonly low: Price },
): Result<BreakoutPair, string> {
  const types = venueOrderTypes(instrument.venue, instrument.kind);
  const here = !types.includes('stop') && !types.includes('stop-limit');
  const leg = (side: Side, price: Price): Result<OrderWish, string> => {
    const ghost = ghostAt({ instrument, side, price, quantity, market, want: 'stop', here });
    return ghost.ok ? accepted({ account, ...ghostRequest(ghost.value, instrument), ...(here ? { heldBy: 'here' as const } : {}) }) : ghost;
  };
  const buy = leg('buy', high);
  if (!buy.ok) return refused(buy.refusal);
  const sell = leg('sell', low);
  return sell.ok ? accepted([buy.value, sell.value]) : refused(sell.refusal);
}
