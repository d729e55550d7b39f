import { formatPrice, formatQuantity, sizeOf, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { tighter, trailedStop, type MarketState, type PriceLimits, type Side, type TriggerSource } from '../market/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import type { OrderRole } from './order.ts';
import { invalid, type FieldProblem, type Refusal } from './refusal.ts';
import { limitPriceOf, stopPriceOf, triggerOf, type OrderTerms, type Pricing } from './terms.ts';

/** What an order is checked against: the market as known where the check is made. */
export interface MarketView {
  readonly state: MarketState;
  readonly bid: Price | null;
  readonly ask: Price | null;
  readonly last: Price | null;
  readonly priceLimits: PriceLimits;
}

/** The price a stop is told from: that of its trigger, for `last` the side it would fill against; null where neither is known. */
function stopReference(side: Side, triggerOn: TriggerSource, market: MarketView): { name: string; price: Price } | null {
  const source = triggerOn === 'last' ? (side === 'buy' ? 'ask' : 'bid') : triggerOn;
  const price = market[source] ?? market.last;
  return price === null ? null : { name: market[source] === null ? 'last trade' : source, price };
}

/**
 * A buy stop must be above the ask, a sell stop below the bid (or the price it is triggered on), else it would
 * trigger at once; against the last trade where that side is empty; not at all where there is neither.
 *
 * @returns null where it is legal
 */
export function stopProblem(terms: Pricing, side: Side, instrument: Instrument, market: MarketView): Refusal | null {
  const stop = stopPriceOf(terms);
  const against = stop === null ? null : stopReference(side, triggerOf(terms), market);
  if (stop === null || against === null || (side === 'buy' ? stop > against.price : stop < against.price)) return null;
  const say = formatPrice(instrument, stop);
  const message = `a ${side} stop at ${say} must be ${side === 'buy' ? 'above' : 'below'} the ${against.name}, ${formatPrice(instrument, against.price)}; a limit order is legal at that price`;
  return { kind: 'validation', errors: [{ path: '/stopPrice', message }], suggestion: { type: 'limit', limitPrice: say } };
}

/** A trailing stop as it would stand at once: at the price that was asked for, or where its trail already puts it. */
export function firstStop<T extends Pricing & { readonly type: 'trailing-stop' }>(terms: T, side: Side, instrument: Instrument, market: MarketView): T {
  const best = market[terms.triggerOn];
  return best === null ? terms : { ...terms, stop: tighter(side, terms.stop, trailedStop(instrument, side, terms.trail, best)) };
}

/** True where a limit at a price would trade at once against the best opposite price. */
export function wouldTrade(limit: Price, side: Side, market: MarketView): boolean {
  if (market.state !== 'open') return false;
  const best = side === 'buy' ? market.ask : market.bid;
  return best !== null && (side === 'buy' ? best <= limit : best >= limit);
}

export function restOnlyProblem(terms: Pricing, side: Side, instrument: Instrument, market: MarketView): Refusal | null {
  if (terms.type !== 'limit' || !terms.restOnly || !wouldTrade(terms.limit, side, market)) return null;
  const best = side === 'buy' ? market.ask : market.bid;
  return invalid('/limitPrice', `would trade at once against ${best === null ? '–' : formatPrice(instrument, best)} and was asked only to rest`);
}

/** Prices of an order that lie outside the day's limits. */
export function priceLimitProblems(terms: OrderTerms, side: Side, instrument: Instrument, { lower, upper }: PriceLimits): FieldProblem[] {
  const prices = [
    ['/limitPrice', limitPriceOf(terms, side, instrument)],
    ['/stopPrice', stopPriceOf(terms)],
  ] as const;
  return prices.flatMap(([path, price]) => {
    const bound = price === null ? null : lower !== null && price < lower ? lower : upper !== null && price > upper ? upper : null;
    if (bound === null) return [];
    const at = formatPrice(instrument, bound);
    return [{ path, message: `is ${bound === lower ? 'below' : 'above'} the day's ${bound === lower ? 'lower' : 'upper'} limit ${at}`, nearest: [at] }];
  });
}

/** What an order is to the position. */
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
  request: { side: Side; quantity: Quantity; reduceOnly: boolean | null; crossesZero: boolean },
  position: Quantity,
  instrument: Instrument,
): Result<Effect, Refusal> {
  const { side, quantity } = request;
  const held = sizeOf(position);
  const against = position !== 0 && (side === 'sell') === position > 0;
  const opens = (): Result<Effect, Refusal> => accepted({ reduceOnly: false, opening: true, quantity, role: 'entry' });
  const reduces = (size: Quantity): Result<Effect, Refusal> => accepted({ reduceOnly: true, opening: false, quantity: size, role: 'close' });
  const say = (size: number): string => formatQuantity(instrument, size as Quantity);

  if (request.reduceOnly === true) {
    if (position === 0) return refused({ kind: 'conflict', detail: `There is no position in ${instrument.id} to reduce.` });
    if (!against)
      return refused(invalid('/reduceOnly', `a ${side} does not reduce a ${position > 0 ? 'long' : 'short'} position; ${position > 0 ? 'sell' : 'buy'} does`));
    return reduces(quantity < held ? quantity : held);
  }
  if (instrument.kind === 'spot' && side === 'sell' && quantity > Math.max(0, position)) return refused(oversold(say(Math.max(0, position)), position > 0));
  if (!against) return opens();
  if (quantity <= held) return request.reduceOnly === false ? opens() : reduces(quantity);
  if (request.crossesZero) return opens();
  const over = say(quantity - held);
  const message = `closes ${say(held)}, opens ${over} ${side === 'sell' ? 'short' : 'long'}; say crossesZero to mean that, or ${say(held)} to close`;
  return refused({
    kind: 'validation',
    errors: [{ path: '/quantity', message, nearest: [say(held)] }],
    suggestion: { reduce: { quantity: say(held) }, cross: { crossesZero: true } },
  });
}

/** More of a spot instrument would be sold than was bought here. */
export const oversold = (most: string, any: boolean): Refusal => ({
  kind: 'validation',
  errors: [{ path: '/quantity', message: `at most ${most} can be sold, what was bought here and no other order sells`, nearest: any ? [most] : [] }],
  ...(any ? { suggestion: { reduce: { quantity: most }, cross: null } } : {}),
});
