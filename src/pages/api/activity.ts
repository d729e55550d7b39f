import { presentEntry } from '../../desk/present/index.ts';
import { endpoint, json, knownInstrument, ownAccounts, pageOf, pageQuery, withMore } from './_endpoint.ts';

export const ALL = endpoint('/api/activity', {
  GET: async (call) => {
    const { account, instrument } = call.query;
    const accounts = ownAccounts(call, account, '?account');
    if (accounts instanceof Response) return accounts;
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
    const asked = pageQuery(call);
    const wanted = { accounts, ...(instrument === undefined ? {} : { instrument: String(instrument) }) };
    return json(200, pageOf(await withMore(asked, (page) => call.desk.entries({ ...wanted, ...page })), asked, presentEntry));
  },
});
