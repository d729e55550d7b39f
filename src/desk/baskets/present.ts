import { halvesText, isOver, progressOf, slippageOf, type CountedRow, type RowState } from '../../core/basket/index.ts';
import { asQuantity, formatQuantity } from '../../core/instrument/index.ts';
import { formatScaled } from '../../core/number/index.ts';
import { orderState } from '../../core/orders/index.ts';
import { averagePrice, valueAt } from '../../core/portfolio/index.ts';
import { plus, NO_MONEY } from '../../core/number/index.ts';
import { isoTime } from '../present/index.ts';
import type { baskets, ShapeOf } from '../../schemas/shapes.ts';
import type { Fill } from '../../core/desk/index.ts';
import type { Desk } from '../desk.ts';
import { midOf } from './baskets.ts';
import type { Run, RunRow } from './things.ts';

type RunAnswer = ShapeOf<typeof baskets.run>;

/** A run as it is answered: each row where its order stands, and how far all of it is. */
export async function presentRun(desk: Desk, run: Run): Promise<RunAnswer> {
  const sent = run.rows.flatMap(({ orderId }) => orderId ?? []);
  const accounts = [...new Set(run.rows.map(({ row }) => row.account))];
  // Whatever came of an order later: a fill is never out of reach.
  const fills = sent.length === 0 ? [] : await desk.listFills({ accounts, orderIds: sent, limit: Infinity });
  const byOrder = new Map<string, Fill[]>();
  for (const fill of fills) byOrder.set(fill.orderId, [...(byOrder.get(fill.orderId) ?? []), fill]);
  const rows = await Promise.all(run.rows.map((row) => presentRow(desk, row, byOrder.get(row.orderId ?? '') ?? [])));
  const { id, clientRunId, basket, percent, pace, state } = run;
  return {
    id,
    clientRunId,
    basket,
    percent,
    pace,
    state,
    rows: rows.map(({ answer }) => answer),
    progress: progressOf(rows.map(({ counted }) => counted)),
    log: run.log.map(({ time, text, row }) => ({ time: isoTime(time), text, row })),
  };
}

async function presentRow(desk: Desk, row: RunRow, fills: readonly Fill[]): Promise<{ answer: RunAnswer['rows'][number]; counted: CountedRow }> {
  const instrument = desk.instrument(row.row.instrument);
  const working = row.orderId === null ? null : await desk.workingOrPast(row.orderId, row.row.account);
  const state: RowState = working ? orderState(working.order) : row.state === 'sent' ? 'pending-new' : row.state;
  const filled = asQuantity(fills.reduce<number>((sum, { quantity }) => sum + quantity, 0));
  const cost = fills.reduce((sum, { price, quantity }) => plus(sum, valueAt(instrument, quantity, price)), NO_MONEY);
  const average = averagePrice(instrument, filled, cost);
  const { arrival } = row;
  const sent = row.state === 'sent';
  return {
    answer: {
      id: row.id,
      account: row.row.account,
      instrument: row.row.instrument,
      side: row.row.side,
      orderId: row.orderId,
      reverseOrderId: row.reverseOrderId,
      state,
      asked: formatQuantity(instrument, row.asked),
      filled: formatQuantity(instrument, filled),
      averagePrice: average === null ? null : formatScaled(average, 8, instrument.priceDecimals),
      arrival: sent && arrival !== null ? halvesText(instrument, arrival) : null,
      slippage: arrival === null || filled === 0 ? null : slippageOf(instrument, row.row.side, arrival, fills),
      reason: row.reason ?? working?.order.reason ?? null,
    },
    counted: { instrument, state, asked: row.asked, filled, fills, remainsAt: sent ? arrival : isOver(state) ? null : midOf(desk, instrument.id) },
  };
}
