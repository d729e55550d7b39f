// Builds what runs: the pages by Astro, the program and its worker threads by esbuild.
import { spawnSync } from 'node:child_process';
import { build } from 'esbuild';

export const bundle = (names) =>
  build({
    entryPoints: Object.fromEntries(names),
    outdir: 'dist/start',
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    splitting: true,
    chunkNames: '[name]-[hash]',
    packages: 'external',
    sourcemap: true,
    logLevel: 'warning',
  });

const entries = [
  ['production', 'src/start/production.ts'],
  ['development', 'src/start/development.ts'],
  ['venue', 'src/venue/worker.ts'],
  ['prices', 'src/prices/worker.ts'],
  ['verify', 'src/start/verify.ts'],
];

if (!process.argv.includes('--threads')) {
  const astro = spawnSync('npx', ['astro', 'build', '--silent'], { stdio: 'inherit', env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' } });
  if (astro.status !== 0) process.exit(astro.status ?? 1);
}
await bundle(entries);
