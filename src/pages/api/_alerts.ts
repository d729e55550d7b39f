import { parseScaled } from '../../core/number/index.ts';
import type { Alert, AlertTerms } from '../../desk/finding/things.ts';
import { presentAlert } from '../../desk/present/index.ts';
import { json, type Call } from './_endpoint.ts';
import { phraseProblem, readCondition } from './_phrases.ts';
import { invalid } from './_problem.ts';

/** What a body says of an alert: times as text, the rest as it is kept. */
export type AlertBody = Partial<Omit<AlertTerms, 'until'>> & { readonly until?: string | null; readonly snoozedUntil?: string | null };

const USED: Readonly<Record<Alert['kind'], readonly string[]>> = {
  price: ['price', 'direction'],
  condition: ['phrase', 'account'],
  order: ['event', 'account'],
  risk: ['event', 'account'],
  news: ['words'],
};
const OF_KIND = ['price', 'direction', 'phrase', 'account', 'words', 'event'] as const;

/** The terms of an alert, all of them, with its phrase in canonical form; the problems where they don't fit. */
export async function readAlert(call: Call, terms: AlertTerms): Promise<AlertTerms | Response> {
  const problems: { path: string; message: string }[] = [];
  const { kind, instrument, price, phrase, account, words, event, until } = terms;
  for (const field of OF_KIND)
    if (terms[field] !== null && !USED[kind].includes(field)) problems.push({ path: `/${field}`, message: `does not go with an alert of kind ${kind}` });
  if (instrument !== null && !call.desk.market.find(instrument)) problems.push({ path: '/instrument', message: `${instrument} is not known` });
  if (instrument === null && (kind === 'price' || kind === 'condition')) problems.push({ path: '/instrument', message: 'is needed' });
  if (account !== null && !call.accounts.includes(account))
    problems.push({ path: '/account', message: `${account} is not one of your accounts; accepted: ${call.accounts.join(', ')}` });
  if (kind === 'price' && (price === null || (parseScaled(price, 18) ?? 0n) <= 0n))
    problems.push({ path: '/price', message: price === null ? 'is needed' : 'must be above 0' });
  if (kind === 'news' && words === null) problems.push({ path: '/words', message: 'is needed' });
  if (kind === 'order' && (event === null || event === 'blocked'))
    problems.push({ path: '/event', message: 'must be one of filled, rejected, canceled, plan-fired' });
  if (kind === 'risk' && event !== null && event !== 'blocked') problems.push({ path: '/event', message: 'must be blocked' });
  if (until !== null && until <= call.desk.now()) problems.push({ path: '/until', message: `must be later than ${new Date(call.desk.now()).toISOString()}` });
  let canonical = phrase;
  if (kind === 'condition') {
    if (phrase === null) problems.push({ path: '/phrase', message: 'is needed' });
    else {
      const read = await readCondition(call, phrase, null);
      if (read.ok) canonical = read.value.canonical;
      else problems.push(phraseProblem('/phrase', read.error));
    }
  }
  if (problems.length > 0) return invalid(problems);
  return { ...terms, phrase: canonical, direction: kind === 'price' ? (terms.direction ?? 'either') : null, event: kind === 'risk' ? 'blocked' : event };
}

export const alertAnswer = (call: Call, status: number, alert: Alert): Response => json(status, presentAlert(alert, call.finding.alerts.firingsOf(alert.id)));

export const NOTHING_SAID: Omit<AlertTerms, 'kind'> = {
  name: null,
  instrument: null,
  price: null,
  direction: null,
  phrase: null,
  account: null,
  words: null,
  event: null,
  fires: 'once',
  pauseSeconds: 0,
  until: null,
  sound: null,
  note: null,
};

/** A time as it is sent, in milliseconds. */
export const timeOf = (text: string | null): number | null => (text === null ? null : Date.parse(text));
