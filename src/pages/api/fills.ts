import { page } from '../../core/page.ts';
import { fillsAsCsv, fillsAsFix } from '../../desk/fill-export.ts';
import { presentFill } from '../../desk/present/index.ts';
import { endpoint, json, knownInstrument, ownAccounts, pageOf, pageQuery } from './_endpoint.ts';

export const ALL = endpoint('/api/fills', {
  GET: (call) => {
    const { account, instrument } = call.query;
    const accounts = ownAccounts(call, account, '?account');
    if (accounts instanceof Response) return accounts;
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
    const found = accounts
      .flatMap((id) => call.desk.account(id).fills)
      .filter((fill) => instrument === undefined || fill.instrument === instrument)
      .sort((a, b) => a.seq - b.seq);
    const asked = pageQuery(call);
    const { format } = call.query;
    if (format !== undefined) {
      const { items } = page(found, asked);
      const csv = format === 'csv';
      const body = csv ? fillsAsCsv(call.desk, items) : fillsAsFix(call.desk, items);
      return new Response(body, {
        headers: {
          'content-type': csv ? 'text/csv; charset=utf-8' : 'text/plain; charset=utf-8',
          'content-disposition': `attachment; filename="fills.${csv ? 'csv' : 'fix'}"`,
        },
      });
    }
    return json(
      200,
      pageOf(page(found, asked), asked, (fill) => presentFill(call.desk.instrument(fill.instrument), fill)),
    );
  },
});
