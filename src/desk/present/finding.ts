import type { finding, ShapeOf } from '../../schemas/shapes.ts';
import type { Alert, AlertLine, ConditionalOrder, Firing, ScanRun } from '../finding/things.ts';
import { isoOrNull, isoTime } from './text.ts';

export function presentAlert(alert: Alert, firings: readonly Firing[]): ShapeOf<typeof finding.alert> {
  const { user: _user, memory: _memory, until, snoozedUntil, line, ...rest } = alert;
  const point = ({ time, price }: AlertLine['from']) => ({ time: isoTime(time), price });
  return {
    ...rest,
    line: line && { from: point(line.from), to: point(line.to) },
    until: isoOrNull(until),
    snoozedUntil: isoOrNull(snoozedUntil),
    firings: firings.map(({ seq, time, value, text }) => ({ seq, time: isoTime(time), value, text })),
  };
}

export function presentWaiting(order: ConditionalOrder): ShapeOf<typeof finding.conditionalOrder> {
  const { id, clientOrderId, account, when, instrument, until, state, orderId, reason, since } = order;
  return { id, clientOrderId, account, when, instrument, order: order.order, until: isoOrNull(until), state, orderId, reason, since: isoTime(since) };
}

export function presentRun({ user: _user, at, almost = [], ...run }: ScanRun): ShapeOf<typeof finding.scanResult> {
  return { ...run, almost, at: isoTime(at) };
}
