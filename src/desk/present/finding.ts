import type { finding, ShapeOf } from '../../schemas/shapes.ts';
import type { Alert, ConditionalOrder, Firing, ScanRun } from '../finding/things.ts';
import { isoOrNull, isoTime } from './text.ts';

export function presentAlert(alert: Alert, firings: readonly Firing[]): ShapeOf<typeof finding.alert> {
  const { user: _user, memory: _memory, until, snoozedUntil, ...rest } = alert;
  return {
    ...rest,
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
