import { expect } from 'chai';
import { Key, type WebDriver, type WebElement } from 'selenium-webdriver';
import { openBrowser, leaveDaySheet } from '../support/browser.ts';
import { DeskPage } from '../support/desk-page.ts';
import { Client, dropFolder, startServer, writeTape, type Server } from '../support/server.ts';

const ROWS = (id: string, base: number): string[] => [
  `2026-03-02T09:00:00.000Z,${id},state,,,,open`,
  ...Array.from({ length: 8 }, (_, i) => `2026-03-02T09:00:00.000Z,${id},level,bid,${(base - 0.02 - i / 100).toFixed(2)},${500 + i},`),
  ...Array.from({ length: 8 }, (_, i) => `2026-03-02T09:00:00.000Z,${id},level,ask,${(base + i / 100).toFixed(2)},${300 + i},`),
  ...Array.from({ length: 12 }, (_, i) => `2026-03-02T09:00:00.${String(500 + i)}Z,${id},trade,buy,${base.toFixed(2)},${100 + i},`),
  ...Array.from({ length: 20 }, (_, i) => `2026-03-02T09:00:10.${String(500 + i)}Z,${id},trade,sell,${(base - 0.02).toFixed(2)},${10 + i},`),
];
const TAPE = [
  ...ROWS('GANET.HALM', 41.2),
  ...ROWS('BRINE.HALM', 27.3),
  '2026-03-02T09:00:05.000Z,GANET.HALM,news,,,,Gannet Shipping orders two ferries',
  '2026-03-02T09:00:06.000Z,,news,,,,Fog along the coast until noon',
].sort();

