import { readPhrase } from '../../../desk/phrases.ts';
import { endpoint, json, knownInstrument, ownAccounts } from '../_endpoint.ts';
import { planNames } from '../_phrases.ts';

export const ALL = endpoint('/api/phrases/order', {
  POST: async (call) => {
    const { phrase, account, instrument } = call.body as { phrase: string; account?: string; instrument?: string };
    const own = ownAccounts(call, account, '/account');
    if (own instanceof Response) return own;
    const unknown = knownInstrument(call, instrument, '/instrument');
    if (unknown) return unknown;
    const owner = { accounts: call.accounts, plans: await planNames(call) };
    const read = await readPhrase(call.desk, phrase, owner, { account: account ?? null, instrument: instrument ?? null });
    return json(
      200,
      read.ok ? { ok: true, ...read.value, error: null } : { ok: false, canonical: null, reading: null, requests: [], act: null, error: read.error },
    );
  },
});
