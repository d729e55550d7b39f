import { formatPrice, formatQuantity, isTradable, venueOrderTypes, type Instrument, type Quantity } from '../core/instrument/index.ts';
import { formatMoney, type Money } from '../core/number/index.ts';
import {
  effectOnPosition,
  fingerprint,
  invalid,
  isFinished,
  isTerminal,
  orderState,
  readTerms,
  remainingQuantity,
  requestedOrder,
  restOnlyProblem,
  stopProblem,
  type FieldProblem,
  type Order,
  type OrderChange,
  type OrderIdentity,
  type OrderRequest,
  type OrderTerms,
  type Pricing,
  type Refusal,
} from '../core/orders/index.ts';
import { commissionOf, inEuro, mayTrade, orderMargin, positionOf, valueAccount, valueAt, valueAtHalves, type OrderExposure } from '../core/portfolio/index.ts';
import { accepted, refused, type Result } from '../core/result.ts';
import type { MarketData } from './market-data.ts';
import { exposures, tiedUpIn } from './present/index.ts';
import type { AccountState } from './state.ts';

/** An order that passed every check and can be committed. */
export interface Placement {
  readonly order: Order;
  readonly instrument: Instrument;
}

/** Whether and as what a request can become an order. A pure decision: nothing is changed, nothing is sent. */
export function decidePlacement(
  state: AccountState,
  request: OrderRequest,
  market: MarketData,
  now: number,
  pricing: Pricing = 'as-asked',
): Result<Placement, Refusal> {
  const drafted = draftOrder(state, request, market, now, pricing);
  if (!drafted.ok) return drafted;
  const { order, instrument } = drafted.value;
  const poor = order.opening ? buyingPowerProblem(state, order, instrument, market) : null;
  return poor ? refused(poor) : drafted;
}

/** The order a request would be, before any rule is asked. */
export function draftOrder(
  state: AccountState,
  request: OrderRequest,
  market: MarketData,
  now: number,
  pricing: Pricing = 'as-asked',
): Result<Placement, Refusal> {
  const instrument = market.find(request.instrument);
  if (!instrument) return refused(invalid('/instrument', `${request.instrument} is not known`));
  const problems = accountProblems(state, request, instrument);
  const view = market.view(instrument.id);
  const read = readTerms(request, request.side, instrument, view.priceLimits, now, pricing);
  if (problems.length + read.problems.length > 0) return refused({ kind: 'validation', errors: [...problems, ...read.problems] });
  const position = positionOf(state.book, instrument.id);
  const effect = effectOnPosition({ ...request, quantity: read.terms.quantity }, position.quantity, instrument);
  if (!effect.ok) return effect;
  const terms: OrderTerms = { ...read.terms, quantity: effect.value.quantity };
  const product = request.product ?? 'overnight';
  if (effect.value.opening && position.quantity !== 0 && position.product !== product)
    return refused(invalid('/product', `the open position in ${instrument.id} is ${position.product}; an opening order must be too`));
  const problem = stopProblem(terms, request.side, instrument, view) ?? restOnlyProblem(terms, request.side, instrument, view);
  if (problem) return refused(problem);
  const identity: OrderIdentity = {
    id: `${request.account}-${state.orderCount + 1}`,
    clientOrderId: request.clientOrderId,
    account: request.account,
    instrument: instrument.id,
    side: request.side,
    heldBy: 'venue',
    product: effect.value.opening ? product : position.product,
    reduceOnly: effect.value.reduceOnly,
    crossesZero: request.crossesZero ?? false,
    setup: request.setup ?? null,
    role: effect.value.role,
    opening: effect.value.opening,
    pegged: pricing === 'pegged',
    createdAt: now,
    fingerprint: fingerprint(request),
  };
  return accepted({ order: requestedOrder(identity, terms), instrument });
}

