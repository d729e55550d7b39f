import { estimateOrder, leftOfDay, openRiskOfOrder, openRiskOfWorking, totalOpenRisk } from '../core/desk/index.ts';
import { formatPrice, formatQuantity, type Instrument } from '../core/instrument/index.ts';
import { NO_MONEY, formatMoney, formatScaled, plus, type Money } from '../core/number/index.ts';
import { orderSentence, type OrderIntent, type Refusal } from '../core/orders/index.ts';
import { averagePrice } from '../core/portfolio/index.ts';
import { accepted, refused, type Result } from '../core/result.ts';
import type { orders, ShapeOf } from '../schemas/shapes.ts';
import type { Desk } from './desk.ts';

type PreviewAnswer = ShapeOf<typeof orders.preview>;

/** All checks, sentence, cost, fees and open risk of an order; sends nothing. Only a malformed one is refused. */
export async function previewOrder(desk: Desk, intent: OrderIntent): Promise<Result<PreviewAnswer, Refusal>> {
  const { judgement, facts, state } = await desk.judge(intent);
  const { refusal } = judgement;
  if (refusal?.kind === 'validation') return refused(refusal);
  const instrument = desk.instrument(intent.instrument);
  const of = judgement.case;
  const before = plus(totalOpenRisk(state, facts, (id) => facts.standing(id)).known, openRiskOfWorking(state, null, facts));
  const own = of?.order.opening ? openRiskOfOrder(state, of.order, of.opens, instrument, facts) : null;
  const left = leftOfDay(state, facts);
  const estimate = of && estimateOrder(state, of.order, of.opens, instrument, facts.book(instrument.id), facts);
  const euro = (sum: Money): string => formatMoney(sum, state.terms.currency);
  const settled = (sum: Money): string => formatMoney(sum, instrument.settlesIn);
  return accepted({
    ok: refusal === null,
    sentence: of ? orderSentence(of.order, instrument) : '',
    checks: judgement.checks.map(({ rule, result, words }) => ({ rule, result, message: words() })),
    estimate: {
      fills: (estimate?.fills ?? []).map(({ price, quantity }) => ({ price: formatPrice(instrument, price), quantity: formatQuantity(instrument, quantity) })),
      unfilledQuantity: formatQuantity(instrument, estimate?.unfilled ?? intent.terms.quantity),
      averagePrice: estimate ? averageOf(instrument, estimate) : null,
      value: settled(estimate?.value ?? NO_MONEY),
      fees: settled(estimate?.fees ?? NO_MONEY),
      margin: euro(estimate?.margin ?? NO_MONEY),
      buyingPowerAfter: euro(estimate?.buyingPowerAfter ?? NO_MONEY),
    },
    openRisk: { order: own === null ? null : euro(own), before: euro(before), after: own === null ? null : euro(plus(before, own)) },
    left: left === null ? null : euro(left),
  });
}

function averageOf(instrument: Instrument, { filled, filledValue }: ReturnType<typeof estimateOrder>): string | null {
  const average = averagePrice(instrument, filled, filledValue);
  return average === null ? null : formatScaled(average, 8, instrument.priceDecimals);
}
