import { positionsOf } from '../../../desk/feed.ts';
import { presentPosition } from '../../../desk/present/index.ts';
import { endpoint, json, knownInstrument, ownAccounts } from '../_endpoint.ts';

export const ALL = endpoint('/api/positions', {
  GET: async (call) => {
    const { account, instrument } = call.query;
    const accounts = ownAccounts(call, account, '?account');
    if (accounts instanceof Response) return accounts;
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
    await call.desk.ensureMarks(accounts);
    const items = accounts.flatMap((id) => {
      const state = call.desk.account(id);
      return positionsOf(state)
        .filter((position) => instrument === undefined || position.instrument === instrument)
        .map((position) => presentPosition(state, position, call.desk.market));
    });
    return json(200, { items });
  },
});
