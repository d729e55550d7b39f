import { formatPrice } from '../instrument/index.ts';
import { formatMoney } from '../number/index.ts';
import { applyReport, orderSentence, type Order } from '../orders/index.ts';
import type { BrokerReport } from './broker.ts';
import { draft, type Decision } from './decision.ts';
import type { Draft, EntryData } from './entries.ts';
import type { Facts } from './facts.ts';
import { filledInGroup } from './here.ts';
import type { AccountState } from './state.ts';
import { historyLine, reportHistory, reportText } from './words.ts';

/** An order as far as the reports before have brought it, and the entry that last asked something of it. */
interface Ahead {
  readonly order: Order;
  readonly askedBy: number | null;
}

/** What reports of the broker become, one entry each; those that were had already become nothing. */
export function decideReports(state: AccountState, reports: readonly BrokerReport[], facts: Facts): Decision {
  const entries: Draft[] = [];
  const ahead = new Map<string, Ahead>();
  let last = state.lastReport;
  for (const report of reports) {
    if (report.seq <= last) continue;
    last = report.seq;
    entries.push(entryOf(state, report, ahead, facts));
    if (report.kind !== 'order' || report.report.kind !== 'trade') continue;
    const filled = ahead.get(report.orderId)?.order;
    if (!filled?.group) continue;
    for (const { order, entry } of filledInGroup(state, filled, report.report.quantity, facts, (one) => ahead.get(one.id)?.order ?? one)) {
      ahead.set(order.id, { order, askedBy: ahead.get(order.id)?.askedBy ?? null });
      entries.push(entry);
    }
  }
  return { entries, answer: { kind: 'done' } };
}

function entryOf(state: AccountState, report: BrokerReport, ahead: Map<string, Ahead>, facts: Facts): Draft {
  const { seq: reportSeq, time } = report;
  switch (report.kind) {
    case 'day-turn': {
      const { venue, day, settlements } = report;
      return draft(state, time, `${venue}: a new trading day.`, { kind: 'day-turn', reportSeq, venue, day, settlements }, { by: 'venue' });
    }
    case 'cash': {
      const { request } = report;
      const text = `${request.kind === 'deposit' ? 'Deposit' : 'Withdrawal'} of ${formatMoney(request.amount, 'EUR')} EUR: ${request.state}.`;
      return draft(state, time, text, { kind: 'cash-report', reportSeq, request }, { by: 'venue' });
    }
    case 'application': {
      const { application } = report;
      const { issue, state: stands, allottedLots, lots, issuePrice } = application;
      const price = issuePrice === null ? '' : ` at ${formatPrice(facts.instrument(issue), issuePrice)}`;
      const text = `Application for ${issue}: ${allottedLots === null ? stands : `${allottedLots} of ${lots} lots${price}`}.`;
      return draft(state, time, text, { kind: 'application-report', reportSeq, application }, { by: 'venue', instrument: issue });
    }
    case 'commission': {
      const text = `Commission on ${report.line.kind}s agreed from ${report.line.from} on.`;
      return draft(state, time, text, { kind: 'commission-agreed', reportSeq, line: report.line }, { by: 'venue' });
    }
    case 'settled': {
      const { instrument, worth, basis } = report;
      const data: EntryData = { kind: 'position-settled', reportSeq, instrument, worth };
      return draft(state, time, `${instrument} has ended and is settled in cash ${basis}.`, data, { by: 'venue', instrument });
    }
    case 'link-refused': {
      const { requestId, groupId, reason } = report;
      return draft(
        state,
        time,
        `The broker did not link the orders. ${reason}`,
        { kind: 'link-refused', reportSeq, requestId, groupId, reason },
        { by: 'venue' },
      );
    }
    case 'opened': {
      const { order } = report;
      ahead.set(order.id, { order, askedBy: null });
      const instrument = facts.instrument(order.instrument);
      const what = order.opening ? 'Allotted in the new issue' : 'The broker closes the intraday position';
      const text = `${what}: ${orderSentence(order, instrument)}`;
      const history = historyLine(order, instrument, 'pending-new', null, null);
      return draft(state, time, text, { kind: 'order-opened', reportSeq, order }, { by: 'venue', order, history });
    }
    case 'order': {
      const of = ahead.get(report.orderId) ?? state.working.get(report.orderId) ?? facts.past(report.orderId);
      if (!of) {
        const text = `The broker reports on ${report.orderId}, which is not known here.`;
        return draft(state, time, text, { kind: 'report-unplaced', reportSeq, orderId: report.orderId }, { by: 'desk' });
      }
      const order = applyReport(of.order, report.report, time);
      ahead.set(order.id, { order, askedBy: of.askedBy });
      const instrument = facts.instrument(order.instrument);
      const data: EntryData = { kind: 'order-report', reportSeq, orderId: order.id, report: report.report };
      const history = reportHistory(order, instrument, report.report);
      return draft(state, time, reportText(order, report.report, instrument), data, { by: 'venue', order, causedBy: of.askedBy, history });
    }
    default:
      return report satisfies never;
  }
}
