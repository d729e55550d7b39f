import { caught, parseOrder, subjectOf } from '../../../core/language/index.ts';
import { consentMissing } from '../../../core/desk/index.ts';
import { sceneOf } from '../../../desk/phrases.ts';
import { presentWaiting } from '../../../desk/present/index.ts';
import { timeOf } from '../_alerts.ts';
import { endpoint, json, knownInstrument, ownAccounts, type Call } from '../_endpoint.ts';
import { phraseProblem, planNames, readCondition } from '../_phrases.ts';
import { invalid, problem, refusalProblem } from '../_problem.ts';

interface Body {
  readonly clientOrderId: string;
  readonly account?: string;
  readonly when: string;
  readonly instrument: string;
  readonly order: string | { readonly account: string; readonly instrument: string };
  readonly until?: string | null;
}

export const ALL = endpoint('/api/conditional-orders', {
  GET: ({ finding, user }) => json(200, { items: finding.waiting.of(user).map(presentWaiting) }),
  POST: async (call) => {
    const body = call.body as Body;
    const { clientOrderId, when, instrument, order } = body;
    const wrong = ownOf(call, body) ?? knownInstrument(call, instrument, '/instrument');
    if (wrong) return wrong;
    const read = await readCondition(call, when, null);
    if (!read.ok) return invalid([phraseProblem('/when', read.error)]);
    const until = timeOf(body.until ?? null);
    if (until !== null && until <= call.desk.now())
      return invalid([{ path: '/until', message: `must be later than ${new Date(call.desk.now()).toISOString()}` }]);
    const account = await accountOf(call, body);
    if (account instanceof Response) return account;
    if (!call.consents.of(call.user).given) return refusalProblem(consentMissing());
    const done = await call.finding.waiting.make(call.user, { clientOrderId, account, when: read.value.canonical, instrument, order, until });
    if (done === 'used') return problem(409, 'conflict', `The client order id ${clientOrderId} was used before with other content. Use a new one.`);
    return json(done.made ? 201 : 200, presentWaiting(done.order), done.made ? { location: `/api/conditional-orders/${done.order.id}` } : {});
  },
});

function ownOf(call: Call, { account, order }: Body): Response | null {
  const own = ownAccounts(call, account, '/account');
  if (own instanceof Response) return own;
  if (typeof order === 'string') return null;
  const named = ownAccounts(call, order.account, '/order/account');
  return named instanceof Response ? named : knownInstrument(call, order.instrument, '/order/instrument');
}

/** The account that the order is for: as it says itself, or as its phrase does. Grammar, account and instrument are looked at, no more. */
async function accountOf(call: Call, { account, order, instrument }: Body): Promise<string | Response> {
  if (typeof order !== 'string') return order.account;
  const parsed = parseOrder(order);
  if (!parsed.ok) return invalid([phraseProblem('/order', parsed.error)]);
  if (parsed.value.act.kind !== 'order') return invalid([{ path: '/order', message: 'is an act, and an order is needed: buy or sell' }]);
  const scene = sceneOf(call.desk, { accounts: call.accounts, plans: await planNames(call) }, { account: account ?? null, instrument });
  const subject = caught(() => subjectOf(parsed.value, order.length, scene));
  return subject.ok ? subject.value.account.id : invalid([phraseProblem('/order', subject.error)]);
}
