import { partOf } from '../../core/basket/index.ts';
import { buyingPower, estimateOrder, openRiskOfOrder } from '../../core/desk/index.ts';
import { formatPrice, formatQuantity, parseQuantity, asQuantity } from '../../core/instrument/index.ts';
import { NO_MONEY, formatMoney, formatScaled, plus, type Money } from '../../core/number/index.ts';
import { orderSentence, type OrderIntent, type Refusal } from '../../core/orders/index.ts';
import { averagePrice, inEuro } from '../../core/portfolio/index.ts';
import type { Result } from '../../core/result.ts';
import type { baskets, ShapeOf } from '../../schemas/shapes.ts';
import type { Desk, JudgedTogether } from '../desk.ts';
import { limitNow, readRow, type PlanNamed } from './read-row.ts';
import type { Basket, BasketRow } from './things.ts';

type Checked = ShapeOf<typeof baskets.check>;
type CheckedRow = Omit<Checked['rows'][number], 'error'> & { readonly refusal: Refusal | null };

interface Read {
  readonly row: BasketRow;
  readonly intent: Result<OrderIntent, Refusal>;
}

/** A basket checked as a whole, in row order: what passes counts as working for the rows after it. Nothing is sent. */
export async function checkBasket(desk: Desk, basket: Basket, percent: string, plan: PlanNamed): Promise<{ rows: CheckedRow[]; total: Checked['total'] }> {
  await desk.market.ensure(basket.rows.map(({ instrument }) => instrument));
  const reads: Read[] = [];
  for (const [i, row] of basket.rows.entries()) reads.push({ row, intent: await intentOf(desk, row, percent, i, plan) });
  const accounts = [...new Set(basket.rows.map(({ account }) => account))];
  const rows = new Map<string, CheckedRow>();
  const buyingPowerAfter: Record<string, string> = {};
  let [value, fees, margin, risk]: [Money, Money, Money, Money | null] = [NO_MONEY, NO_MONEY, NO_MONEY, NO_MONEY];
  for (const account of accounts) {
    const own = reads.flatMap(({ row, intent }) => (row.account === account && intent.ok ? [{ row, intent: intent.value }] : []));
    await desk.ensureMarks([account]);
    const together = await desk.judgeTogether(
      account,
      own.map(({ intent }) => intent),
    );
    own.forEach(({ row }, i) => {
      const { checked, sums } = judgedRow(desk, row, together, i);
      rows.set(row.id, checked);
      value = plus(value, sums.value);
      fees = plus(fees, sums.fees);
      margin = plus(margin, sums.margin);
      risk = risk === null || sums.risk === null ? null : plus(risk, sums.risk);
    });
    buyingPowerAfter[account] = formatMoney(buyingPower(together.after, together.facts), 'EUR');
  }
  const all = reads.map(({ row, intent }): CheckedRow => rows.get(row.id) ?? refusedRow(row, intent.ok ? null : intent.refusal));
  const euro = (sum: Money): string => formatMoney(sum, 'EUR');
  return { rows: all, total: { value: euro(value), fees: euro(fees), margin: euro(margin), openRisk: risk === null ? null : euro(risk), buyingPowerAfter } };
}

async function intentOf(desk: Desk, row: BasketRow, percent: string, i: number, plan: PlanNamed): Promise<Result<OrderIntent, Refusal>> {
  const instrument = desk.instrument(row.instrument);
  const limit = limitNow(desk, row);
  if (!limit.ok) return limit;
  const quantity = partOf(parseQuantity(instrument, row.quantity) ?? asQuantity(0), percent, asQuantity(0));
  return readRow(row, instrument, `check-${i}`, plan, { quantity, limit: limit.value });
}

const refusedRow = ({ id }: BasketRow, refusal: Refusal | null): CheckedRow => ({ id, ok: false, sentence: '', checks: [], estimate: null, refusal });

interface Sums {
  readonly value: Money;
  readonly fees: Money;
  readonly margin: Money;
  readonly risk: Money | null;
}

/** A row as the gate judges it, and what it adds in EUR; one that is refused adds nothing. */
function judgedRow(desk: Desk, row: BasketRow, { judged, facts }: JudgedTogether, i: number): { checked: CheckedRow; sums: Sums } {
  const { judgement, before } = judged[i] as JudgedTogether['judged'][number];
  const { case: of, refusal, checks } = judgement;
  const instrument = desk.instrument(row.instrument);
  const told = checks.map(({ rule, result, words }) => ({ rule, result, message: words() }));
  const nothing: Sums = { value: NO_MONEY, fees: NO_MONEY, margin: NO_MONEY, risk: NO_MONEY };
  if (!of) return { checked: { ...refusedRow(row, refusal), checks: told }, sums: nothing };
  const estimate = estimateOrder(before, of.order, of.opens, instrument, facts.book(instrument.id), facts);
  const inEur = (sum: Money): Money => inEuro(sum, instrument.settlesIn, facts);
  const average = averagePrice(instrument, estimate.filled, estimate.filledValue);
  const settled = (sum: Money): string => formatMoney(sum, instrument.settlesIn);
  const checked: CheckedRow = {
    id: row.id,
    ok: refusal === null,
    sentence: orderSentence(of.order, instrument),
    checks: told,
    estimate: {
      fills: estimate.fills.map(({ price, quantity }) => ({ price: formatPrice(instrument, price), quantity: formatQuantity(instrument, quantity) })),
      unfilledQuantity: formatQuantity(instrument, estimate.unfilled),
      averagePrice: average === null ? null : formatScaled(average, 8, instrument.priceDecimals),
      value: settled(estimate.value ?? NO_MONEY),
      fees: settled(estimate.fees),
      margin: formatMoney(estimate.margin, 'EUR'),
      buyingPowerAfter: formatMoney(estimate.buyingPowerAfter, 'EUR'),
    },
    refusal,
  };
  if (refusal !== null) return { checked, sums: nothing };
  const risk = of.order.opening ? openRiskOfOrder(before, of.order, of.opens, instrument, facts) : NO_MONEY;
  return { checked, sums: { value: inEur(estimate.value ?? NO_MONEY), fees: inEur(estimate.fees), margin: estimate.margin, risk } };
}