function accountProblems(state: AccountState, request: OrderRequest, instrument: Instrument): FieldProblem[] {
  const problems: FieldProblem[] = [];
  if (isTradable(instrument) && !mayTrade(state.terms, instrument))
    problems.push({
      path: '/instrument',
      message: `${state.terms.id} can't trade ${instrument.id}; it trades ${state.terms.kinds.join(', ')} on ${state.terms.venues.join(', ')}`,
    });
  const product = request.product ?? 'overnight';
  if (!state.terms.products.includes(product))
    problems.push({ path: '/product', message: `${state.terms.id} has no ${product} product; accepted: ${state.terms.products.join(', ')}` });
  if (request.heldBy === 'here') problems.push({ path: '/heldBy', message: 'orders held here are not offered yet; accepted: venue' });
  return problems;
}

/** What an order would cost before it goes: the same code as the charge after. */
export interface Estimate {
  readonly fills: readonly { readonly price: number; readonly quantity: Quantity }[];
  readonly unfilled: Quantity;
  readonly averageValue: Money;
  readonly value: Money;
  readonly fees: Money;
  readonly margin: Money;
  readonly buyingPowerAfter: Money;
}

/** @param levels the opposite side of the book, best first */
export function estimateOrder(
  state: AccountState,
  order: Order,
  instrument: Instrument,
  market: MarketData,
  levels: readonly { readonly price: number; readonly quantity: Quantity }[],
): Estimate {
  const fills: { price: number; quantity: Quantity }[] = [];
  let left = remainingQuantity(order);
  const atOnce = order.stopPrice === null;
  for (const level of levels) {
    const reached = order.limitPrice === null || (order.side === 'buy' ? level.price <= order.limitPrice : level.price >= order.limitPrice);
    if (!atOnce || left === 0 || !reached) break;
    const quantity = Math.min(left, level.quantity);
    fills.push({ price: level.price, quantity });
    left -= quantity;
  }
  const filledValue = fills.reduce((sum, fill) => sum + valueAt(instrument, fill.quantity, fill.price), 0n);
  const rest = order.limitPrice ?? order.stopPrice;
  const mark = market.mark(instrument.id);
  const restValue = left === 0 ? 0n : rest !== null ? valueAt(instrument, left, rest) : mark === null ? 0n : valueAtHalves(instrument, left, mark);
  const value = filledValue + restValue;
  const fees = feeEstimate(state, instrument, order.quantity, value);
  const margin = order.opening ? inEuro(orderMargin(exposureOf(order, instrument), market), instrument.settlesIn, market) : 0n;
  const before = valueAccount(state.book, exposures(state, market), market).buyingPower;
  return {
    fills,
    unfilled: left,
    averageValue: filledValue,
    value,
    fees,
    margin,
    buyingPowerAfter: before - margin - inEuro(fees, instrument.settlesIn, market),
  };
}

function feeEstimate(state: AccountState, instrument: Instrument, quantity: Quantity, value: Money): Money {
  const line = state.terms.commission.find((one) => one.kind === instrument.kind);
  return line ? commissionOf(line, instrument, quantity, value) : 0n;
}

const exposureOf = (order: Order, instrument: Instrument): OrderExposure => ({
  instrument,
  side: order.side,
  quantity: remainingQuantity(order),
  price: order.limitPrice ?? order.stopPrice,
  product: order.product,
});

