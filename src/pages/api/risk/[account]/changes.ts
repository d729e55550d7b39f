import { page } from '../../../../core/page.ts';
import { presentChange } from '../../../../desk/present/index.ts';
import { endpoint, json, pageOf, pageQuery } from '../../_endpoint.ts';
import { accountIn } from '../../_risk.ts';

export const ALL = endpoint('/api/risk/{account}/changes', {
  GET: (call) => {
    const state = accountIn(call);
    if (state instanceof Response) return state;
    const asked = pageQuery(call);
    return json(200, pageOf(page(state.risk.changes, asked), asked, presentChange));
  },
});
