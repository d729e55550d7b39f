import { endpoint, json } from './_endpoint.ts';
import { NOTHING, putDocument } from './_saved.ts';

const KIND = 'settings';
/** There is one to a user. */
const NAME = 'own';

/** How Kavix is set up for a user; nothing yet is an empty object. */
export const ALL = endpoint('/api/settings', {
  GET: async ({ saved, user }) => {
    const found = await saved.get(user, KIND, NAME);
    return found ? json(200, found.document, { etag: `"${found.revision}"` }) : json(200, {}, { etag: NOTHING });
  },
  PUT: (call) => putDocument(call, KIND, NAME, null),
});