/** An opening order needs its margin and its estimated fees within the buying power; on wallets, within the wallet too. */
function buyingPowerProblem(state: AccountState, order: Order, instrument: Instrument, market: MarketData): Refusal | null {
  const margin = orderMargin(exposureOf(order, instrument), market);
  const mark = market.mark(instrument.id);
  const price = order.limitPrice ?? order.stopPrice;
  const value = price !== null ? valueAt(instrument, order.quantity, price) : mark !== null ? valueAtHalves(instrument, order.quantity, mark) : 0n;
  const fees = feeEstimate(state, instrument, order.quantity, value);
  const need = margin + fees;
  const say = (sum: Money): string => formatMoney(sum, instrument.settlesIn);
  if (instrument.kind === 'spot' || instrument.kind === 'inverse') {
    const asset = instrument.kind === 'spot' ? instrument.currency : instrument.settlesIn;
    const purpose = instrument.kind === 'spot' ? 'spot' : 'contract';
    const wallet = state.book.wallets.find((one) => one.asset === asset && one.purpose === purpose);
    const available = (wallet?.total ?? 0n) - tiedUpIn(state, asset, purpose, market);
    if (need <= available) return null;
    return poor(`It needs ${say(need)} ${asset}; ${say(available)} is available.`, instrument, say(available));
  }
  const power = valueAccount(state.book, exposures(state, market), market).buyingPower;
  if (need <= power) return null;
  return poor(`It needs ${say(need)} of buying power (margin ${say(margin)}, fees ${say(fees)}); ${say(power)} is left.`, instrument, say(power));
}

const poor = (detail: string, instrument: Instrument, buyingPower: string): Refusal => ({
  kind: 'risk-blocked',
  rule: 'buyingPower',
  rules: ['buyingPower'],
  instrument: instrument.id,
  until: null,
  detail,
  buyingPower,
});

/** The new terms of an order after a change, or why it can't be changed so. */
export function decideReplace(state: AccountState, order: Order, change: OrderChange, market: MarketData, now: number): Result<OrderTerms, Refusal> {
  const instrument = market.instrument(order.instrument);
  const stands = changeable(order, 'replaced');
  if (stands) return refused(stands);
  if (order.pendingReplace) return refused({ kind: 'conflict', detail: 'A change of this order is still under way.', state: orderState(order) });
  if (order.pendingCancel) return refused({ kind: 'conflict', detail: 'A cancel of this order is under way.', state: orderState(order) });
  if (change.version !== undefined && change.version !== order.version)
    return refused({
      kind: 'conflict',
      detail: `The order is at version ${order.version}, not ${change.version}.`,
      version: order.version,
      state: orderState(order),
    });
  const view = market.view(order.instrument);
  const merged = mergeTerms(order, change, instrument);
  const read = readTerms(merged, order.side, instrument, view.priceLimits, now);
  const problems = read.problems.filter((problem) => problem.path.slice(1) in change || problem.path === '/type' || touched(problem.path, change));
  if (problems.length > 0) return refused({ kind: 'validation', errors: problems });
  let terms = read.terms;
  if (order.triggeredAt !== null && (change.stopPrice !== undefined || change.triggerOn !== undefined))
    return refused(invalid('/stopPrice', 'the stop has triggered already; its limit price and quantity can still be changed'));
  if (order.triggeredAt === null && (change.stopPrice !== undefined || change.triggerOn !== undefined || change.type !== undefined)) {
    const problem = stopProblem(terms, order.side, instrument, view);
    if (problem) return refused(problem);
  }
  const resting = restOnlyProblem(terms, order.side, instrument, view);
  if (resting) return refused(resting);
  if (change.quantity !== undefined && !order.opening) {
    const position = Math.abs(positionOf(state.book, order.instrument).quantity);
    const most = position + order.filledQuantity;
    if (terms.quantity > most && order.reduceOnly) terms = { ...terms, quantity: most };
  }
  if (order.opening) {
    const others = { ...state, working: new Set([...state.working].filter((id) => id !== order.id)) };
    const problem =
      terms.quantity > order.quantity || raisesMargin(order, terms) ? buyingPowerProblem(others, { ...order, ...terms }, instrument, market) : null;
    if (problem) return refused(problem);
  }
  return accepted(terms);
}

const raisesMargin = (order: Order, terms: OrderTerms): boolean => (terms.limitPrice ?? terms.stopPrice ?? 0) > (order.limitPrice ?? order.stopPrice ?? 0);

const touched = (path: string, change: OrderChange): boolean => (path === '/expiresAt' || path === '/restOnly') && change.timeInForce !== undefined;

