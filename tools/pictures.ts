import { resolve } from 'node:path';
import { Key } from 'selenium-webdriver';
import { enterDemo, leaveDaySheet, openBrowser, picture } from '../test/support/browser.ts';
import { DeskPage } from '../test/support/desk-page.ts';
import { Client, dropFolder, startServer } from '../test/support/server.ts';

/**
 * Makes the pictures of `docs/screenshots` anew: the demo's world with its past, on the manual clock, so that they
 * differ only where the interface does. Kavix must be built.
 */
const FOLDER = resolve(import.meta.dirname, '../docs/screenshots');
const STUDIES = [
  { id: 's1', study: 'ema', colour: 'moss' },
  { id: 's2', study: 'bollinger', colour: 'straw' },
  { id: 's3', study: 'rsi', colour: 'slate' },
  { id: 's4', study: 'macd', colour: 'iris' },
].map((use) => ({ ...use, parameters: {}, width: 1.3, stroke: 'solid' }));
const PLAN = {
  heldBy: 'venue',
  onSizeChange: 'follow',
  onMissedLevel: 'fire',
  steps: [
    { share: '50', stop: { by: 'ticks', value: '20', order: 'market' }, target: { by: 'ticks', value: '30', order: 'limit' } },
    { share: '50', stop: { by: 'ticks', value: '25', order: 'market' } },
  ],
};
const GANET = { account: 'MAIN', instrument: 'GANET.HALM' };

const server = await startServer({ KAVIX_CLOCK: 'manual', KAVIX_PAST: 'demo' });
const api = await Client.signIn(server.address);
const { driver, close } = await openBrowser();
const page = new DeskPage(driver);
const made = async (method: string, path: string, body: unknown): Promise<void> => {
  const { status, body: said } = await api.call(method, path, body);
  if (status >= 300) throw new Error(`${method} ${path}: ${status} ${JSON.stringify(said)}`);
};
const order = (id: string, asked: object): Promise<void> =>
  made('POST', '/api/orders', { clientOrderId: id, ...GANET, side: 'buy', type: 'market', quantity: '300', ...asked });
const shoot = async (name: string): Promise<void> => {
  await page.loaded();
  await page.passes(600);
  await picture(driver, `${FOLDER}/${name}.png`);
  console.log(name);
};
await driver.get(`${server.address}/sign-in`);
await page.find('[data-testid="demo-sign-in"]').appears();
await page.passes(1500);
await picture(driver, `${FOLDER}/sign-in.png`);

await made('POST', '/api/clock', { advanceTo: '2026-03-02T10:59:00.000Z' });
await made('POST', '/api/exit-plans', { name: 'Two-step', ...PLAN });
await order('entry', { exitPlan: 'Two-step', setup: 'pullback' });
await order('rest', { type: 'limit', quantity: '100', limitPrice: '40.20' });
await order('brine', { instrument: 'BRINE.HALM', quantity: '200', exitPlan: 'Two-step', setup: 'range' });
await made('POST', '/api/alerts', { kind: 'condition', instrument: 'BRINE.HALM', phrase: 'last > vwap', fires: 'once-a-bar' });
await made('POST', '/api/alerts', { kind: 'price', instrument: 'GANET.HALM', price: '41.10', direction: 'either', fires: 'every' });
await made('POST', '/api/scans', {
  name: 'Risers near their high',
  notes: '',
  universe: { kinds: ['share'] },
  join: 'all',
  lines: ['change % > 2 %', 'relative volume > 1.5', 'last within 0.5 % of high'].map((phrase) => ({ phrase, on: true })),
  keep: false,
  schedule: null,
});
const row = { account: 'MAIN', type: 'limit' };
await made('POST', '/api/baskets', {
  name: 'Coast',
  rows: [
    { ...row, id: 'a', instrument: 'GANET.HALM', side: 'buy', quantity: '200', limitPhrase: 'bid - 2 ticks' },
    { ...row, id: 'b', instrument: 'KELPA.HALM', side: 'buy', quantity: '500', limitPhrase: 'ask' },
    { ...row, id: 'c', instrument: 'BRINE.HALM', side: 'sell', quantity: '150', limitPhrase: 'ask + 1 spreads' },
    { ...row, id: 'd', instrument: 'GANET-APR26-40C.HALM', side: 'buy', quantity: '2', limitPhrase: 'ask' },
  ],
});
await made('POST', '/api/clock', { advanceTo: '2026-03-02T11:01:00.000Z' });

