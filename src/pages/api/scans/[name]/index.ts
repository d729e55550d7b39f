import { endpoint, json } from '../../_endpoint.ts';
import { invalid, problem } from '../../_problem.ts';
import { dropScan, keepScan, savedScan, type ScanBody } from '../../_scans.ts';

export const ALL = endpoint('/api/scans/{name}', {
  GET: async (call) => {
    const found = await savedScan(call);
    return found instanceof Response ? found : json(200, found.scan);
  },
  PUT: async (call) => {
    const found = await savedScan(call);
    if (found instanceof Response) return found;
    const body = call.body as ScanBody;
    const { scan, revision } = found;
    if (body.name !== undefined && body.name !== scan.name) return invalid([{ path: '/name', message: `must be ${scan.name}, as in the path` }]);
    if (body.version !== undefined && body.version !== scan.version)
      return problem(409, 'conflict', `The scan is at version ${scan.version}; read it again.`, { version: scan.version });
    return keepScan(call, scan.name, body, scan.version + 1, { revision });
  },
  DELETE: dropScan,
});
