import { NONE } from '../../../../../core/review/index.ts';
import { endpoint, json, type Call } from '../../../_endpoint.ts';
import { invalid, notFound, refusalProblem } from '../../../_problem.ts';

/** The round trip that goes on in a position of one's own; null where there is none. */
async function goingOn(call: Call): Promise<{ account: string; instrument: string; id: string; setup: string | null } | null> {
  const account = call.parameter('account');
  const instrument = call.desk.market.find(call.parameter('instrument'));
  if (!call.accounts.includes(account) || !instrument) return null;
  const going = await call.past.going(account, instrument.id);
  return going && { account, instrument: instrument.id, ...going };
}

async function told(call: Call): Promise<Response> {
  const going = await goingOn(call);
  return going ? json(200, { account: going.account, instrument: going.instrument, setup: going.setup }) : notFound();
}

export const ALL = endpoint('/api/positions/{account}/{instrument}/setup', {
  GET: told,
  PUT: async (call) => {
    const going = await goingOn(call);
    if (!going) return notFound();
    const { setup } = call.body as { setup: string | null };
    if (setup === NONE) return invalid([{ path: '/setup', message: `${NONE} stands for having none; accepted: another name, or null for none` }]);
    const done = await call.desk.ask(going.account, { kind: 'mark-trip', trip: going.id, instrument: going.instrument, setup });
    return done.ok ? told(call) : refusalProblem(done.refusal);
  },
});
