import { presentEntry } from '../../desk/present/index.ts';
import { endpoint, json, knownInstrument, ownAccounts, pageOf, pageQuery } from './_endpoint.ts';

export const ALL = endpoint('/api/activity', {
  GET: async (call) => {
    const { account, instrument } = call.query;
    const accounts = ownAccounts(call, account, '?account');
    if (accounts instanceof Response) return accounts;
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
    const asked = pageQuery(call);
    const wanted = { accounts, ...(instrument === undefined ? {} : { instrument: String(instrument) }) };
    const cursors = { ...(asked.before === null ? {} : { before: asked.before }), ...(asked.after === null ? {} : { after: asked.after }) };
    const items = await call.desk.entries({ ...wanted, ...cursors, limit: asked.limit });
    const first = items[0]?.seq;
    const more = first !== undefined && (await call.desk.entries({ ...wanted, before: first, limit: 1 })).length > 0;
    return json(200, pageOf({ items, more }, asked, presentEntry));
  },
});
