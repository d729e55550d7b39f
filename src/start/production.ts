import type { IncomingMessage, RequestListener, ServerResponse } from 'node:http';
import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { readBytes } from '../pages/api/_body.ts';
import { loadThreads } from './threads.ts';

/** What Astro needs of a request. */
type Head = Pick<IncomingMessage, 'method' | 'url' | 'headers'> & { readonly socket: Pick<IncomingMessage['socket'], 'remoteAddress'> };

/** The built pages, with what they are told of a request besides. */
type Pages = (request: Head, response: ServerResponse, next: undefined, locals: Pick<App.Locals, 'asked'>) => void;

/**
 * A request whose body is read at its source, while Astro looks for who answers: Astro is told of one that has none, and
 * what is really asked goes beside it. A web stream over the body costs more than to decide an order.
 */
const headOf = ({ url, headers, socket: { remoteAddress } }: IncomingMessage): Head => ({ method: 'GET', url, headers, socket: { remoteAddress } });

process.env['NODE_ENV'] ??= 'production';
// The threads load while the rest does.
const threads = loadThreads(import.meta.url);
const here = dirname(fileURLToPath(import.meta.url));
const { start } = await import('./main.ts');

/** The built pages, with the assets beside them. */
async function loadPages(): Promise<RequestListener> {
  const [{ default: sirv }, { handler }] = await Promise.all([
    import('sirv'),
    // Built by Astro, next to this program.
    import(new URL('../server/entry.mjs', import.meta.url).href) as Promise<{ handler: Pages }>,
  ]);
  const assets = sirv(resolve(here, '../client'), {
    etag: true,
    extensions: [],
    // What Astro builds has its content in its name.
    setHeaders: (response, path) => path.startsWith('/_astro/') && response.setHeader('cache-control', 'public, max-age=31536000, immutable'),
  });
  // The API goes to its endpoints at once; only what is not in the folder of assets is a page.
  return (request, response) => {
    const page = (): void => handler(request, response, undefined, {});
    if (!request.url?.startsWith('/api/')) assets(request, response, page);
    else if (request.method === 'GET' || request.method === 'HEAD') page();
    else handler(headOf(request), response, undefined, { asked: { method: request.method ?? '', body: readBytes(request) } });
  };
}

await start(loadPages(), resolve(here, '../..'), threads);
