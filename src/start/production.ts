import type { RequestListener } from 'node:http';
import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { start } from './main.ts';

process.env['ASTRO_NODE_AUTOSTART'] = 'disabled';
process.env['NODE_ENV'] ??= 'production';
const here = dirname(fileURLToPath(import.meta.url));
// Built by Astro, next to this file's own bundle.
const { handler } = (await import(new URL('../server/entry.mjs', import.meta.url).href)) as { handler: RequestListener };
await start(handler, resolve(here, '../..'));
