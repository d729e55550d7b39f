import { formatPrice, formatQuantity, type Instrument } from '../instrument/index.ts';
import { venueMoment } from '../market/index.ts';
import { formatMoney } from '../number/index.ts';
import { limitPriceOf, orderState, remainingQuantity, stopPriceOf, type Order, type OrderReport, type ReasonCode } from '../orders/index.ts';
import { homeVenue } from '../portfolio/index.ts';
import type { HistoryLine } from './entries.ts';
import type { AccountState } from './state.ts';

/** A moment on the clock of an account's own venue, with its day. */
export const sayMoment = ({ terms }: AccountState, time: number): string => venueMoment(homeVenue(terms), time);

/** Why an order ended or was cut, in words that fit behind a comma. */
const REASONS: Readonly<Record<ReasonCode, string>> = {
  user: 'by the trader',
  oco: 'another order of its group was filled',
  flat: 'the position is flat',
  reduced: 'cut to the position',
  'plan-stopped': 'its exit plan was stopped',
  flatten: 'by Flatten',
  'close-out': 'the day limit closes everything',
  condition: 'its condition',
  basket: 'with its basket',
  late: 'it came too late to be sent',
  ioc: 'the rest of an ioc order',
  fok: 'it could not be filled whole',
  'day-end': 'the day ended',
  gtd: 'its time came',
  gtc: 'after 90 days',
  'intraday-end': 'intraday positions are closed',
  venue: 'by the venue',
  risk: 'a rule',
};

/** What became of an order, in the trader's words. */
export function reportText(order: Order, report: OrderReport, instrument: Instrument): string {
  const side = order.side === 'buy' ? 'Buy' : 'Sell';
  const what = `${side} ${formatQuantity(instrument, order.terms.quantity)} ${order.instrument}`;
  const why = (code: ReasonCode): string => REASONS[code];
  switch (report.kind) {
    case 'new':
      return order.heldBy === 'here' && order.triggeredAt === null ? `${what}: waits here.` : `${what}: accepted by ${instrument.venue}.`;
    case 'rejected':
      return `${what}: rejected by ${report.reasonCode === 'late' ? 'Kavix' : instrument.venue}. ${report.reason}`;
    case 'triggered':
      return order.heldBy === 'here' ? `${what}: triggered here, sent to ${instrument.venue}.` : `${what}: the stop was triggered.`;
    case 'linked':
      return `${what}: in the group ${report.group.id}.`;
    case 'suspended':
      return `${what}: held here, suspended; the broker or the prices are cut off.`;
    case 'resumed':
      return `${what}: held here, goes on.`;
    case 'trailed':
      return `${what}: held here, follows the price.`;
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
    case 'expired':
      return `${what}: expired, ${why(report.reasonCode)}.`;
    default:
      return report satisfies never;
  }
}

/** How an order stands, as a line of its history. */
export const historyLine = (order: Order, instrument: Instrument, execType: string, fillId: string | null, reason: string | null): HistoryLine => ({
  version: order.version,
  execType,
  state: orderState(order),
  quantity: order.terms.quantity,
  limitPrice: limitPriceOf(order.terms, order.side, instrument),
  stopPrice: stopPriceOf(order.terms),
  filledQuantity: order.filledQuantity,
  remainingQuantity: remainingQuantity(order),
  fillId,
  reason,
});

/** Kinds of reports that a history calls by another name. */
const HISTORY_KINDS: Readonly<Record<string, string>> = { linked: 'restated', resumed: 'new' };

export function reportHistory(order: Order, instrument: Instrument, report: OrderReport): HistoryLine {
  const fillId = report.kind === 'trade' ? report.fillId : null;
  return historyLine(order, instrument, HISTORY_KINDS[report.kind] ?? report.kind, fillId, 'reason' in report ? report.reason : null);
}
