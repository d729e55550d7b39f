import { isOver, withEntryFill, withOwnFill, type RunningPlan } from '../exits/index.ts';
import type { Instrument } from '../instrument/index.ts';
import type { Side } from '../market/index.ts';
import { divideHalfEven, divideHalfUp, formatScaled, moneyOf, type Money } from '../number/index.ts';
import { applyReport, type OrderReport } from '../orders/index.ts';
import { bookFill } from '../portfolio/index.ts';
import { withFill, type CountedFill } from '../risk/index.ts';
import type { Entry } from './entries.ts';
import { planOfLeg } from './fold-leg.ts';
import { keepOrder, keepPlan, plansIn, type AccountState, type Fill, type Working } from './state.ts';

/** Books a fill of an order, and counts it for the rules and the plans it belongs to. */
export function foldFill(
  state: AccountState,
  of: Working,
  report: OrderReport & { kind: 'trade' },
  entry: Entry,
  instrument: Instrument,
): { readonly order: Working; readonly fill: Fill; readonly plans: readonly RunningPlan[] } {
  const { price, quantity, fee, liquidity, fillId } = report;
  const order = applyReport(of.order, report, entry.time);
  const heldBefore = state.book.positions[instrument.id]?.quantity ?? 0;
  const booked = bookFill(state.book, instrument, { side: order.side, price, quantity, fee, product: order.product, time: entry.time });
  state.book = booked.book;
  const turnover = of.turnover + BigInt(price) * BigInt(quantity);
  const kept = keepOrder(state, order, { ...of, turnover }, of.askedBy, entry.seq, instrument);
  const average = divideHalfEven(turnover * 10n ** BigInt(8 - instrument.priceDecimals), BigInt(order.filledQuantity));
  const fill: Fill = {
    id: fillId,
    seq: entry.seq,
    time: entry.time,
    orderId: order.id,
    clientOrderId: order.clientOrderId,
    account: order.account,
    instrument: order.instrument,
    side: order.side,
    role: order.role,
    quantity,
    price,
    fee,
    realised: booked.realised,
    liquidity,
    orderQuantity: order.terms.quantity,
    filledQuantity: order.filledQuantity,
    averagePrice: formatScaled(average, 8, instrument.priceDecimals),
  };
  state.risk = withFill(state.risk, countedFill(instrument, order.side, report, heldBefore, booked.realised));
  const plan = planOfLeg(state, order);
  const plans: RunningPlan[] = [];
  const keptPlan = (next: RunningPlan): void => {
    keepPlan(state, next);
    plans.push(next);
  };
  if (plan && order.step !== null) keptPlan(withOwnFill(plan, order.step, quantity));
  else
    for (const one of plansIn(state, order.instrument)) if (one.entryOrderId === order.id && !isOver(one)) keptPlan(withEntryFill(one, quantity, report.value));
  return { order: kept, fill, plans };
}

/** A fill as the rules count it; of one through zero the fee is shared by quantity, half up. */
function countedFill(instrument: Instrument, side: Side, { quantity, fee }: OrderReport & { kind: 'trade' }, before: number, realised: Money): CountedFill {
  const against = before !== 0 && (side === 'sell') === before > 0;
  const closes = against ? Math.min(Math.abs(before), quantity) : 0;
  const closingFee = closes === quantity ? fee : moneyOf(divideHalfUp(fee * BigInt(closes), BigInt(quantity)));
  return {
    instrument: instrument.id,
    kind: instrument.kind,
    quantity: BigInt(quantity) * 10n ** BigInt(8 - instrument.quantityDecimals),
    realised,
    fee,
    closingFee,
    ends: against && quantity >= Math.abs(before),
  };
}
