import { mkdirSync, writeFileSync } from 'node:fs';
import { busyWorkspace, liveChain, longDay, openWorkspace, pageWeight, panAndZoom } from './browser.ts';
import { baskets } from './baskets.ts';
import { chart } from './chart.ts';
import { activity, placing, tapeRows, tenDays } from './desk.ts';
import { finding, options, phrases } from './finding.ts';
import { boundKeys } from './keys.ts';
import { matching } from './matching.ts';
import { quoteToPixels } from './pixels.ts';
import { pressToRow } from './press.ts';
import { rules, triggers } from './rules.ts';
import { fanOut, firstOrders, memory, orderLatency, restart } from './server.ts';
import { review } from './review.ts';
import { reviewPage } from './review-page.ts';
import { scans } from './scans.ts';
import { studies } from './studies.ts';
import { printTable, type Figure } from './table.ts';

const long = process.argv.includes('--long');
const only = process.argv.slice(2).filter((argument) => !argument.startsWith('--'));

const MEASURES: readonly (readonly [name: string, measure: () => Figure[] | Promise<Figure[]>])[] = [
  ['matching', matching],
  ['triggers', triggers],
  ['rules', rules],
  ['studies', studies],
  ['finding', finding],
  ['scans', scans],
  ['phrases', phrases],
  ['options', options],
  ['review', review],
  ['review-page', reviewPage],
  ['baskets', baskets],
  ['chart', chart],
  ['pan', panAndZoom],
  ['chain', liveChain],
  ['open', openWorkspace],
  ['busy', busyWorkspace],
  ['pixels', quoteToPixels],
  ['press', pressToRow],
  ['keys', boundKeys],
  ['orders', orderLatency],
  ['first-orders', firstOrders],
  ['tape', tapeRows],
  ['placing', placing],
  ['fan-out', fanOut],
  ['memory', () => memory(long ? 10 : 1)],
  ['page', pageWeight],
  ...(long
    ? ([
        ['day', longDay],
        ['restart', restart],
        ['activity', activity],
        ['ten-days', tenDays],
      ] as const)
    : []),
];

const figures: Figure[] = [];
for (const [name, measure] of MEASURES) {
  if (only.length > 0 && !only.includes(name)) continue;
  process.stderr.write(`measuring ${name} …\n`);
  figures.push(...(await measure()));
}
printTable(figures);
mkdirSync('.cache', { recursive: true });
writeFileSync('.cache/bench.json', `${JSON.stringify(figures, null, 2)}\n`);
process.stdout.write('As JSON: .cache/bench.json\n');
process.exit(0);