describe('the lists and the market’s panes', function () {
  this.timeout(120_000);
  let server: Server;
  let driver: WebDriver;
  let close: () => Promise<void>;
  let page: DeskPage;
  let api: Client;

  before(async () => {
    server = await startServer({ KAVIX_MARKET: `tape:${writeTape(TAPE)}`, KAVIX_CLOCK: 'manual' });
    api = await Client.signIn(server.address);
    await api.to('09:00:02.000');
    const pane = (kind: string, settings: object = {}): object => ({ kind, letter: 'A', intervalLetter: null, instrument: null, account: 'MAIN', settings });
    const stack = (id: string, size = 100): object => ({ stack: [id], active: id, size });
    const made = await api.call('PUT', '/api/workspaces/Lists', {
      format: 1,
      panes: {
        watch: pane('Watchlist'),
        quotes: pane('Quote table'),
        depth: pane('Depth'),
        prints: pane('Time & sales', { large: 110 }),
        news: pane('News', { all: true }),
        chart: pane('Chart', { interval: '1m' }),
        orders: pane('Orders'),
      },
      letters: { A: { instrument: 'GANET.HALM', account: 'MAIN' } },
      layout: {
        split: [
          { split: [stack('watch', 300), stack('news', 200)], size: 280 },
          { split: [stack('quotes'), stack('chart'), stack('orders', 60)], size: 640 },
          { split: [stack('depth'), stack('prints')], size: 360 },
        ],
        size: 0,
      },
      direction: 'row',
      windows: [],
    });
    expect(made.status).to.equal(201);
    ({ driver, close } = await openBrowser());
    page = new DeskPage(driver);
    await driver.get(`${server.address}/sign-in`);
    await page.find('[data-testid="demo-sign-in"]').appears();
    await driver.executeScript(`localStorage.setItem('kavix.tabs', JSON.stringify({ open: ['Lists'], current: 'Lists' }))`);
    await page.click('[data-testid="demo-sign-in"]');
    await leaveDaySheet(driver);
    await page.until(
      `return document.querySelectorAll('[data-pane]').length === 7 && document.querySelector('.depth [data-column="bid price"]')?.textContent === '41.18'`,
    );
  });
  after(async () => {
    await close();
    await server.stop();
    dropFolder(server.folder);
  });

  const text = (css: string): Promise<string> => driver.executeScript(`return document.querySelector(arguments[0])?.textContent ?? ''`, css);
  const slip = (): Promise<string> => page.until(`return document.querySelector('[role="dialog"]')?.textContent`);
  const leaveSlip = (): Promise<void> => page.gone('[role="dialog"]', Key.ESCAPE);
  const element = (css: string): Promise<WebElement> => page.find(css).element();

  it('show depth with orders’ room, running totals and joined rows', async () => {
    expect(await text('.depth tr[data-key="1"] [data-column="bid total"]')).to.equal('1,001');
    await (await element('[aria-label^="Depth of"]')).click();
    await driver.executeScript(`document.querySelector('[aria-label^="Depth of"]').focus()`);
    await page.keys('-', '-');
    await page.until(`return document.querySelector('.depth caption').textContent.includes('rows of 5 ticks')`);
    await page.until(`return document.querySelector('.depth tr[data-key="0"] [data-column="bid price"]').textContent === '41.15'`);
    expect(await text('.depth tr[data-key="0"] [data-column="bid quantity"]')).to.equal('2,006');
    await page.keys('+', '+');
    await page.until(`return document.querySelector('.depth tr[data-key="0"] [data-column="bid price"]').textContent === '41.18'`);
  });

  it('say what a press would send, and open its slip', async () => {
    const box = await (await element('.depth tr[data-key="2"] [data-column="bid price"]')).getRect();
    await page.moveTo(box.x + 10, box.y + 8);
    await page.until(`return [...document.querySelectorAll('[data-testid="cell-words"]')].some((one) => one.textContent.includes('buys 50 at 41.16 · rests'))`);
    await page.settle();
    await page.press(box.x + 10, box.y + 8);
    expect(await slip()).to.contain('41.16');
    await leaveSlip();
    expect(((await api.get('/api/orders')).body as { items: unknown[] }).items).to.deep.equal([]);
  });

  it('seed the slip with exactly the quantity that was pressed', async () => {
    await page.find('//tr[@data-instrument="BRINE.HALM"]//button[.//span[@data-column="bidQuantity"]]').click();
    const words = await slip();
    expect(words).to.contain('BRINE.HALM');
    expect(await driver.executeScript(`return [...document.querySelectorAll('[role="dialog"] input')].map((one) => one.value)`)).to.include.members([
      '500',
      '27.28',
    ]);
    await leaveSlip();
  });

  it('sort and group the quote table', async () => {
    await page.find('//*[contains(@class,"quotes")]//th//button[starts-with(normalize-space(.), "bid") and not(contains(., "qty"))]').click();
    await page.until(`return document.querySelector('.quotes th[aria-sort="descending"], .quotes th[aria-sort="ascending"]')`);
    const sorted = (): Promise<string> =>
      page.until(`return document.querySelector('.quotes th[aria-sort="descending"], .quotes th[aria-sort="ascending"]').ariaSort`);
    const first = (): Promise<string> => driver.executeScript<string>(`return document.querySelector('.quotes tbody tr[data-instrument]').dataset.instrument`);
    const [before, way] = [await first(), await sorted()];
    await page.find('//*[contains(@class,"quotes")]//th//button[starts-with(normalize-space(.), "bid") and not(contains(., "qty"))]').click();
    await driver.wait(async () => (await sorted()) !== way, 4000);
    expect([before, await first()]).to.have.members(['GANET.HALM', 'BRINE.HALM']);
    await page.click('button[aria-label="Settings of Quote table"]');
    await page.choose('Group by: nothing', 'venue');
    await page.keys(Key.ESCAPE);
    await page.until(`return [...document.querySelectorAll('.quotes th[scope="rowgroup"]')].map((one) => one.textContent).join().includes('VSPR')`);
  });

  it('pause the prints without losing any', async () => {
    const shown = (): Promise<number> => driver.executeScript(`return document.querySelectorAll('[aria-label^="Prints of"] [title^="seq"]').length`);
    await page.until(`return document.querySelectorAll('[aria-label^="Prints of"] [title^="seq"]').length >= 5`);
    await page.clickText('pause');
    const before = await shown();
    await api.to('09:00:11.000');
    await page.until(`return [...document.querySelectorAll('button')].some((one) => one.textContent.includes('paused · 20 wait'))`);
    expect(await shown()).to.equal(before);
    await page.clickText('paused');
    await page.until(`return document.querySelector('[aria-label^="Prints of"] [title^="seq"]').textContent.includes('41.18')`);
    const seqs: number[] = await driver.executeScript(
      `return [...document.querySelectorAll('[aria-label^="Prints of"] [title^="seq"]')].map((one) => Number(one.title.slice(4)))`,
    );
    expect(seqs).to.deep.equal(seqs.map((_, i) => (seqs[0] ?? 0) - i));
  });

  it('tell the headlines of all, or of the linked company', async () => {
    await page.until(`return document.querySelectorAll('[aria-label="Headlines"] li').length === 2`);
    await page.find('//*[@aria-label="Which headlines"]/button[normalize-space(.)="GANET"]').click();
    await page.until(`return document.querySelectorAll('[aria-label="Headlines"] li').length === 1`);
  });

  it('take a pasted column of symbols, name what is unknown, and take it back', async () => {
    await page.find('//button[contains(normalize-space(.), "Coast")]').click();
    await page.find('//*[@role="menuitem"][normalize-space(.)="New list"]').click();
    await page.until(`return document.body.textContent.includes('List is empty')`);
    await page.find('//button[starts-with(normalize-space(.), "List ")]').click();
    await page.find('//*[@role="menuitem"][starts-with(normalize-space(.), "Paste symbols")]').click();
    const area = page.find('textarea');
    await area.type('brine\nNOPE\ncarb-eur.vspr\n');
    await page.until(`return document.querySelector('[role="dialog"]').textContent.includes('NOPE (line 2)')`);
    await page.clickText('Add 2 instruments');
    await driver.wait(async () => {
      const reply = await api.get('/api/watchlists/List');
      return reply.status === 200 && (reply.body as { rows: unknown[] }).rows.length === 2;
    }, 4000);
    await page.until(`return document.querySelectorAll('[data-pane="watch"] tr[data-instrument]').length === 2`);
    await driver.executeScript('document.activeElement?.blur()');
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => ((await api.get('/api/watchlists/List')).body as { rows: unknown[] }).rows.length === 0, 4000);
  });

  it('say in one sentence what there is none of, and offer the one thing to do about it', async () => {
    const orders = page.find('[data-pane="orders"] [aria-label="Orders, working"]');
    expect(await orders.text()).to.contain('No working orders.');
    await page.find('//*[@data-pane="orders"]//button[normalize-space(.)="open the slip"]').click();
    expect(await slip()).to.contain('GANET.HALM');
    await leaveSlip();
    await page.find('//*[@data-pane="watch"]//td//button[normalize-space(.)="add GANET.HALM"]').click();
    await page.until(`return document.querySelector('[data-pane="watch"] tr[data-instrument="GANET.HALM"]')`);
    await page.chord('z', Key.CONTROL);
    await page.until(`return document.querySelector('[data-pane="watch"]').textContent.includes('List is empty')`);
    await page.find('//*[@data-pane="orders"]//button[starts-with(normalize-space(.), "rejected")]').click();
    await page.find('//*[@data-pane="orders"]//button[normalize-space(.)="show what works"]').click();
    await page.until(`return document.querySelector('[data-pane="orders"] [aria-label="Orders, working"]')`);
  });

  it('slow a window’s data openly, and say how much was merged', async () => {
    await page.click('button:has(> [aria-label^="screen"])');
    await page.clickText('2 a second');
    await page.keys(Key.ESCAPE);
    expect(await text('[data-testid="slowed"]')).to.equal('2/s');
    for (let i = 0; i < 6; i++) await api.post('/api/clock', { advanceBy: 40 });
    await page.click('button:has(> [aria-label^="screen"])');
    await page.until(`return document.body.textContent.includes('changes were merged into newer ones')`);
    await page.clickText('as they come');
    await page.keys(Key.ESCAPE);
    await page.until(`return !document.querySelector('[data-testid="slowed"]')`);
  });

  it('let an instrument be dragged onto a pane', async () => {
    await page.drag('.quotes tr[data-instrument="BRINE.HALM"] td[draggable]', '[data-pane="chart"]');
    await page.until(`return document.querySelector('[data-pane="chart"]').getAttribute('aria-label') === 'Chart BRINE.HALM'`);
  });

  it('let an order be dragged onto a pane as its instrument', async () => {
    const order = { clientOrderId: 'rests', account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', quantity: '10', limitPrice: '40.00' };
    expect((await api.post('/api/orders', order)).status).to.equal(201);
    await page.drag('tr[data-order] td[draggable]', '[data-pane="chart"]');
    await page.until(`return document.querySelector('[data-pane="chart"]').getAttribute('aria-label') === 'Chart GANET.HALM'`);
  });

  it('take an instrument that is dragged into a watchlist', async () => {
    await page.drag('.quotes tr[data-instrument="GANET.HALM"] td[draggable]', '[data-pane="watch"] [role="group"][aria-label^="Watchlist "]');
    await page.until(`return document.querySelector('[data-pane="watch"] tr[data-instrument="GANET.HALM"]')`);
  });
});
