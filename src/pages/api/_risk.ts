import type { AccountState } from '../../core/desk/index.ts';
import { presentRisk, type RiskStateAnswer } from '../../desk/present/index.ts';
import type { Call } from './_endpoint.ts';
import { notFound } from './_problem.ts';

/** The account in the path, where it is one of the user's. */
export function accountIn(call: Call): AccountState | Response {
  const account = call.parameter('account');
  return call.accounts.includes(account) ? call.desk.account(account) : notFound();
}

export async function riskAnswer(call: Call, state: AccountState): Promise<RiskStateAnswer> {
  await call.desk.ensureMarks([state.terms.id]);
  return presentRisk(state, call.desk.marks(), call.desk.now(), (id) => call.desk.lastStanding(id));
}
