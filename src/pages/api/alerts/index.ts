import type { AlertTerms } from '../../../desk/finding/things.ts';
import { presentAlert } from '../../../desk/present/index.ts';
import { NOTHING_SAID, alertAnswer, lineOf, readAlert, timeOf, type AlertBody } from '../_alerts.ts';
import { endpoint, json } from '../_endpoint.ts';

export const ALL = endpoint('/api/alerts', {
  GET: ({ finding, user }) => json(200, { items: finding.alerts.of(user).map((alert) => presentAlert(alert, finding.alerts.firingsOf(alert.id))) }),
  POST: async (call) => {
    const { until = null, line = null, ...body } = call.body as AlertBody & { kind: AlertTerms['kind'] };
    const terms = await readAlert(call, { ...NOTHING_SAID, ...body, line: lineOf(line), until: timeOf(until) });
    return terms instanceof Response ? terms : alertAnswer(call, 201, await call.finding.alerts.make(call.user, terms));
  },
});
