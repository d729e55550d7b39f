import { createServer } from 'node:http';
import { build } from 'esbuild';
import { freePort } from './free-port.ts';
import { openBrowser } from '../test/support/browser.ts';
import { ms, times, type Figure } from './table.ts';

export async function chart(): Promise<Figure[]> {
  const { outputFiles } = await build({ entryPoints: ['bench/chart-page.ts'], bundle: true, minify: true, format: 'esm', write: false, target: 'es2022' });
  const script = outputFiles[0]?.text ?? '';
  const port = await freePort();
  const server = createServer((request, response) => {
    const page = request.url === '/page.js';
    response
      .writeHead(200, { 'content-type': page ? 'text/javascript' : 'text/html' })
      .end(page ? script : '<!doctype html><body><script type="module" src="/page.js"></script>');
  }).listen(port, '127.0.0.1');
  const { driver, close } = await openBrowser();
  try {
    await driver.get(`http://127.0.0.1:${port}/`);
    const found = (await driver.wait(async () => driver.executeScript('return window.benchResult ?? null'), 60_000)) as {
      ours: number;
      oursAll: number;
      withAverages: number;
      baseline: number;
      lines: number;
    };
    return [
      {
        what: 'live chart frame, 3,000 bars loaded, one changing',
        value: ms(found.ours),
        baseline: `${ms(found.baseline)} financial plugin`,
        ratio: times(found.baseline / found.ours),
        wanted: '≥ 10× and ≤ 4 ms',
      },
      {
        what: 'the same with all 3,000 in view',
        value: ms(found.oursAll),
        baseline: `${ms(found.baseline)} financial plugin`,
        ratio: times(found.baseline / found.oursAll),
        wanted: '≥ 10×',
      },
      {
        what: 'the same with volume and two averages, a whole redraw',
        value: ms(found.withAverages),
        baseline: `${ms(found.lines)} uPlot, five lines of 3,000`,
        ratio: times(found.withAverages / found.lines),
        wanted: '≤ 1.5×',
      },
    ];
  } finally {
    await close();
    server.close();
  }
}
