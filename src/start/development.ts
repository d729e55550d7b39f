import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { dev } from 'astro';
import { start } from './main.ts';
import { loadThreads } from './threads.ts';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
// The pages are served by Astro's own development server; the desk runs in the same process behind the same global.
const port = Number(process.env['PORT'] || 4310);
process.env['PORT'] = String(port + 1);
const server = await dev({ root, server: { host: process.env['HOST'] || '127.0.0.1', port } });
await start(
  Promise.resolve((_request, response) => response.writeHead(404).end()),
  root,
  loadThreads(import.meta.url),
);
process.stdout.write(`The pages are at http://${server.address.address}:${server.address.port}\n`);
