import { endpoint } from './_endpoint.ts';
import { readScan, runAnswer } from './_scans.ts';

export const ALL = endpoint('/api/scan', {
  POST: async (call) => {
    const terms = await readScan(call, call.body, null);
    return terms instanceof Response ? terms : runAnswer(call, null, terms);
  },
});