/** Why an order can no longer be changed or cancelled, or null. */
export function changeable(order: Order, what: 'replaced' | 'cancelled'): Refusal | null {
  if (!isTerminal(order) && !isFinished(order)) return null;
  const state = orderState(order);
  return { kind: 'conflict', detail: `The order is ${state} and can't be ${what}.`, state };
}

/** An order's terms in the spelling of a request, with the change laid over; fields the new type has no use for fall away. */
function mergeTerms(order: Order, change: OrderChange, instrument: Instrument): Parameters<typeof readTerms>[0] {
  const type = change.type ?? order.type;
  const price = (value: number | null): string | undefined => (value === null ? undefined : formatPrice(instrument, value));
  const usesStop = type === 'stop' || type === 'stop-limit';
  const usesLimit = type === 'limit' || type === 'stop-limit';
  const offsetGiven = change.limitOffsetTicks !== undefined;
  const limitGiven = change.limitPrice !== undefined;
  const keepsOffset = type === 'stop-limit' && !limitGiven && (offsetGiven || order.limitOffsetTicks !== null);
  const merged = {
    type,
    quantity: change.quantity ?? formatQuantity(instrument, order.quantity),
    limitPrice: change.limitPrice ?? (usesLimit && !keepsOffset ? price(order.limitPrice) : undefined),
    limitOffsetTicks: change.limitOffsetTicks ?? (keepsOffset ? (order.limitOffsetTicks ?? undefined) : undefined),
    stopPrice: change.stopPrice ?? (usesStop ? price(order.stopPrice) : undefined),
    triggerOn: change.triggerOn ?? order.triggerOn,
    timeInForce: change.timeInForce ?? order.timeInForce,
    expiresAt:
      change.expiresAt ??
      ((change.timeInForce ?? order.timeInForce) === 'gtd' && order.expiresAt !== null ? new Date(order.expiresAt).toISOString() : undefined),
    restOnly: change.restOnly ?? (type === 'limit' ? order.restOnly : undefined),
  };
  return merged;
}

/** The order that closes a position, or part of it: by market, or by a limit that follows the best opposite price. */
export function closingRequest(
  state: AccountState,
  instrument: Instrument,
  ask: { readonly quantity?: string | undefined; readonly percent?: string | undefined; readonly clientOrderId: string },
  best: { readonly bid: number | null; readonly ask: number | null },
): Result<{ request: OrderRequest; pricing: Pricing }, Refusal> {
  const position = positionOf(state.book, instrument.id);
  const held = Math.abs(position.quantity);
  if (held === 0) return refused({ kind: 'conflict', detail: `There is no position in ${instrument.id} to close.` });
  let quantity = formatQuantity(instrument, held);
  if (ask.quantity !== undefined) quantity = ask.quantity;
  if (ask.percent !== undefined) {
    const share = Math.floor((held * Math.round(Number(ask.percent) * 1e6)) / 1e8);
    if (share < 1)
      return refused(
        invalid('/percent', `${ask.percent} % of ${formatQuantity(instrument, held)} is less than the quantity step ${formatQuantity(instrument, 1)}`),
      );
    quantity = formatQuantity(instrument, Math.min(held, share));
  }
  const side = position.quantity > 0 ? 'sell' : 'buy';
  const base = {
    clientOrderId: ask.clientOrderId,
    account: state.terms.id,
    instrument: instrument.id,
    side,
    quantity,
    product: position.product,
    reduceOnly: true,
  } as const;
  if (venueOrderTypes(instrument.venue, instrument.kind).includes('market')) return accepted({ request: { ...base, type: 'market' }, pricing: 'as-asked' });
  const price = side === 'sell' ? best.bid : best.ask;
  return accepted({ request: { ...base, type: 'limit', ...(price === null ? {} : { limitPrice: formatPrice(instrument, price) }) }, pricing: 'pegged' });
}
