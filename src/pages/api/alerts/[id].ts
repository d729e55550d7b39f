import { alertAnswer, lineOf, readAlert, timeOf, type AlertBody } from '../_alerts.ts';
import { endpoint } from '../_endpoint.ts';
import { invalid, notFound } from '../_problem.ts';

export const ALL = endpoint('/api/alerts/{id}', {
  GET: (call) => {
    const found = call.finding.alerts.find(call.user, call.parameter('id'));
    return found ? alertAnswer(call, 200, found) : notFound();
  },
  PATCH: async (call) => {
    const found = call.finding.alerts.find(call.user, call.parameter('id'));
    if (!found) return notFound();
    const { until, snoozedUntil, line, ...body } = call.body as AlertBody;
    const { id: _id, user: _user, state: _state, snoozedUntil: _snoozed, memory: _memory, until: _ends, ...before } = found;
    const ends = until === undefined ? (found.state === 'ended' ? null : found.until) : timeOf(until);
    const terms = await readAlert(call, { ...before, ...body, ...(line === undefined ? {} : { line: lineOf(line) }), until: ends });
    if (terms instanceof Response) return terms;
    const snooze = snoozedUntil === undefined ? undefined : timeOf(snoozedUntil);
    if (snooze !== undefined && snooze !== null && snooze <= call.desk.now())
      return invalid([{ path: '/snoozedUntil', message: `must be later than ${new Date(call.desk.now()).toISOString()}` }]);
    const { until: _until, ...changed } = terms;
    return alertAnswer(call, 200, await call.finding.alerts.change(found, until === undefined ? changed : terms, snooze));
  },
  DELETE: async (call) => {
    const found = call.finding.alerts.find(call.user, call.parameter('id'));
    if (!found) return notFound();
    await call.finding.alerts.drop(found);
    return new Response(null, { status: 204 });
  },
});
