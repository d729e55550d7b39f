import {
  addTicks,
  formatPrice,
  formatQuantity,
  isOnGrid,
  isTradable,
  nearestOnGrid,
  parsePrice,
  parseQuantity,
  venueOrderTypes,
  type Instrument,
  type OrderType,
  type Price,
  type Quantity,
} from '../instrument/index.ts';
import { formatScaled, parseScaled } from '../number/index.ts';
import { expiryTime, type PriceLimits, type Side, type TriggerSource } from '../market/index.ts';
import type { Product } from '../portfolio/index.ts';
import type { OrderTerms, TimeInForce } from './order.ts';
import type { FieldProblem } from './refusal.ts';

/** An order request as it comes: decimal strings, its shape already checked by the schema. */
export interface OrderRequest {
  clientOrderId: string;
  account: string;
  instrument: string;
  side: Side;
  type: OrderType;
  quantity: string;
  limitPrice?: string;
  limitOffsetTicks?: number;
  stopPrice?: string;
  triggerOn?: TriggerSource;
  timeInForce?: TimeInForce;
  expiresAt?: string;
  heldBy?: 'venue' | 'here';
  product?: Product;
  reduceOnly?: boolean;
  crossesZero?: boolean;
  restOnly?: boolean;
  setup?: string;
}

/** How the price of an order is set: as asked, or pegged to the best opposite price, which may not exist yet. */
export type Pricing = 'as-asked' | 'pegged';

/** What a replace may change; absent fields stay. */
export type OrderChange = Partial<
  Pick<OrderRequest, 'type' | 'quantity' | 'limitPrice' | 'limitOffsetTicks' | 'stopPrice' | 'triggerOn' | 'timeInForce' | 'expiresAt' | 'restOnly'>
> & { version?: number; clientOrderId?: string };

const PRICE_FIELDS = ['limitPrice', 'limitOffsetTicks', 'stopPrice'] as const;
type PriceField = (typeof PRICE_FIELDS)[number];

const USED_BY: Readonly<Record<OrderType, readonly PriceField[]>> = {
  market: [],
  limit: ['limitPrice'],
  stop: ['stopPrice'],
  'stop-limit': ['stopPrice', 'limitPrice', 'limitOffsetTicks'],
};

type TermsText = Pick<
  OrderRequest,
  'type' | 'quantity' | 'limitPrice' | 'limitOffsetTicks' | 'stopPrice' | 'triggerOn' | 'timeInForce' | 'expiresAt' | 'restOnly'
>;

export interface ReadTerms {
  readonly terms: OrderTerms;
  readonly problems: readonly FieldProblem[];
}

/**
 * Reads and checks the terms of an order against its instrument: which fields its type takes, tick grid,
 * quantity step, day limits, time in force. All problems at once; `terms` count only without any.
 *
 * @param now market time in milliseconds, for `expiresAt`
 * @param pricing a pegged limit order may come without a limit price
 */
export function readTerms(request: TermsText, side: Side, instrument: Instrument, limits: PriceLimits, now: number, pricing: Pricing = 'as-asked'): ReadTerms {
  const problems: FieldProblem[] = [];
  const note = (path: string, message: string, nearest?: string[]): void => {
    problems.push(nearest?.length ? { path, message, nearest } : { path, message });
  };
  checkType(request, instrument, pricing, note);
  const expiry = expiryTime(instrument);
  if (expiry !== null && now >= expiry) note('/instrument', `${instrument.id} expired at ${new Date(expiry).toISOString()}`);
  const quantity = readQuantity(request.quantity, instrument, note);
  const stopPrice = request.stopPrice === undefined ? null : readPrice('/stopPrice', request.stopPrice, instrument, limits, note);
  let limitPrice = request.limitPrice === undefined ? null : readPrice('/limitPrice', request.limitPrice, instrument, limits, note);
  const offset = request.limitOffsetTicks ?? null;
  if (request.type === 'stop-limit' && offset !== null && stopPrice !== null && problems.length === 0)
    limitPrice = offsetLimit(instrument, side, stopPrice, offset);
  const timeInForce = request.timeInForce ?? 'day';
  const expiresAt = readExpiry(request, timeInForce, now, note);
  if ((timeInForce === 'ioc' || timeInForce === 'fok') && request.type !== 'market' && request.type !== 'limit')
    note('/timeInForce', `${timeInForce} goes with market and limit orders only; a ${request.type} order takes day, gtc or gtd`);
  if (request.restOnly && request.type !== 'limit') note('/restOnly', 'only a limit order can be asked to rest');
  if (request.restOnly && (timeInForce === 'ioc' || timeInForce === 'fok')) note('/restOnly', `a ${timeInForce} order never rests`);
  return {
    problems,
    terms: {
      type: request.type,
      quantity,
      limitPrice,
      limitOffsetTicks: offset,
      stopPrice,
      triggerOn: request.triggerOn ?? 'last',
      timeInForce,
      expiresAt,
      restOnly: request.restOnly ?? false,
    },
  };
}

type Note = (path: string, message: string, nearest?: string[]) => void;

