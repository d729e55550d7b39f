import { presentRun } from '../../../../desk/present/index.ts';
import { endpoint, json } from '../../_endpoint.ts';
import { savedScan } from '../../_scans.ts';

export const ALL = endpoint('/api/scans/{name}/results', {
  GET: async (call) => {
    const found = await savedScan(call);
    if (found instanceof Response) return found;
    return json(200, { items: (await call.finding.scans.results(call.user, found.scan.name)).map(presentRun) });
  },
});
