// Runs the measures built as the program itself is: by esbuild, each file knowing the folder it lies in.
import { readFile } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';
import { build } from 'esbuild';

const outfile = resolve('.cache/bench.mjs');
await build({
  entryPoints: ['bench/run.ts'],
  outfile,
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  packages: 'external',
  logLevel: 'warning',
  plugins: [
    {
      name: 'own-folder',
      setup({ onLoad }) {
        onLoad({ filter: /\/(bench|test)\/.*\.ts$/ }, async ({ path }) => ({
          contents: (await readFile(path, 'utf8')).replaceAll('import.meta.dirname', JSON.stringify(dirname(path))),
          loader: 'ts',
        }));
      },
    },
  ],
});
await import(outfile);
