import { presentNews } from '../../desk/present/index.ts';
import { endpoint, json, knownInstrument, pageOf, pageQuery } from './_endpoint.ts';

export const ALL = endpoint('/api/news', {
  GET: async (call) => {
    const { instrument } = call.query;
    const unknown = knownInstrument(call, instrument, '?instrument');
    if (unknown) return unknown;
    const asked = pageQuery(call);
    const found = await call.desk.news({ instrument: instrument === undefined ? null : String(instrument), ...asked });
    return json(200, pageOf(found, asked, presentNews));
  },
});
