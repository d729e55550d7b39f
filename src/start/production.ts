import type { RequestListener } from 'node:http';
import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import sirv from 'sirv';
import { start } from './main.ts';

process.env['NODE_ENV'] ??= 'production';
const here = dirname(fileURLToPath(import.meta.url));
// Built by Astro, next to this file's own bundle.
const { handler } = (await import(new URL('../server/entry.mjs', import.meta.url).href)) as { handler: RequestListener };
const assets = sirv(resolve(here, '../client'), {
  etag: true,
  extensions: [],
  // What Astro builds has its content in its name.
  setHeaders: (response, path) => path.startsWith('/_astro/') && response.setHeader('cache-control', 'public, max-age=31536000, immutable'),
});
// The API goes to its endpoints at once; only what is not in the folder of assets is a page.
const serve: RequestListener = (request, response) => {
  if (request.url?.startsWith('/api/')) handler(request, response);
  else assets(request, response, () => handler(request, response));
};
await start(serve, resolve(here, '../..'));
