import { presentLink } from '../../desk/present/index.ts';
import { endpoint, json } from './_endpoint.ts';

export const ALL = endpoint('/api/link', {
  GET: (call) => json(200, presentLink(call.desk.link)),
  POST: async (call) => json(200, presentLink(await call.desk.setLink(call.body))),
});
