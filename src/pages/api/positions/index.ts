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
    const trailing = accounts.flatMap((id) => [...call.desk.account(id).working.values()].filter(({ order }) => order.terms.type === 'trailing-stop'));
    const standings = await call.desk.standing(trailing.map(({ order }) => order.id));
    const items = accounts.flatMap((id) => {
      const state = call.desk.account(id);
      return positionsOf(state)
        .filter((position) => instrument === undefined || position.instrument === instrument)
        .map((position) => presentPosition(state, position, call.desk.market, (order) => standings.get(order)?.price ?? null));
    });
    return json(200, { items });
  },
});
