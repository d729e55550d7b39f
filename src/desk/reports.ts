import type { Instrument } from '../core/instrument/index.ts';
import { applyReport, orderSentence, type Order } from '../core/orders/index.ts';
import type { AccountBook } from '../core/portfolio/index.ts';
import type { BrokerReport } from '../venue/messages.ts';
import type { Draft, EntryBy, EntryData, HistoryLine } from './journal.ts';
import type { AccountState } from './state.ts';
import { historyLine, reportHistory, reportText } from './words.ts';

/** The entries that an account's reports become; those it has had already are passed over. A pure decision. */
export function draftReports(state: AccountState, reports: readonly BrokerReport[], instrumentOf: (id: string) => Instrument): Draft[] {
  const drafts: Draft[] = [];
  const ahead = new Map<string, Order>();
  for (const report of reports) {
    if (report.seq <= state.lastReport) continue;
    const say = (
      by: EntryBy,
      order: Order | null,
      text: string,
      data: EntryData,
      history: HistoryLine | null,
      instrument = order?.instrument ?? null,
    ): void => {
      const { time } = report;
      drafts.push({
        time,
        account: state.terms.id,
        by,
        instrument,
        orderId: order?.id ?? null,
        causedBy: null,
        text,
        data,
        history,
      });
    };
    switch (report.kind) {
      case 'day-turn': {
        const { seq: reportSeq, venue, day, settlements } = report;
        say('venue', null, `${venue}: a new trading day.`, { kind: 'day-turn', reportSeq, venue, day, settlements }, null);
        break;
      }
      case 'settled': {
        const { seq: reportSeq, instrument, worth, basis } = report;
        say(
          'venue',
          null,
          `${instrument} has ended and is settled in cash ${basis}.`,
          { kind: 'position-settled', reportSeq, instrument, worth },
          null,
          instrument,
        );
        break;
      }
      case 'opened': {
        const { order, seq: reportSeq } = report;
        ahead.set(order.id, order);
        const text = `The broker closes the intraday position: ${orderSentence(order, instrumentOf(order.instrument))}`;
        say('venue', order, text, { kind: 'order-opened', reportSeq, order }, historyLine(order, 'pending-new', null, null));
        break;
      }
      case 'order': {
        const before = ahead.get(report.orderId) ?? state.orders.get(report.orderId);
        if (!before) {
          const text = `The broker reports on ${report.orderId}, which is not known here.`;
          say('desk', null, text, { kind: 'difference', what: 'order', here: 'none', broker: report.orderId }, null);
          break;
        }
        const order = applyReport(before, report.report, report.time);
        ahead.set(order.id, order);
        const data: EntryData = { kind: 'order-report', reportSeq: report.seq, orderId: order.id, report: report.report };
        say('venue', order, reportText(order, report.report, instrumentOf(order.instrument)), data, reportHistory(order, report.report));
        break;
      }
      default:
        report satisfies never;
    }
  }
  return drafts;
}

/** Where two books of one account disagree, in their own units. */
export function differences(here: AccountBook, broker: AccountBook): { what: string; here: string; broker: string }[] {
  const ids = new Set([...Object.keys(here.positions), ...Object.keys(broker.positions)]);
  const lines = [
    { what: 'cash', here: String(here.cash), broker: String(broker.cash) },
    ...[...ids].map((id) => ({ what: `position ${id}`, here: String(here.positions[id]?.quantity ?? 0), broker: String(broker.positions[id]?.quantity ?? 0) })),
  ];
  return lines.filter((line) => line.here !== line.broker);
}
