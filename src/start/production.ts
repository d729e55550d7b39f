import type { IncomingMessage, RequestListener, ServerResponse } from 'node:http';
import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { loadThreads } from './threads.ts';

/** The built pages, with what they are told of a request besides. */
type Pages = (request: IncomingMessage, response: ServerResponse, next: undefined, locals: Pick<App.Locals, 'incoming'>) => void;

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
    const page = (): void => handler(request, response, undefined, { incoming: request });
    if (request.url?.startsWith('/api/')) page();
    else assets(request, response, page);
  };
}

await start(loadPages(), resolve(here, '../..'), threads);
