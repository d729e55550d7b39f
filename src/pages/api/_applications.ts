import type { Intent } from '../../core/desk/index.ts';
import { parsePrice, type Price } from '../../core/instrument/index.ts';
import { presentApplication } from '../../desk/backoffice/present.ts';
import { json, type Call } from './_endpoint.ts';
import { invalid, refusalProblem } from './_problem.ts';

/** A price of a new issue as it comes in a body; a Response where it is finer than the instrument's prices. */
export function priceAsked(call: Call, issue: string, text: string): Price | Response {
  return parsePrice(call.desk.instrument(issue), text) ?? invalid([{ path: '/price', message: 'has more decimals than prices have here' }]);
}

/** Asks for an application, or for something of one, and answers how it stands. */
export async function askApplication(call: Call, account: string, intent: Intent): Promise<Response> {
  const done = await call.desk.ask(account, intent);
  if (!done.ok) return refusalProblem(done.refusal);
  if (done.value.kind !== 'application') throw new Error('an application has another answer');
  const { application, made } = done.value;
  const body = presentApplication(call.desk.instrument(application.issue), application);
  return json(made ? 201 : 200, body, made ? { location: `/api/applications/${application.id}` } : {});
}
