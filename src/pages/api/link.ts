import type { LinkState } from '../../desk/broker-link.ts';
import { isoTime } from '../../desk/present/index.ts';
import { endpoint, json } from './_endpoint.ts';

const present = (link: LinkState): object => ({
  ...link,
  since: isoTime(link.since),
  brokerSince: isoTime(link.brokerSince),
  dataSince: isoTime(link.dataSince),
});

export const ALL = endpoint('/api/link', {
  GET: (call) => json(200, present(call.desk.link)),
  POST: async (call) => json(200, present(await call.desk.setLink(call.body))),
});
