import { enterDemo, openBrowser } from '../test/support/browser.ts';
import { DeskPage } from '../test/support/desk-page.ts';
import { Client, dropFolder, startServer, writeTape } from '../test/support/server.ts';
import { ownOf, watchMachine } from './machine.ts';
import { ms, percentile, type Figure } from './table.ts';

const PRESSES = 80;
const QUOTES_A_SECOND = 2000;
const SECONDS = 160;
const LATENCY_MS = 15;
const FROM_BEST = 5;

/** Quotes that change by size alone, so that the ladder's rows stand still. */
export function steadyTape(): string {
  const start = Date.parse('2026-03-02T09:00:00.000Z');
  const ids = ['GANET.HALM', 'BRINE.HALM', 'HALMF.HALM', 'GANET.QUAY'];
  const iso = (at: number): string => new Date(at).toISOString();
  const rows = ids.flatMap((id) =>
    Array.from({ length: 10 }, (_, i) => [
      `${iso(start)},${id},level,bid,${(41 - i / 100).toFixed(2)},500,`,
      `${iso(start)},${id},level,ask,${(41.01 + i / 100).toFixed(2)},500,`,
    ]).flat(),
  );
  for (let i = 0; i < QUOTES_A_SECOND * SECONDS; i++) {
    const at = iso(start + 1000 + (i * 1000) / QUOTES_A_SECOND);
    const away = (i * 7) % 10;
    rows.push(`${at},${ids[i % 4]},level,${i % 2 ? 'bid' : 'ask'},${(i % 2 ? 41 - away / 100 : 41.01 + away / 100).toFixed(2)},${100 + (i % 90) * 10},`);
  }
  return writeTape(rows);
}

/** In the page: notes when a press was let go, and when a row that was not there says *new*. */
const WATCH = `
  window.pressed = [];
  let from = null;
  const known = new Set([...document.querySelectorAll('tr[data-order]')].map((row) => row.dataset.order));
  addEventListener('pointerup', (event) => { from = event.timeStamp; }, true);
  new MutationObserver(() => {
    if (from === null) return;
    for (const row of document.querySelectorAll('tr[data-order]'))
      if (!known.has(row.dataset.order) && row.textContent.includes('new') && !row.textContent.includes('pending')) {
        known.add(row.dataset.order);
        window.pressed.push([performance.timeOrigin + from, performance.timeOrigin + performance.now()]);
        from = null;
        return;
      }
  }).observe(document.body, { subtree: true, childList: true, characterData: true });`;

/** From letting go of a press in the ladder until the row of its order says that the venue has it. */
export async function pressToRow(): Promise<Figure[]> {
  const server = await startServer({ KAVIX_MARKET: `tape:${steadyTape()}`, KAVIX_VENUE_LATENCY_MS: String(LATENCY_MS) });
  const { driver, close } = await openBrowser();
  try {
    const api = await Client.signIn(server.address);
    await enterDemo(driver, server.address);
    const page = new DeskPage(driver);
    await page.showWorkspace('One instrument');
    await driver.sleep(2500);
    await page.click('[role="region"][aria-label^="Ladder"] [role="group"][aria-label="Size"] button');
    await page.choose('Direct send, ladder', 'all');
    await driver.sleep(500);
    await driver.executeScript(WATCH);
    const best = await page.bestRow('bid');
    const machine = watchMachine();
    for (let i = 0; i < PRESSES; i++) {
      const cell = await page.ladderCell('buy', best + FROM_BEST + (i % 2));
      await page.moveTo(cell.x, cell.y);
      await driver.sleep(350);
      await page.press(cell.x, cell.y);
      await driver.sleep(350);
      await api.post('/api/orders/cancel', { account: 'MAIN' });
      await driver.sleep(150);
    }
    const taken = await driver.executeScript<[number, number][]>('return window.pressed');
    const stalls = await machine.end();
    if (taken.length < PRESSES / 2) throw new Error(`only ${taken.length} of ${PRESSES} presses made an order`);
    // What the trace shows as the machine's own is nobody's.
    const { all, own } = ownOf(taken, stalls);
    const [median, most] = [percentile(own, 0.5) - LATENCY_MS, percentile(own, 0.99) - LATENCY_MS];
    return [
      {
        what: `press let go until the row says new, at ${QUOTES_A_SECOND} quotes/s, without the venue's latency and what the machine took: median`,
        value: ms(median),
        baseline: `${ms(percentile(all, 0.5) - LATENCY_MS)} with what the machine took`,
        ratio: '',
        wanted: '≤ 20 ms',
      },
      { what: 'the same, p99', value: ms(most), baseline: `${ms(percentile(all, 0.99) - LATENCY_MS)} with it`, ratio: '', wanted: '≤ 60 ms' },
    ];
  } finally {
    await close();
    await server.stop();
    dropFolder(server.folder);
  }
}
