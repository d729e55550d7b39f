// Builds what runs: the pages by Astro, the program and its worker threads by esbuild.
import { spawnSync } from 'node:child_process';
import { build } from 'esbuild';

/** What is native, and the databases that the mapper could use and Kavix does not. */
const LEFT_OUT = ['sqlite3', 'umzug', 'pg', 'pg-hstore', 'mysql2', 'mariadb', 'tedious', 'oracledb', 'snowflake-sdk', 'ibm_db', '../server/*', 'astro'];
/** Packages of the older kind ask for others by `require`, which a module does not have. */
const REQUIRE = `import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);`;

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
    external: LEFT_OUT,
    banner: { js: REQUIRE },
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