await enterDemo(driver, server.address, 'stay');
await shoot('day-sheet');
await leaveDaySheet(driver);
await shoot('workspace-night');

await page.menu('Chart room');
await shoot('workspace-day');
await page.menu('Night watch');

const best = await page.bestRow('bid');
const cell = await page.ladderCell('buy', best + 3);
await page.moveTo(cell.x, cell.y);
await page.settle();
await page.press(cell.x, cell.y);
await page.until(`return document.querySelector('[role="dialog"]')?.textContent.includes('value')`);
await shoot('order-slip');
await page.gone('[role="dialog"]', Key.ESCAPE);

await page.click('[role="region"][aria-label^="Ladder"]');
await page.settle();
await driver.actions().keyDown(Key.SPACE).perform();
await page.until(`return document.querySelector('[data-testid="order-layer"]')`);
await shoot('order-layer');
await driver.actions().keyUp(Key.SPACE).perform();

await page.find('//*[contains(@class, "dv-tab")]//*[normalize-space(text())="Exit plans"]').click();
await page.clickText('saved');
await page.click('button[aria-label="change Two-step"]');
await page.until(`return document.querySelector('[role="dialog"] svg[role="img"]')`);
await shoot('exit-plan');
await page.gone('[role="dialog"]', Key.ESCAPE);

await made('POST', '/api/link', { broker: 'down' });
await page.until(`return document.querySelector('[data-testid="band"]')`);
await shoot('broker-lost');
await made('POST', '/api/link', { broker: 'up' });
await page.until(`return document.querySelector('[data-testid="band"] button')`);
await page.click('[data-testid="band"] button');

for (const [title, name] of [
  ['Review', 'review'],
  ['Accounts', 'accounts'],
  ['Settings', 'settings'],
] as const) {
  await page.openPage(title);
  await shoot(name);
}
await made('PUT', '/api/risk/MAIN', {
  ...((await api.get('/api/risk/MAIN')).body as object),
  dayLossLimit: '600.00',
  onDayLoss: 'close-out',
  maxOrderQuantity: '600',
  maxOrderValue: '40000.00',
  maxOrdersPerMinute: 9,
  openRisk: 'warn',
});
await page.openPage('Risk');
await shoot('risk');
await page.gone('[data-page]', Key.ESCAPE);

for (const [workspace, name] of [
  ['Many instruments', 'many-instruments'],
  ['Four charts', 'four-charts'],
  ['Futures ladder', 'futures-ladder'],
  ['Night market', 'night-market'],
] as const) {
  await page.openAlone(workspace);
  await shoot(name);
}

await page.openAlone('Finding');
await page.find('[role="region"][aria-label^="Scanner"] button').click();
await page.item('Risers near their high').click();
await page.clickText('run now');
await page.until(`return document.querySelector('[aria-label="What the scan found"] tbody tr[data-key]')`);
await shoot('finding');

await page.openAlone('Baskets and options');
await page.clickText('Coast');
await page.until(`return document.querySelector('[data-pane] [data-row="3"]')`);
await page.passes(1500);
await shoot('baskets');

await made('PUT', '/api/workspaces/Studies', {
  format: 1,
  panes: { chart: { kind: 'Chart', letter: 'A', intervalLetter: null, instrument: null, account: 'MAIN', settings: { interval: '5m', studies: STUDIES } } },
  letters: { A: { instrument: 'GANET.HALM', account: 'MAIN' } },
  layout: { stack: ['chart'], active: 'chart', size: 1 },
  direction: 'row',
  windows: [],
});
await page.openAlone('Studies');
await shoot('chart');

await close();
await server.stop();
dropFolder(server.folder);
process.exit(0);