function checkType(request: TermsText, instrument: Instrument, pricing: Pricing, note: Note): void {
  const takes = venueOrderTypes(instrument.venue, instrument.kind);
  if (!isTradable(instrument)) note('/instrument', `${instrument.id} is an index and can't be traded`);
  else if (!takes.includes(request.type))
    note('/type', `${instrument.venue} takes no ${request.type} orders for ${instrument.id}; accepted: ${takes.join(', ')}`);
  const used = USED_BY[request.type];
  for (const field of PRICE_FIELDS) if (request[field] !== undefined && !used.includes(field)) note(`/${field}`, `is not used by a ${request.type} order`);
  if (used.includes('stopPrice') && request.stopPrice === undefined) note('/stopPrice', `is needed by a ${request.type} order`);
  if (request.type === 'limit' && request.limitPrice === undefined && pricing !== 'pegged') note('/limitPrice', 'is needed by a limit order');
  if (request.type === 'stop-limit') {
    const given = [request.limitPrice, request.limitOffsetTicks].filter((value) => value !== undefined).length;
    if (given !== 1) note(given === 0 ? '/limitPrice' : '/limitOffsetTicks', 'a stop-limit order takes exactly one of limitPrice and limitOffsetTicks');
  }
}

function readQuantity(text: string, instrument: Instrument, note: Note): Quantity {
  const value = parseQuantity(instrument, text);
  const step = formatQuantity(instrument, 1);
  if (value === null) {
    note('/quantity', `must be a multiple of ${step}`, nearestQuantities(text, instrument));
    return 0;
  }
  if (value < instrument.minimumQuantity)
    note('/quantity', `must be at least ${formatQuantity(instrument, instrument.minimumQuantity)}`, [formatQuantity(instrument, instrument.minimumQuantity)]);
  return value;
}

function nearestQuantities(text: string, instrument: Instrument): string[] {
  const fine = parseScaled(text, 18);
  if (fine === null || fine <= 0n) return [];
  const step = 10n ** BigInt(18 - instrument.quantityDecimals);
  const below = fine / step;
  return [below, below + 1n].filter((n) => n >= BigInt(instrument.minimumQuantity)).map((n) => formatScaled(n, instrument.quantityDecimals, 0));
}

function readPrice(path: string, text: string, instrument: Instrument, limits: PriceLimits, note: Note): Price | null {
  const value = parsePrice(instrument, text);
  const say = (prices: Price[]): string[] => prices.map((price) => formatPrice(instrument, price));
  if (value === null || value <= 0 || !isOnGrid(instrument, value)) {
    const fine = parseScaled(text, 18);
    const unit = 10n ** BigInt(18 - instrument.priceDecimals);
    const floor = fine === null || fine <= 0n ? null : Number(fine / unit);
    if (floor === null) note(path, 'must be a price above 0');
    else if (value !== null) note(path, `${text} is off the tick grid`, say(nearestOnGrid(instrument, value)));
    else
      note(path, `${text} is off the tick grid`, say([...new Set([...nearestOnGrid(instrument, floor), ...nearestOnGrid(instrument, floor + 1)])].slice(0, 2)));
    return null;
  }
  if (limits.lower !== null && value < limits.lower) note(path, `is below the day's lower limit ${formatPrice(instrument, limits.lower)}`, say([limits.lower]));
  if (limits.upper !== null && value > limits.upper) note(path, `is above the day's upper limit ${formatPrice(instrument, limits.upper)}`, say([limits.upper]));
  return value;
}

function readExpiry(request: TermsText, timeInForce: TimeInForce, now: number, note: Note): number | null {
  if (request.expiresAt === undefined) {
    if (timeInForce === 'gtd') note('/expiresAt', 'is needed by gtd');
    return null;
  }
  if (timeInForce !== 'gtd') {
    note('/expiresAt', 'goes with gtd only');
    return null;
  }
  const time = Date.parse(request.expiresAt);
  if (!(time > now)) note('/expiresAt', `must be later than ${new Date(now).toISOString()}`);
  return time;
}

/** The limit price of a stop-limit order with an offset: a buy's that far above the stop price, a sell's below. */
export function offsetLimit(instrument: Instrument, side: Side, stopPrice: Price, ticks: number): Price {
  return addTicks(instrument, stopPrice, side === 'buy' ? ticks : -ticks);
}

/** One text for requests that mean the same, whatever their spelling. */
export function fingerprint(request: OrderRequest): string {
  const defaults = { triggerOn: 'last', timeInForce: 'day', heldBy: 'venue', product: 'overnight', restOnly: false, crossesZero: false };
  const filled: Record<string, unknown> = { ...defaults, ...request };
  for (const field of ['quantity', 'limitPrice', 'stopPrice']) {
    const value = filled[field];
    if (typeof value === 'string') filled[field] = formatScaled(parseScaled(value, 18) ?? 0n, 18, 0);
  }
  return JSON.stringify(
    Object.keys(filled)
      .sort()
      .map((key) => [key, filled[key]]),
  );
}
