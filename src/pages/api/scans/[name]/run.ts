import { endpoint } from '../../_endpoint.ts';
import { readScan, runAnswer, savedScan } from '../../_scans.ts';

export const ALL = endpoint('/api/scans/{name}/run', {
  POST: async (call) => {
    const found = await savedScan(call);
    if (found instanceof Response) return found;
    // What it names may be gone since it was saved.
    const terms = await readScan(call, found.scan, found.scan.name);
    return terms instanceof Response ? terms : runAnswer(call, found.scan.name, terms);
  },
});
