import { readExitPlan, type ExitPlan, type ExitPlanText } from '../exits/index.ts';
import {
  NO_QUANTITY,
  formatPrice,
  formatQuantity,
  isOnGrid,
  isTradable,
  nearestOnGrid,
  parsePrice,
  parseQuantity,
  asPrice,
  venueOrderTypes,
  type Instrument,
  type OrderType,
  type Price,
  type Quantity,
} from '../instrument/index.ts';
import { readTrail, type Side, type Trail, type TrailText, type TriggerSource } from '../market/index.ts';
import { formatScaled, parseScaled } from '../number/index.ts';
import type { Product } from '../portfolio/index.ts';
import { accepted, refused, type Result } from '../result.ts';
import { lifetimeProblem, unusedFields, type OrderChange } from './change.ts';
import type { Holder } from './order.ts';
import type { FieldProblem, Refusal } from './refusal.ts';
import { trailFor, type Lifetime, type OrderTerms, type Pricing, type TimeInForce } from './terms.ts';

/** What a trader asks for, in exact units: read once at the edge, or made by phrases, keys, baskets and plans. */
export interface OrderIntent {
  readonly clientOrderId: string;
  readonly account: string;
  readonly instrument: string;
  readonly side: Side;
  readonly terms: OrderTerms;
  readonly heldBy: Holder;
  readonly product: Product;
  /** Null where it was not said: it then follows from the position. */
  readonly reduceOnly: boolean | null;
  readonly crossesZero: boolean;
  readonly setup: string | null;
  readonly exitPlan: ExitPlan | null;
}

/** The terms of an order as they come: decimal strings, their shape already checked by the schema. */
export interface TermsText {
  type?: OrderType;
  quantity?: string;
  limitPrice?: string;
  limitOffsetTicks?: number;
  stopPrice?: string;
  trail?: TrailText;
  triggerOn?: TriggerSource;
  timeInForce?: TimeInForce;
  expiresAt?: string;
  restOnly?: boolean;
}

/** An order request as it comes. */
export interface OrderRequest extends TermsText {
  clientOrderId: string;
  account: string;
  instrument: string;
  side: Side;
  type: OrderType;
  quantity: string;
  heldBy?: Holder;
  product?: Product;
  reduceOnly?: boolean;
  crossesZero?: boolean;
  setup?: string;
  exitPlan?: ExitPlanText | SavedPlan;
}

/** A saved plan that an order was asked with by its name. */
export interface SavedPlan {
  readonly saved: ExitPlanText;
}

type Note = (path: string, message: string, nearest?: readonly string[]) => void;

function noting(): { problems: FieldProblem[]; note: Note } {
  const problems: FieldProblem[] = [];
  return { problems, note: (path, message, nearest) => void problems.push(nearest?.length ? { path, message, nearest } : { path, message }) };
}

/**
 * Reads a request against its instrument: which fields its type takes, what the venue takes, tick grid, quantity
 * step, time in force. All problems at once. What depends on the market or the position is judged by the gate.
 */
export function readOrder(request: OrderRequest, instrument: Instrument): Result<OrderIntent, Refusal> {
  const { problems, note } = noting();
  noteVenue(request.type, request.heldBy ?? 'venue', instrument, note);
  const change = readTerms(request, instrument, problems, note);
  const exitPlan = request.exitPlan === undefined ? null : readPlanOf(request.exitPlan);
  if (exitPlan && !exitPlan.ok) for (const { path, message } of exitPlan.refusal) note(`/exitPlan${path}`, message);
  problems.push(...unusedFields(request.type, change));
  const lifetime = change.lifetime ?? { kind: 'day' };
  const wrong = lifetimeProblem(request.type, lifetime, request.restOnly ?? false);
  if (wrong) problems.push(wrong);
  const pricing = readPricing(request, change, note);
  if (problems.length > 0 || pricing === null || change.quantity === undefined) return refused({ kind: 'validation', errors: problems });
  const { clientOrderId, account, side, heldBy = 'venue', product = 'overnight', reduceOnly = null, crossesZero = false, setup = null } = request;
  const terms: OrderTerms = { ...pricing, quantity: change.quantity, lifetime };
  const plan = exitPlan?.ok ? exitPlan.value : null;
  return accepted({ clientOrderId, account, instrument: instrument.id, side, terms, heldBy, product, reduceOnly, crossesZero, setup, exitPlan: plan });
}

const readPlanOf = (plan: ExitPlanText | SavedPlan): ReturnType<typeof readExitPlan> => ('saved' in plan ? readExitPlan(plan.saved, true) : readExitPlan(plan));

/** Reads a change against its order's instrument. Fields that its type has no use for are told when it is laid over the order. */
export function readChange(request: TermsText, instrument: Instrument, heldBy: Holder): Result<OrderChange, Refusal> {
  const { problems, note } = noting();
  if (request.type !== undefined) noteVenue(request.type, heldBy, instrument, note);
  const change = readTerms(request, instrument, problems, note);
  return problems.length > 0 ? refused({ kind: 'validation', errors: problems }) : accepted(change);
}

function noteVenue(type: OrderType, heldBy: Holder, instrument: Instrument, note: Note): void {
  const takes = venueOrderTypes(instrument.venue, instrument.kind);
  if (!isTradable(instrument)) note('/instrument', `${instrument.id} is an index and can't be traded`);
  else if (heldBy === 'here') {
    if (type === 'market') note('/heldBy', 'a market order waits for nothing and is not held here; accepted: venue');
  } else if (!takes.includes(type)) note('/type', `${instrument.venue} takes no ${type} orders for ${instrument.id}; accepted: ${takes.join(', ')}`);
}

