import { presentPrint } from '../../../desk/present/index.ts';
import { endpoint, json, pageOf, pageQuery } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

export const ALL = endpoint('/api/trades/{id}', {
  GET: async (call) => {
    const instrument = call.desk.market.find(call.parameter('id'));
    if (!instrument) return notFound();
    const asked = pageQuery(call);
    const found = await call.desk.prints({ instrument: instrument.id, ...asked });
    return json(
      200,
      pageOf(found, asked, (print) => presentPrint(instrument, print)),
    );
  },
});
