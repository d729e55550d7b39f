import { endpoint, json } from '../_endpoint.ts';
import { keepScan, savedScans, type ScanBody } from '../_scans.ts';

export const ALL = endpoint('/api/scans', {
  GET: async (call) => json(200, { items: await savedScans(call) }),
  POST: (call) => {
    const body = call.body as ScanBody & { name: string };
    return keepScan(call, body.name, body, 1, 'nothing');
  },
});
