import type { PhraseError } from '../../core/language/index.ts';
import { ownLists } from '../../desk/finding/parts.ts';
import { readPhrase } from '../../desk/phrases.ts';
import type { ConditionAnswer } from '../../prices/messages.ts';
import { knownInstrument, ownAccounts, type Call } from './_endpoint.ts';

/** The names of the user's saved exit plans. */
export const planNames = async (call: Call): Promise<ReadonlySet<string>> => new Set((await call.saved.list(call.user, 'exit-plan')).map(({ name }) => name));

/** What reads order phrases of the user against a target; a problem where that is none. */
export async function orderReader(
  call: Call,
  account: string | undefined,
  instrument: string | undefined,
): Promise<Response | ((phrase: string) => Promise<object>)> {
  const own = ownAccounts(call, account, '/account');
  if (own instanceof Response) return own;
  const unknown = knownInstrument(call, instrument, '/instrument');
  if (unknown) return unknown;
  const owner = { accounts: call.accounts, plans: await planNames(call) };
  return async (phrase) => {
    const read = await readPhrase(call.desk, phrase, owner, { account: account ?? null, instrument: instrument ?? null });
    return read.ok ? { ok: true, ...read.value, error: null } : { ok: false, canonical: null, reading: null, requests: [], act: null, error: read.error };
  };
}

/** Reads a condition, of an instrument where one is given. */
export async function readCondition(call: Call, phrase: string, instrument: string | null): Promise<ConditionAnswer> {
  const own = await ownLists(call, call.user);
  const read = await call.finding.condition(phrase, instrument, own);
  if (!read.ok) return read;
  const missing = read.value.lists.find((list) => !Object.hasOwn(own.lists, list));
  if (missing === undefined) return read;
  const from = phrase.indexOf(missing);
  const error = { message: `there is no watchlist named ${missing}`, from, to: from + missing.length, expected: Object.keys(own.lists).slice(0, 12) };
  return { ok: false, error };
}

/** A phrase that can't be kept, as an error of the request. */
export const phraseProblem = (path: string, { message, from, to, expected }: PhraseError): PhraseError & { readonly path: string } => ({
  path,
  message,
  from,
  to,
  expected,
});
