import { formatPrice, formatQuantity, type Instrument } from '../core/instrument/index.ts';
import { formatMoney } from '../core/number/index.ts';
import { orderState, remainingQuantity, type Order, type OrderReport } from '../core/orders/index.ts';
import type { HistoryLine } from './journal.ts';

const REASONS: Readonly<Record<string, string>> = {
  user: 'by the trader',
  flat: 'the position is flat',
  reduced: 'cut to the position',
  flatten: 'by Flatten',
  ioc: 'the rest of an ioc order',
  fok: 'it could not be filled whole',
  'day-end': 'the day ended',
  gtd: 'its time came',
  gtc: 'after 90 days',
  venue: 'by the venue',
};

/** What became of an order, in the trader's words. */
export function reportText(order: Order, report: OrderReport, instrument: Instrument): string {
  const side = order.side === 'buy' ? 'Buy' : 'Sell';
  const what = `${side} ${formatQuantity(instrument, order.quantity)} ${order.instrument}`;
  const why = (code: string): string => REASONS[code] ?? code;
  switch (report.kind) {
    case 'new':
      return `${what}: accepted by ${instrument.venue}.`;
    case 'rejected':
      return `${what}: rejected by ${instrument.venue}. ${report.reason}`;
    case 'triggered':
      return `${what}: the stop was triggered.`;
    case 'trade': {
      const left = remainingQuantity(order);
      const rest = left > 0 ? `, ${formatQuantity(instrument, left)} left` : '';
      const done = order.side === 'buy' ? 'Bought' : 'Sold';
      return `${done} ${formatQuantity(instrument, report.quantity)} ${order.instrument} at ${formatPrice(instrument, report.price)}, fee ${formatMoney(report.fee, instrument.settlesIn)}${rest}.`;
    }
    case 'replaced':
      return `${what}: changed, version ${order.version}.`;
    case 'canceled':
      return `${what}: cancelled, ${why(report.reasonCode)}.`;
    case 'cancel-rejected':
      return `${what}: the change was refused. ${report.reason}`;
    case 'restated':
      return `${what}: ${why(report.reasonCode)}.`;
    case 'repriced':
      return `${what}: its limit follows the best price, now ${formatPrice(instrument, report.limitPrice)}.`;
    case 'expired':
      return `${what}: expired, ${why(report.reasonCode)}.`;
    default:
      return report satisfies never;
  }
}

/** How an order stands, as a line of its history. */
export const historyLine = (order: Order, execType: string, fillId: string | null, reason: string | null): HistoryLine => ({
  version: order.version,
  execType,
  state: orderState(order),
  quantity: order.quantity,
  limitPrice: order.limitPrice,
  stopPrice: order.stopPrice,
  filledQuantity: order.filledQuantity,
  remainingQuantity: remainingQuantity(order),
  fillId,
  reason,
});

export const reportHistory = (order: Order, report: OrderReport): HistoryLine => {
  const fillId = report.kind === 'trade' ? report.fillId : null;
  const reason = report.kind === 'rejected' || report.kind === 'cancel-rejected' ? report.reason : report.kind === 'canceled' ? report.reason : null;
  return historyLine(order, report.kind === 'repriced' ? 'restated' : report.kind, fillId, reason);
};
