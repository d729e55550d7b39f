import type { APIRoute } from 'astro';
import { isoTime } from '../../desk/present/index.ts';
import { problemsIn, type Expected, type SavedKind } from '../../desk/saved.ts';
import { isGivenName } from '../../schemas/formats.ts';
import { endpoint, json, type Call } from './_endpoint.ts';
import { invalid, problem } from './_problem.ts';

/** The names of a user's documents of a kind. */
export const savedList = (path: string, kind: SavedKind): APIRoute =>
  endpoint(path, {
    GET: async ({ saved, user }) =>
      json(200, { items: (await saved.list(user, kind)).map(({ name, updatedAt }) => ({ name, updatedAt: isoTime(updatedAt) })) }),
  });

export const missing = (kind: SavedKind, name: string): Response => problem(404, 'not-found', `There is no ${kind.replace('-', ' ')} named ${name}.`);

/** The name in the path, as the trader gave it: it comes in base64url behind a tilde. */
export const nameIn = (call: Call): string => Buffer.from(call.parameter('name').slice(1), 'base64url').toString();

/** One document: read, put whole, deleted. */
export const savedDocument = (path: string, kind: SavedKind): APIRoute =>
  endpoint(path, {
    GET: async (call) => {
      const name = nameIn(call);
      const found = isGivenName(name) ? await call.saved.get(call.user, kind, name) : null;
      return found ? json(200, found.document, { etag: `"${found.revision}"` }) : missing(kind, name);
    },
    PUT: async (call: Call) => {
      const name = nameIn(call);
      if (!isGivenName(name)) return invalid([{ path: '/name', message: 'a name is 1 to 64 printing characters without a blank at either end' }]);
      const problems = problemsIn(kind, call.body, { instrument: (id) => call.desk.market.find(id) !== undefined, accounts: call.accounts });
      if (problems.length > 0) return invalid(problems);
      return putDocument(call, kind, name, path.replace('{name}', encodeURIComponent(name)));
    },
    DELETE: async (call) => {
      const name = nameIn(call);
      return isGivenName(name) && (await call.saved.drop(call.user, kind, name)) ? new Response(null, { status: 204 }) : missing(kind, name);
    },
  });

/** The revision of what is there though nothing is saved. */
export const NOTHING = '"nothing"';

/** What the request expects to be saved, by its If-Match or If-None-Match header (RFC 9110). */
function expected(call: Call): Expected {
  const { headers } = call.context.request;
  const match = headers.get('if-match');
  if (headers.get('if-none-match') === '*') return 'nothing';
  if (match === null || match === '*') return 'anything';
  return match === NOTHING ? 'nothing' : { revision: match.replace(/^(W\/)?"|"$/g, '') };
}

/**
 * Saves a document, unless something else is saved than the request expects.
 *
 * @param location where it is found once it is made; null for what is always there
 */
export async function putDocument(call: Call, kind: SavedKind, name: string, location: string | null): Promise<Response> {
  const done = await call.saved.put(call.user, kind, name, call.body, Date.now(), expected(call));
  switch (done.kind) {
    case 'conflict': {
      const now = done.revision === null ? 'Nothing is saved under this name any more.' : 'It was changed since it was read; read it again.';
      return problem(409, 'conflict', now, {}, done.revision === null ? {} : { etag: `"${done.revision}"` });
    }
    case 'made':
      return json(location === null ? 200 : 201, call.body, { ...(location === null ? {} : { location }), etag: `"${done.revision}"` });
    case 'replaced':
      return json(200, call.body, { etag: `"${done.revision}"` });
    default:
      return done satisfies never;
  }
}
