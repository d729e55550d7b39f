import { fillsAsCsv, fillsAsFix } from '../../desk/fill-export.ts';
import { presentFill } from '../../desk/present/index.ts';
import { endpoint, json, knownInstrument, ownAccounts, pageOf, pageQuery, withMore } from './_endpoint.ts';

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
    const csv = format === 'csv';
    return new Response(csv ? fillsAsCsv(found.items, instrumentOf) : fillsAsFix(found.items, instrumentOf), {
      headers: {
        'content-type': csv ? 'text/csv; charset=utf-8' : 'text/plain; charset=utf-8',
        'content-disposition': `attachment; filename="fills.${csv ? 'csv' : 'fix'}"`,
      },
    });
  },
});