/** The fields that are there, in exact units. */
function readTerms(request: TermsText, instrument: Instrument, problems: FieldProblem[], note: Note): OrderChange {
  const price = (path: string, text: string | undefined): Price | undefined => (text === undefined ? undefined : readPrice(path, text, instrument, note));
  const quantity = request.quantity === undefined ? undefined : readQuantity(request.quantity, instrument, note);
  const found = {
    type: request.type,
    quantity,
    limit: price('/limitPrice', request.limitPrice),
    offsetTicks: request.limitOffsetTicks,
    stop: price('/stopPrice', request.stopPrice),
    trail: request.trail === undefined ? undefined : readTrailFor(request.trail, quantity, note),
    triggerOn: request.triggerOn,
    lifetime: readLifetime(request, problems),
    restOnly: request.restOnly,
  };
  return Object.fromEntries(Object.entries(found).filter(([, value]) => value !== undefined));
}

function readPricing(request: OrderRequest, { limit, offsetTicks, stop, trail }: OrderChange, note: Note): Pricing | null {
  const triggerOn = request.triggerOn ?? 'last';
  const need = (path: string, given: unknown): void => {
    if (given === undefined) note(path, `is needed by a ${request.type} order`);
  };
  switch (request.type) {
    case 'market':
      return { type: 'market' };
    case 'limit':
      need('/limitPrice', request.limitPrice);
      return limit === undefined ? null : { type: 'limit', limit, restOnly: request.restOnly ?? false };
    case 'stop':
      need('/stopPrice', request.stopPrice);
      return stop === undefined ? null : { type: 'stop', stop, triggerOn };
    case 'stop-limit': {
      need('/stopPrice', request.stopPrice);
      const given = [request.limitPrice, request.limitOffsetTicks].filter((value) => value !== undefined).length;
      if (given !== 1) note(given === 0 ? '/limitPrice' : '/limitOffsetTicks', 'a stop-limit order takes exactly one of limitPrice and limitOffsetTicks');
      if (stop === undefined) return null;
      if (offsetTicks !== undefined) return { type: 'stop-limit', stop, limit: { by: 'offset', ticks: offsetTicks }, triggerOn };
      return limit === undefined ? null : { type: 'stop-limit', stop, limit: { by: 'price', price: limit }, triggerOn };
    }
    case 'trailing-stop':
      need('/trail', request.trail);
      return trail === undefined ? null : { type: 'trailing-stop', trail, stop: stop ?? null, triggerOn };
    default:
      return request.type satisfies never;
  }
}

function readQuantity(text: string, instrument: Instrument, note: Note): Quantity | undefined {
  const value = parseQuantity(instrument, text);
  if (value === null) {
    note('/quantity', `must be a multiple of ${formatScaled(1n, instrument.quantityDecimals)}`, nearestQuantities(text, instrument));
    return undefined;
  }
  if (value >= instrument.minimumQuantity) return value;
  const least = formatQuantity(instrument, instrument.minimumQuantity);
  note('/quantity', `must be at least ${least}`, [least]);
  return undefined;
}

function nearestQuantities(text: string, instrument: Instrument): string[] {
  const fine = parseScaled(text, 18);
  if (fine === null || fine <= 0n) return [];
  const step = 10n ** BigInt(18 - instrument.quantityDecimals);
  const below = fine / step;
  return [below, below + 1n].filter((n) => n >= BigInt(instrument.minimumQuantity)).map((n) => formatScaled(n, instrument.quantityDecimals, 0));
}

/** A price by itself, on its instrument's grid. */
export function readPriceAt(path: string, text: string, instrument: Instrument): Result<Price, Refusal> {
  const { problems, note } = noting();
  const price = readPrice(path, text, instrument, note);
  return price === undefined ? refused({ kind: 'validation', errors: problems }) : accepted(price);
}

function readPrice(path: string, text: string, instrument: Instrument, note: Note): Price | undefined {
  const value = parsePrice(instrument, text);
  if (value !== null && value > 0 && isOnGrid(instrument, value)) return value;
  const say = (prices: Price[]): string[] => prices.map((price) => formatPrice(instrument, price));
  const fine = parseScaled(text, 18);
  const floor = fine === null || fine <= 0n ? null : asPrice(Number(fine / 10n ** BigInt(18 - instrument.priceDecimals)));
  if (floor === null || !Number.isSafeInteger(floor)) note(path, 'must be a price above 0');
  else {
    const near = value !== null ? nearestOnGrid(instrument, value) : [...nearestOnGrid(instrument, floor), ...nearestOnGrid(instrument, asPrice(floor + 1))];
    note(path, `${text} is off the tick grid`, say([...new Set(near)].slice(0, 2)));
  }
  return undefined;
}

function readTrailFor(text: TrailText, quantity: Quantity | undefined, note: Note): Trail | undefined {
  const trail = readTrail(text, (message) => note('/trail/value', message));
  return trail === null ? undefined : trailFor(trail, quantity ?? NO_QUANTITY);
}

function readLifetime({ timeInForce, expiresAt }: TermsText, problems: FieldProblem[]): Lifetime | undefined {
  if (timeInForce === undefined && expiresAt === undefined) return undefined;
  if (timeInForce === 'gtd' || (timeInForce === undefined && expiresAt !== undefined)) {
    if (expiresAt === undefined) problems.push({ path: '/expiresAt', message: 'is needed by gtd' });
    else if (timeInForce === undefined) problems.push({ path: '/expiresAt', message: 'goes with gtd only' });
    else return { kind: 'gtd', until: Date.parse(expiresAt) };
    return undefined;
  }
  if (expiresAt !== undefined) problems.push({ path: '/expiresAt', message: 'goes with gtd only' });
  return { kind: timeInForce as Exclude<TimeInForce, 'gtd'> };
}
