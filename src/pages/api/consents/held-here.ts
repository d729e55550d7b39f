import { isoOrNull } from '../../../desk/present/index.ts';
import type { Consent } from '../../../desk/consents.ts';
import { endpoint, json } from '../_endpoint.ts';

const answer = ({ given, at }: Consent): Response => json(200, { given, at: isoOrNull(at) });

export const ALL = endpoint('/api/consents/held-here', {
  GET: (call) => answer(call.consents.of(call.user)),
  PUT: async (call) => answer(await call.consents.put(call.user, { given: (call.body as { given: boolean }).given, at: call.desk.now() })),
});
