import { formatPrice, formatQuantity } from '../core/instrument/index.ts';
import { formatMoney, formatScaled } from '../core/number/index.ts';
import { orderSentence, requestedOrder, type Order, type OrderRequest, type Refusal } from '../core/orders/index.ts';
import { averagePrice } from '../core/portfolio/index.ts';
import { accepted, type Result } from '../core/result.ts';
import type { Desk } from './desk.ts';
import { refusalText } from './desk.ts';
import { openRiskOf } from './open-risk.ts';
import { draftOrder, estimateOrder } from './trading.ts';

const DEPTH = 100;

/** All checks, sentence, cost, fees and open risk of an order; sends nothing. Only a malformed one is refused. */
export async function previewOrder(desk: Desk, request: OrderRequest): Promise<Result<object, Refusal>> {
  const asked = { ...request, clientOrderId: request.clientOrderId ?? 'preview' };
  const decided = await desk.preview(asked);
  if (!decided.ok && decided.refusal.kind === 'validation') return decided;
  const state = desk.account(asked.account);
  const instrument = desk.instrument(asked.instrument);
  // What a rule refuses is still worked out.
  const draft = draftOrder(state, asked, desk.market, desk.now());
  const order: Order | null = draft.ok ? requestedOrder(draft.value.order, draft.value.order) : null;
  const money = (sum: bigint): string => formatMoney(sum, instrument.settlesIn);
  const depth = await desk.ask('depth', { instrument: instrument.id, levels: DEPTH });
  const estimate = order ? estimateOrder(state, order, instrument, desk.market, asked.side === 'buy' ? depth.asks : depth.bids) : null;
  const filled = estimate ? estimate.fills.reduce((sum, fill) => sum + fill.quantity, 0) : 0;
  const average = estimate ? averagePrice(instrument, filled, estimate.averageValue) : null;
  const before = Object.values(state.book.positions).reduce((sum, position) => sum + (openRiskOf(state, position, desk.market).openRisk ?? 0n), 0n);
  return accepted({
    ok: decided.ok,
    sentence: order ? orderSentence(order, instrument) : '',
    checks: [
      decided.ok
        ? { rule: 'buyingPower', result: 'pass', message: 'It is within the buying power.' }
        : { rule: 'rule' in decided.refusal ? decided.refusal.rule : 'state', result: 'refuse', message: refusalText(decided.refusal) },
    ],
    estimate: {
      fills: (estimate?.fills ?? []).map(({ price, quantity }) => ({ price: formatPrice(instrument, price), quantity: formatQuantity(instrument, quantity) })),
      unfilledQuantity: formatQuantity(instrument, estimate?.unfilled ?? 0),
      averagePrice: average === null ? null : formatScaled(average, 8, instrument.priceDecimals),
      value: money(estimate?.value ?? 0n),
      fees: money(estimate?.fees ?? 0n),
      margin: formatMoney(estimate?.margin ?? 0n, state.terms.currency),
      buyingPowerAfter: formatMoney(estimate?.buyingPowerAfter ?? 0n, state.terms.currency),
    },
    openRisk: { order: null, before: formatMoney(before, state.terms.currency), after: null },
    left: null,
  });
}
