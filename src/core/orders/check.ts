import { formatPrice, formatQuantity, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import type { MarketState, PriceLimits, Side } from '../market/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import type { OrderRole, OrderTerms } from './order.ts';
import { invalid, type Refusal } from './refusal.ts';

/** What an order is checked against: the market as known where the check is made. */
export interface MarketView {
  readonly state: MarketState;
  readonly bid: Price | null;
  readonly ask: Price | null;
  readonly last: Price | null;
  readonly priceLimits: PriceLimits;
}

/**
 * A buy stop must be above the ask, a sell stop below the bid (or the price it is triggered on), else it would
 * trigger at once; against the last trade where that side is empty; not at all where there is neither.
 *
 * @returns null where it is legal
 */
export function stopProblem(terms: OrderTerms, side: Side, instrument: Instrument, market: MarketView): Refusal | null {
  if (terms.stopPrice === null) return null;
  const source = terms.triggerOn === 'last' ? (side === 'buy' ? 'ask' : 'bid') : terms.triggerOn;
  const against = market[source] ?? market.last;
  if (against === null) return null;
  const legal = side === 'buy' ? terms.stopPrice > against : terms.stopPrice < against;
  if (legal) return null;
  const name = market[source] === null ? 'last trade' : source;
  const stop = formatPrice(instrument, terms.stopPrice);
  return {
    kind: 'validation',
    errors: [
      {
        path: '/stopPrice',
        message: `a ${side} stop at ${stop} must be ${side === 'buy' ? 'above' : 'below'} the ${name}, ${formatPrice(instrument, against)}; a limit order is legal at that price`,
      },
    ],
    suggestion: { type: 'limit', limitPrice: stop },
  };
}

/** True where a limit order would trade at once against the best opposite price. */
export function wouldTrade(terms: Pick<OrderTerms, 'type' | 'limitPrice'>, side: Side, market: MarketView): boolean {
  if (terms.type !== 'limit' || terms.limitPrice === null || market.state !== 'open') return false;
  const best = side === 'buy' ? market.ask : market.bid;
  return best !== null && (side === 'buy' ? best <= terms.limitPrice : best >= terms.limitPrice);
}

export function restOnlyProblem(terms: OrderTerms, side: Side, instrument: Instrument, market: MarketView): Refusal | null {
  if (!terms.restOnly || !wouldTrade(terms, side, market)) return null;
  const best = side === 'buy' ? market.ask : market.bid;
  return invalid('/limitPrice', `would trade at once against ${formatPrice(instrument, best ?? 0)} and was asked only to rest`);
}

export interface Effect {
  readonly reduceOnly: boolean;
  readonly opening: boolean;
  readonly quantity: Quantity;
  readonly role: OrderRole;
}

/**
 * Whether an order reduces the position or opens, by exact rule *Orders* 2.
 *
 * @param position signed quantity held; other working orders don't count
 */
export function effectOnPosition(
  request: { side: Side; quantity: Quantity; reduceOnly?: boolean; crossesZero?: boolean },
  position: Quantity,
  instrument: Instrument,
): Result<Effect, Refusal> {
  const { side, quantity } = request;
  const held = Math.abs(position);
  const against = position !== 0 && (side === 'sell') === position > 0;
  const opens = (reduceOnly: boolean): Result<Effect, Refusal> => accepted({ reduceOnly, opening: true, quantity, role: 'entry' });
  const reduces = (size: Quantity): Result<Effect, Refusal> => accepted({ reduceOnly: true, opening: false, quantity: size, role: 'close' });
  const say = (size: Quantity): string => formatQuantity(instrument, size);

  if (instrument.kind === 'spot' && side === 'sell' && quantity > Math.max(0, position))
    return refused({
      kind: 'validation',
      errors: [
        { path: '/quantity', message: `at most ${say(Math.max(0, position))} can be sold, what was bought here`, nearest: position > 0 ? [say(position)] : [] },
      ],
      ...(position > 0 ? { suggestion: { reduce: { quantity: say(position) }, cross: null } } : {}),
    });
  if (request.reduceOnly === true) {
    if (position === 0) return refused({ kind: 'conflict', detail: `There is no position in ${instrument.id} to reduce.` });
    if (!against)
      return refused(invalid('/reduceOnly', `a ${side} does not reduce a ${position > 0 ? 'long' : 'short'} position; ${position > 0 ? 'sell' : 'buy'} does`));
    return reduces(Math.min(quantity, held));
  }
  if (!against) return opens(false);
  if (quantity <= held) return request.reduceOnly === false ? opens(false) : reduces(quantity);
  if (request.crossesZero) return opens(false);
  const over = say(quantity - held);
  return refused({
    kind: 'validation',
    errors: [
      {
        path: '/quantity',
        message: `closes ${say(held)}, opens ${over} ${side === 'sell' ? 'short' : 'long'}; say crossesZero to mean that, or ${say(held)} to close`,
        nearest: [say(held)],
      },
    ],
    suggestion: { reduce: { quantity: say(held) }, cross: { crossesZero: true } },
  });
}
