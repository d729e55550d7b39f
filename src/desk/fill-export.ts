import { stringify } from 'csv-stringify/sync';
import { fixExecutionReport, type FillText } from '../core/formats/index.ts';
import { formatQuantity } from '../core/instrument/index.ts';
import { divideHalfEven, formatScaled } from '../core/number/index.ts';
import type { Desk } from './desk.ts';
import { presentFill } from './present/index.ts';
import type { Fill } from './state.ts';

const text = (desk: Desk, fill: Fill): FillText => presentFill(desk.instrument(fill.instrument), fill) as unknown as FillText;

/** Fills as CSV (RFC 4180), one line each under a header. */
export function fillsAsCsv(desk: Desk, fills: readonly Fill[]): string {
  const columns = [
    'id',
    'seq',
    'time',
    'orderId',
    'clientOrderId',
    'account',
    'instrument',
    'side',
    'role',
    'quantity',
    'price',
    'fee',
    'feeCurrency',
    'realised',
    'currency',
    'liquidity',
  ];
  return stringify(
    fills.map((fill) => text(desk, fill)),
    { header: true, columns, record_delimiter: '\r\n' },
  );
}

/** Fills as FIX.4.4 execution reports, one a line. */
export function fillsAsFix(desk: Desk, fills: readonly Fill[]): string {
  return fills.map((fill) => `${fixExecutionReport(text(desk, fill), orderAfter(desk, fill))}\n`).join('');
}

/** How the order stood after one of its fills, from the fills up to it. */
function orderAfter(desk: Desk, fill: Fill): Parameters<typeof fixExecutionReport>[1] {
  const state = desk.account(fill.account);
  const instrument = desk.instrument(fill.instrument);
  const order = state.orders.get(fill.orderId);
  const until = state.fills.filter((one) => one.orderId === fill.orderId && one.seq <= fill.seq);
  const filled = until.reduce((sum, one) => sum + one.quantity, 0);
  const turnover = until.reduce((sum, one) => sum + BigInt(one.quantity) * BigInt(one.price), 0n);
  const quantity = order?.quantity ?? filled;
  const average = divideHalfEven(turnover * 10n ** BigInt(8 - instrument.priceDecimals), BigInt(filled));
  return {
    quantity: formatQuantity(instrument, quantity),
    filledQuantity: formatQuantity(instrument, filled),
    remainingQuantity: formatQuantity(instrument, Math.max(0, quantity - filled)),
    averagePrice: formatScaled(average, 8, instrument.priceDecimals),
    done: filled >= quantity,
  };
}
