import type { WebDriver } from 'selenium-webdriver';
import { Key } from 'selenium-webdriver';
import type { Driver } from 'selenium-webdriver/chrome.js';
import { KEY_ROWS } from '../src/client/key-grid.ts';
import { enterDemo, openBrowser } from '../test/support/browser.ts';
import { DeskPage } from '../test/support/desk-page.ts';
import { Client, dropFolder, startServer } from '../test/support/server.ts';
import { ownOf, watchMachine } from './machine.ts';
import { steadyTape } from './press.ts';
import { ms, percentile, times, type Figure } from './table.ts';

const PRESSES = 60;
/** Shorter than the layer stays open by itself. */
const LOOK_SECONDS = 3;
const LOOKS = 6;
const FRAMES_A_SECOND = 60;
const BOUND = 'J';

/** In the page: from a key going down until an order request leaves the window. */
const WATCH = `
  window.left = [];
  let from = null;
  addEventListener('keydown', (event) => { if (event.key.toUpperCase() === '${BOUND}') from = event.timeStamp; }, true);
  const fetched = window.fetch;
  window.fetch = (address, wanted) => {
    if (from !== null && wanted?.method === 'POST' && String(address).endsWith('/api/orders')) { window.left.push([performance.timeOrigin + from, performance.timeOrigin + performance.now()]); from = null; }
    return fetched(address, wanted);
  };`;

async function script(driver: WebDriver): Promise<number> {
  const { metrics } = (await (driver as Driver).sendAndGetDevToolsCommand('Performance.getMetrics', {})) as unknown as {
    metrics: { name: string; value: number }[];
  };
  return metrics
    .filter(({ name }) => name === 'ScriptDuration' || name === 'LayoutDuration' || name === 'RecalcStyleDuration')
    .reduce((sum, { value }) => sum + value, 0);
}

/** Work of the page's thread a frame, in milliseconds, over some seconds. */
async function perFrame(driver: WebDriver): Promise<number> {
  const before = await script(driver);
  await driver.sleep(LOOK_SECONDS * 1000);
  return (((await script(driver)) - before) * 1000) / (LOOK_SECONDS * FRAMES_A_SECOND);
}

/** A bound key until its order leaves, and what a strip of forty keys costs, both while 2,000 quotes a second come in. */
export async function boundKeys(): Promise<Figure[]> {
  const server = await startServer({ KAVIX_MARKET: `tape:${steadyTape()}` });
  const { driver, close } = await openBrowser();
  try {
    const api = await Client.signIn(server.address);
    const letters = [...KEY_ROWS['top row'], ...KEY_ROWS['home row'], ...KEY_ROWS['bottom row']].filter((key) => key !== BOUND);
    const held = ['Space', 'Space Shift'].flatMap((hold) => letters.map((key) => `${hold} ${key}`)).slice(0, 39);
    const items = held.map((key, i) => ({ key, phrase: `buy ${10 + i} at bid - ${1 + (i % 9)} ticks`, command: null }));
    const { version } = (await api.get('/api/bindings')).body as { version: number };
    const put = await api.call('PUT', '/api/bindings', {
      items: [{ key: `Space ${BOUND}`, phrase: 'buy 10 at bid - 5 ticks', command: null }, ...items],
      version,
    });
    if (put.status !== 200) throw new Error(JSON.stringify(put.body));
    await enterDemo(driver, server.address);
    const page = new DeskPage(driver);
    await driver.sleep(2500);
    await page.click('[role="region"][aria-label^="Ladder"] [role="group"][aria-label="Size"] button');
    await page.choose('Direct send, ladder', 'all');
    await (driver as Driver).sendDevToolsCommand('Performance.enable', {});
    await page.click('[role="region"][aria-label^="Ladder"]');
    await driver.sleep(500);
    const openLayer = async (): Promise<void> => {
      await driver.actions().keyUp(Key.SPACE).keyDown(Key.SPACE).perform();
      await page.until(`return document.querySelector('[data-testid="order-layer"]')`);
    };
    const looks: { readonly without: number; readonly open: number }[] = [];
    for (let i = 0; i < LOOKS; i++) {
      await driver.actions().keyUp(Key.SPACE).perform();
      const without = await perFrame(driver);
      await openLayer();
      looks.push({ without, open: await perFrame(driver) });
    }
    const without = percentile(looks.map((look) => look.without), 0.5); // prettier-ignore
    const open = percentile(looks.map((look) => look.open), 0.5); // prettier-ignore
    await driver.executeScript(WATCH);
    await openLayer();
    const machine = watchMachine();
    for (let i = 0; i < PRESSES; i++) {
      await driver.actions().keyDown(BOUND.toLowerCase()).keyUp(BOUND.toLowerCase()).perform();
      await driver.sleep(500);
    }
    await driver.actions().keyUp(Key.SPACE).perform();
    const left = await driver.executeScript<[number, number][]>('return window.left');
    const { all, own } = ownOf(left, await machine.end());
    if (left.length < PRESSES / 2) throw new Error(`only ${left.length} of ${PRESSES} presses sent an order`);
    return [
      {
        what: 'bound key until the order request leaves the window, at 2,000 quotes/s, without what the machine took, p95',
        value: ms(percentile(own, 0.95)),
        baseline: `${ms(percentile(own, 0.5))} median; p95 ${ms(percentile(all, 0.95))} with it`,
        ratio: '',
        wanted: '≤ 8 ms',
      },
      {
        what: 'the strip of 40 bound keys, its own work a frame',
        value: ms(open - without),
        baseline: `${ms(without)} without it`,
        ratio: times(open / without),
        wanted: '≤ 3 ms',
      },
    ];
  } finally {
    await close();
    await server.stop();
    dropFolder(server.folder);
  }
}
