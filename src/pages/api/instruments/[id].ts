import { presentInstrument } from '../../../desk/present/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

export const ALL = endpoint('/api/instruments/{id}', {
  GET: (call) => {
    const instrument = call.desk.market.find(call.parameter('id'));
    return instrument ? json(200, presentInstrument(instrument)) : notFound();
  },
});
