import { runAct } from '../../_baskets.ts';
import { endpoint } from '../../_endpoint.ts';

export const ALL = endpoint('/api/basket-runs/{id}/cancel', { POST: (call) => runAct(call, (run) => call.baskets.cancel(run, false)) });
