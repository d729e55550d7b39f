import { runAct } from '../../_baskets.ts';
import { endpoint } from '../../_endpoint.ts';

export const ALL = endpoint('/api/basket-runs/{id}/resume', { POST: (call) => runAct(call, (run) => call.baskets.resume(run)) });
