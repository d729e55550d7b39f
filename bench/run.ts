import { mkdirSync, writeFileSync } from 'node:fs';
import { chart } from './chart.ts';
import { matching } from './matching.ts';
import { fanOut, memory, orderLatency, pageWeight } from './server.ts';
import { printTable, type Figure } from './table.ts';

const long = process.argv.includes('--long');
const figures: Figure[] = [];
for (const [name, measure] of [
  ['matching', matching],
  ['chart', chart],
  ['orders', orderLatency],
  ['fan-out', fanOut],
  ['memory', () => memory(long ? 10 : 1)],
  ['page', pageWeight],
] as const) {
  process.stderr.write(`measuring ${name} …\n`);
  figures.push(...(await measure()));
}
printTable(figures);
mkdirSync('.cache', { recursive: true });
writeFileSync('.cache/bench.json', `${JSON.stringify(figures, null, 2)}\n`);
process.stdout.write('As JSON: .cache/bench.json\n');
process.exit(0);
