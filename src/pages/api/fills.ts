import { fillsAsFix } from '../../desk/fill-export.ts';
import { presentFill } from '../../desk/present/index.ts';
import { csv, endpoint, json, knownInstrument, ownAccounts, pageOf, pageQuery, withMore } from './_endpoint.ts';

const COLUMNS = [
  'id',
  'seq',
  'time',
  'orderId',
  'clientOrderId',
  'account',
  'instrument',
  'side',
  'role',
  'quantity',
  'price',
  'fee',
  'feeCurrency',
  'realised',
  'currency',
  'liquidity',
] as const;

export const ALL = endpoint('/api/fills', {
  GET: async (call) => {
    const { account, instrument, format } = call.query;
    const accounts = ownAccounts(call, account, '?account');
    if (accounts instanceof Response) return accounts;
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
    const asked = pageQuery(call);
    const wanted = { accounts, ...(instrument === undefined ? {} : { instrument: String(instrument) }) };
    const found = await withMore(asked, (page) => call.desk.listFills({ ...wanted, ...page }));
    const instrumentOf = (id: string) => call.desk.instrument(id);
    if (format === undefined)
      return json(
        200,
        pageOf(found, asked, (fill) => presentFill(instrumentOf(fill.instrument), fill)),
      );
    if (format === 'csv')
      return csv(
        'fills',
        COLUMNS,
        found.items.map((fill) => presentFill(instrumentOf(fill.instrument), fill)),
      );
    return new Response(fillsAsFix(found.items, instrumentOf), {
      headers: { 'content-type': 'text/plain; charset=utf-8', 'cache-control': 'no-store', 'content-disposition': 'attachment; filename="fills.fix"' },
    });
  },
});
