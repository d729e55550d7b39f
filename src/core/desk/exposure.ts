import { isRunning } from '../exits/index.ts';
import { NO_QUANTITY, leastQuantity, asQuantity, sizeOf, type Instrument, type Price, type Quantity } from '../instrument/index.ts';
import { NO_MONEY, minus, moneyOf, plus, type Money } from '../number/index.ts';
import { limitPriceOf, remainingQuantity, stopPriceOf, type Order } from '../orders/index.ts';
import {
  commissionInForce,
  commissionOf,
  euroSources,
  inEuro,
  marginFor,
  positionMargin,
  realised,
  valueAccount,
  valueAt,
  valueAtHalves,
  valuePosition,
  type Market,
  type Position,
} from '../portfolio/index.ts';
import { plansIn, workingIn, type AccountState } from './state.ts';

/** Margin of a working opening order at its price, else at the mark, in what the instrument settles in; null where neither is known. */
function floatingMargin(order: Order, market: Market): Money | null {
  const instrument = market.instrument(order.instrument);
  const quantity = remainingQuantity(order);
  const price = limitPriceOf(order.terms, order.side, instrument) ?? stopPriceOf(order.terms);
  const mark = market.mark(order.instrument);
  if (price === null && mark === null) return null;
  const value = price !== null ? valueAt(instrument, quantity, price) : mark !== null ? valueAtHalves(instrument, quantity, mark) : NO_MONEY;
  return marginFor(instrument, order.side === 'buy', quantity, value, order.product, market);
}

/** What all working opening orders need of the buying power, in EUR. */
export function committedMargin(state: AccountState, market: Market): Money {
  let sum = moneyOf(state.claimed.get('margin EUR') ?? 0n);
  for (const [from, amount] of state.claimed) {
    if (from === 'spot EUR') sum = plus(sum, moneyOf(amount));
    if (from.startsWith('contract ')) sum = plus(sum, inEuro(moneyOf(amount), from.slice(9), market));
  }
  for (const id of state.floating) {
    const order = state.working.get(id)?.order;
    if (order) sum = plus(sum, inEuro(floatingMargin(order, market) ?? NO_MONEY, market.instrument(order.instrument).settlesIn, market));
  }
  return sum;
}

/** What working orders, and the margin of inverse positions, tie up of a wallet. */
export function tiedUpIn(state: AccountState, asset: string, purpose: 'spot' | 'contract', market: Market): Money {
  let tied = moneyOf(state.claimed.get(`${purpose} ${asset}`) ?? 0n);
  for (const id of state.floating) {
    const order = state.working.get(id)?.order;
    const instrument = order && market.instrument(order.instrument);
    if (!order || !instrument) continue;
    const mine =
      purpose === 'contract' ? instrument.kind === 'inverse' && instrument.settlesIn === asset : instrument.kind === 'spot' && instrument.currency === asset;
    if (mine) tied = plus(tied, floatingMargin(order, market) ?? NO_MONEY);
  }
  if (purpose === 'contract')
    for (const position of Object.values(state.book.positions)) {
      const instrument = market.instrument(position.instrument);
      if (instrument.kind !== 'inverse' || position.quantity === 0 || instrument.settlesIn !== asset) continue;
      const { marketValue } = valuePosition(instrument, position, market.mark(position.instrument));
      tied = plus(tied, positionMargin(instrument, position, marketValue, position.product, market));
    }
  return tied;
}

/** Instruments whose marks an account is valued by: what it holds, what that is written on, what its wallets are worth. */
export function markedInstruments(state: AccountState, instrumentOf: (id: string) => Instrument): Set<string> {
  const needed = new Set<string>();
  const add = (id: string): void => {
    needed.add(id);
    const { underlying } = instrumentOf(id);
    if (underlying !== null) needed.add(underlying);
  };
  for (const position of Object.values(state.book.positions)) add(position.instrument);
  for (const id of state.floating) add(state.working.get(id)?.order.instrument ?? '');
  for (const { asset } of state.book.wallets) if (asset !== 'EUR') for (const id of euroSources(asset)) needed.add(id);
  return needed;
}

/** What is left for opening orders: equity less the margin of positions and of working opening orders, in EUR. */
export const buyingPower = (state: AccountState, market: Market): Money => minus(valueAccount(state.book, market).free, committedMargin(state, market));

/** What an order of which this much would be filled costs, by the same code as the charge after. */
export function feeEstimate({ terms, book }: AccountState, instrument: Instrument, quantity: Quantity, value: Money): Money {
  const line = commissionInForce(terms, book).find((one) => one.kind === instrument.kind);
  return line ? commissionOf(line, instrument, quantity, value) : NO_MONEY;
}

/** What protects a position: stops that work, and those of plans that are held here. */
function* stopsOf(
  state: AccountState,
  { instrument }: Position,
  standing: (orderId: string) => Price | null,
): Generator<{ price: Price; quantity: Quantity }, void> {
  for (const { order } of workingIn(state, instrument)) {
    const price = standing(order.id) ?? stopPriceOf(order.terms);
    if (!order.opening && price !== null && order.triggeredAt === null) yield { price, quantity: remainingQuantity(order) };
  }
  for (const plan of plansIn(state, instrument)) {
    if (plan.plan.heldBy === 'venue' || !isRunning(plan)) continue;
    for (const { stop, open, fired, ended } of plan.steps)
      if (stop && !stop.over && stop.price !== null && stop.orderId === null && !fired && !ended && open > 0) yield { price: stop.price, quantity: open };
  }
}

export interface PositionRisk {
  /** What the stops would lose from the mark, with their estimated fees; null where no stop waits. */
  readonly openRisk: Money | null;
  readonly unitsWithoutStop: Quantity;
}

/**
 * What a position would lose if every stop filled at its price.
 *
 * @param standing where a trailing stop stands now, where that is known better than from its order
 */
export function openRiskOf(state: AccountState, position: Position, market: Market, standing: (orderId: string) => Price | null): PositionRisk {
  const instrument = market.instrument(position.instrument);
  const mark = market.mark(position.instrument);
  let bare = sizeOf(position.quantity);
  if (bare === 0) return { openRisk: NO_MONEY, unitsWithoutStop: NO_QUANTITY };
  let lost: Money | null = null;
  for (const { price: stop, quantity: covers } of stopsOf(state, position, standing)) {
    const quantity = leastQuantity(bare, covers);
    if (quantity === 0) continue;
    bare = asQuantity(bare - quantity);
    const brought = valueAt(instrument, quantity, stop);
    const worth = mark === null ? brought : valueAtHalves(instrument, quantity, mark);
    const loss = minus(feeEstimate(state, instrument, quantity, brought), realised(instrument, position.quantity > 0, worth, brought));
    lost = plus(lost ?? NO_MONEY, loss);
  }
  return { openRisk: lost, unitsWithoutStop: bare };
}
