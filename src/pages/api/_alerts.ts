import { parseScaled } from '../../core/number/index.ts';
import type { Alert, AlertLine, AlertTerms, Scan } from '../../desk/finding/things.ts';
import { presentAlert } from '../../desk/present/index.ts';
import { json, type Call } from './_endpoint.ts';
import { phraseProblem, readCondition } from './_phrases.ts';
import { invalid } from './_problem.ts';

/** What a body says of an alert: times as text, the rest as it is kept. */
export type AlertBody = Partial<Omit<AlertTerms, 'until' | 'line'>> & {
  readonly until?: string | null;
  readonly line?: LineBody | null;
  readonly snoozedUntil?: string | null;
};

interface LineBody {
  readonly from: { readonly time: string; readonly price: string };
  readonly to: { readonly time: string; readonly price: string };
}

const USED: Readonly<Record<Alert['kind'], readonly string[]>> = {
  price: ['price', 'line', 'direction'],
  scan: ['scan'],
  condition: ['phrase', 'account'],
  order: ['event', 'account'],
  risk: ['event', 'account'],
  news: ['words'],
};
const OF_KIND = ['price', 'line', 'scan', 'direction', 'phrase', 'account', 'words', 'event'] as const;

const isPositive = (price: string): boolean => (parseScaled(price, 18) ?? 0n) > 0n;

/** Why a scan can't tell of anything new, or null. */
async function scanProblem({ saved, user }: Call, name: string): Promise<string | null> {
  const found = await saved.get(user, 'scan', name);
  if (!found) return `there is no scan named ${name}`;
  const { keep, schedule } = found.document as Scan;
  return keep || schedule ? null : `${name} is neither kept running nor has times: it would find nothing new`;
}

/** What a body says of a line. */
export const lineOf = (line: LineBody | null): AlertLine | null =>
  line && { from: { ...line.from, time: Date.parse(line.from.time) }, to: { ...line.to, time: Date.parse(line.to.time) } };

/** The terms of an alert, all of them, with its phrase in canonical form; the problems where they don't fit. */
export async function readAlert(call: Call, terms: AlertTerms): Promise<AlertTerms | Response> {
  const problems: { path: string; message: string }[] = [];
  const { kind, instrument, price, line, scan, phrase, account, words, event, until } = terms;
  for (const field of OF_KIND)
    if (terms[field] !== null && !USED[kind].includes(field)) problems.push({ path: `/${field}`, message: `does not go with an alert of kind ${kind}` });
  if (instrument !== null && !call.desk.market.find(instrument)) problems.push({ path: '/instrument', message: `${instrument} is not known` });
  if (instrument === null && (kind === 'price' || kind === 'condition')) problems.push({ path: '/instrument', message: 'is needed' });
  if (account !== null && !call.accounts.includes(account))
    problems.push({ path: '/account', message: `${account} is not one of your accounts; accepted: ${call.accounts.join(', ')}` });
  if (kind === 'price' && price === null && line === null) problems.push({ path: '/price', message: 'is needed, or a line' });
  if (kind === 'price' && price !== null && line !== null) problems.push({ path: '/line', message: 'does not go with a price: one of the two' });
  if (price !== null && !isPositive(price)) problems.push({ path: '/price', message: 'must be above 0' });
  for (const end of ['from', 'to'] as const)
    if (line && !isPositive(line[end].price)) problems.push({ path: `/line/${end}/price`, message: 'must be above 0' });
  if (line && line.from.time >= line.to.time) problems.push({ path: '/line/to/time', message: 'must be later than where the line begins' });
  if (kind === 'scan' && instrument !== null) problems.push({ path: '/instrument', message: 'does not go with an alert of kind scan' });
  if (kind === 'scan') {
    const wrong = scan === null ? 'is needed' : await scanProblem(call, scan);
    if (wrong !== null) problems.push({ path: '/scan', message: wrong });
  }
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
  line: null,
  scan: null,
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
