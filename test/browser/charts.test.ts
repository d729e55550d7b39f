import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import { openBrowser, leaveDaySheet } from '../support/browser.ts';
import { DeskPage } from '../support/desk-page.ts';
import { Client, dropFolder, startServer, type Server } from '../support/server.ts';

interface Bar {
  readonly time: string;
  readonly open: string;
  readonly high: string;
  readonly low: string;
  readonly close: string;
  readonly volume: string;
}

describe('charts side by side', function () {
  this.timeout(120_000);
  let server: Server;
  let driver: WebDriver;
  let close: () => Promise<void>;
  let page: DeskPage;
  let api: Client;

  before(async () => {
    server = await startServer({ KAVIX_CLOCK: 'manual' });
    api = await Client.signIn(server.address);
    await api.post('/api/clock', { advanceTo: '2026-03-02T13:07:00.000Z' });
    const chart = (interval: string): object => ({
      kind: 'Chart',
      letter: 'A',
      intervalLetter: null,
      instrument: null,
      account: 'MAIN',
      settings: { interval },
    });
    const made = await api.call('PUT', '/api/workspaces/Room', {
      format: 1,
      panes: { five: chart('5m'), fifteen: chart('15m') },
      letters: { A: { instrument: 'GANET.HALM', account: 'MAIN' } },
      layout: { split: ['five', 'fifteen'].map((id) => ({ stack: [id], active: id, size: 100 })), size: 0 },
      direction: 'row',
      windows: [],
    });
    expect(made.status).to.equal(201);
    ({ driver, close } = await openBrowser());
    page = new DeskPage(driver);
    await driver.get(`${server.address}/sign-in`);
    await driver.executeScript(`localStorage.setItem('kavix.tabs', JSON.stringify({ open: ['Room'], current: 'Room' }))`);
    await page.until(`return document.querySelector('[data-testid="demo-sign-in"]')`);
    await page.click('[data-testid="demo-sign-in"]');
    await leaveDaySheet(driver);
    await page.until(`return [...document.querySelectorAll('[data-testid="data-line"]')].filter((one) => one.textContent.includes('C ')).length === 2`);
  });
  after(async () => {
    await close();
    await server.stop();
    dropFolder(server.folder);
  });

  const dataLine = (pane: string): Promise<string> =>
    driver.executeScript(`return document.querySelector('[data-pane="' + arguments[0] + '"] [data-testid="data-line"]').textContent`, pane);
  const until = async (pane: string, holds: (line: string) => boolean): Promise<string> =>
    driver.wait(
      async () => {
        const line = await dataLine(pane);
        return holds(line) ? line : null;
      },
      5000,
      `the data line of ${pane}`,
    ) as Promise<string>;
  /** What the canvas shows. */
  const canvas = (pane: string): Promise<string> =>
    driver.executeScript(`return document.querySelector('[data-pane="' + arguments[0] + '"] canvas').toDataURL()`, pane);
  const bars = async (interval: string): Promise<Bar[]> =>
    ((await api.get(`/api/bars/GANET.HALM?interval=${interval}&limit=600`)).body as { items: Bar[] }).items;
  const says = (line: string, bar: Bar | undefined): boolean =>
    bar !== undefined &&
    [`O ${bar.open}`, `H ${bar.high}`, `L ${bar.low}`, `C ${bar.close}`, `V ${Number(bar.volume).toLocaleString('en-GB')}`].every((part) =>
      line.includes(part),
    );
  const menuItem = async (words: string): Promise<void> => {
    await page.item(words).click();
  };
  /** A box of a chart's settings, ticked or not. */
  const tick = async (label: string): Promise<void> => {
    await page.click('button[aria-label="Settings of Chart"]');
    await page.find(`//label[contains(normalize-space(.), "${label}")]/input[@type="checkbox"]`).click();
    await page.gone('[data-radix-popper-content-wrapper]', Key.ESCAPE);
    await page.settle();
  };

  it('share one crosshair: both data lines read the same moment, each in its own interval', async () => {
    const [fives, fifteens] = await Promise.all([bars('5m'), bars('15m')]);
    const plot = await page.find('[data-pane="five"] [data-testid="chart"]').box();
    await page.moveTo(plot.x + 90, plot.y + 120);
    const newest = fives[fives.length - 1];
    const line = await until('five', (text) => text.includes('C ') && !says(text, newest));
    const at = fives.find((bar) => says(line, bar));
    expect(at, line).to.not.equal(undefined);
    const quarter = fifteens.filter((bar) => Date.parse(bar.time) <= Date.parse(at?.time ?? '')).pop();
    await until('fifteen', (text) => says(text, quarter));
    await page.moveTo(640, 20);
    await until('five', (text) => says(text, newest));
    await until('fifteen', (text) => says(text, fifteens[fifteens.length - 1]));
  });

  it('compare with a second instrument, its close in the data line, and give it up again', async () => {
    const before = await canvas('five');
    const more = page.find('[data-pane="five"] button[aria-label^="More"]');
    await more.click();
    const field = page.find('input[aria-label="Compare with"]');
    await field.type('brine', Key.ENTER);
    await page.keys(Key.ESCAPE);
    const { items } = (await api.get('/api/bars/BRINE.HALM?interval=5m&limit=1')).body as { items: Bar[] };
    await until('five', (text) => text.includes(`BRINE.HALM ${Number(items[0]?.close)}`));
    expect(await canvas('five')).to.not.equal(before);
    await page.find('[data-pane="five"] button[aria-label^="with BRINE.HALM"]').click();
    await menuItem('Compare with nothing');
    await until('five', (text) => !text.includes('BRINE'));
    await driver.wait(async () => (await canvas('five')) === before, 4000, 'the chart as it was');
  });

  for (const label of ['Previous day', 'Opening range', 'VWAP of the session'])
    it(`draw ${label.toLowerCase()} when asked, and no longer when not`, async () => {
      const before = await canvas('five');
      await tick(label);
      await driver.wait(async () => (await canvas('five')) !== before, 4000, `${label} was not drawn`);
      await tick(label);
      await driver.wait(async () => (await canvas('five')) === before, 4000, `${label} stayed`);
    });

  it('keep their studies as a set, to be put on any chart and given up again', async () => {
    const menu = async (pane: string): Promise<void> => {
      const words = page.find(`//*[@data-pane="${pane}"]//button[starts-with(normalize-space(.), "Studies")]`);
      await words.click();
      await page.until(`return document.querySelector('input[aria-label="Name of a set"]')`);
    };
    const studies = async (pane: string): Promise<string> => page.find(`//*[@data-pane="${pane}"]//button[starts-with(normalize-space(.), "Studies")]`).text();
    await menu('five');
    await page.choose('Add a study', 'Simple average');
    await page.find('input[aria-label="Name of a set"]').type('lines', Key.ENTER);
    const sets = async (): Promise<number> => ((await api.get('/api/study-sets')).body as { items: object[] }).items.length;
    await driver.wait(async () => (await sets()) === 1, 4000);
    await page.keys(Key.ESCAPE);
    await menu('fifteen');
    await page.clickText('lines');
    await driver.wait(async () => (await studies('fifteen')) === 'Studies 1', 4000);
    await page.click('button[aria-label="Delete the set lines"]');
    await driver.wait(async () => (await sets()) === 0, 4000);
    await page.keys(Key.ESCAPE);
  });
});
