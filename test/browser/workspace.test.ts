import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import { PANE_KINDS } from '../../src/schemas/saved.ts';
import { enterDemo, openBrowser } from '../support/browser.ts';
import { DeskPage } from '../support/desk-page.ts';
import type { Box } from '../support/found.ts';
import { Client, dropFolder, startServer, type Server } from '../support/server.ts';

interface SavedWorkspace {
  readonly layout: unknown;
  readonly panes: Readonly<Record<string, { kind: string; letter: string | null; intervalLetter: string | null; settings: Record<string, unknown> }>>;
  readonly letters: Readonly<Record<string, { instrument: string }>>;
  readonly windows: readonly string[];
}

describe('a workspace', function () {
  this.timeout(180_000);
  let server: Server;
  let driver: WebDriver;
  let close: () => Promise<void>;
  let page: DeskPage;
  let api: Client;

  before(async () => {
    server = await startServer();
    api = await Client.signIn(server.address);
    await api.post('/api/clock', { advanceBy: 4 * 3_600_000 });
    ({ driver, close } = await openBrowser());
    page = new DeskPage(driver);
    await enterDemo(driver, server.address);
  });
  after(async () => {
    await close();
    await server.stop();
    dropFolder(server.folder);
  });

  const saved = async (name: string): Promise<SavedWorkspace> => (await api.get(`/api/workspaces/${encodeURIComponent(name)}`)).body;
  /** Waits until what is saved on the server is as wanted. */
  const untilSaved = async (name: string, is: (document: SavedWorkspace) => boolean): Promise<void> => {
    await driver.wait(
      async () => {
        const reply = await api.get(`/api/workspaces/${encodeURIComponent(name)}`);
        return reply.status === 200 && is(reply.body);
      },
      8000,
      `${name} was not saved so`,
    );
  };
  const choose = async (button: string, ...words: string[]): Promise<void> => {
    await page.click(button);
    for (const word of words) {
      const lines = `//*[starts-with(@role, "menuitem") or @cmdk-item][normalize-space(.)="${word}" or @aria-label="${word}" or span[1][normalize-space(.)="${word}"]]`;
      await page.find(`(${lines})[last()]`).click();
    }
  };
  const regions = (): Promise<string[]> =>
    driver.executeScript(`return [...document.querySelectorAll('[role="region"]')].map((one) => one.getAttribute('aria-label'))`);
  const box = (css: string): Promise<Box> => page.find(css).box();
  /** Draws between two places of the chart with the pointer held down. */
  const drag = async (from: [number, number], to: [number, number]): Promise<void> => {
    await driver
      .actions({ async: true })
      .move({ x: Math.round(from[0]), y: Math.round(from[1]), duration: 0 })
      .press()
      .move({ x: Math.round((from[0] + to[0]) / 2), y: Math.round((from[1] + to[1]) / 2), duration: 40 })
      .move({ x: Math.round(to[0]), y: Math.round(to[1]), duration: 40 })
      .release()
      .perform();
  };
  const drawings = async (): Promise<{ kind: string; points: { time: number; price: number }[] }[]> =>
    ((await api.get('/api/drawings/KELPA.HALM')).body as { items: { kind: string; points: { time: number; price: number }[] }[] }).items;

  it('is one in two windows of different size: neither sets the other right, and its sizes stay as they were', async () => {
    const chosen = (): Promise<string | undefined> =>
      driver.executeScript(
        `return [...document.querySelectorAll('.dv-active-tab')].map((tab) => tab.textContent).find((word) => ['Positions', 'Fills', 'News'].includes(word))`,
      );
    const layout = async (): Promise<unknown> => (await saved('One instrument')).layout;
    const show = (word: string): Promise<unknown> => page.find(`//*[contains(@class, "dv-tab")]//*[normalize-space(text())="${word}"]`).click();
    await show('Fills');
    await untilSaved('One instrument', ({ layout: at }) => JSON.stringify(at).includes('"active":"p7"'));
    const first = await layout();
    const main = await driver.getWindowHandle();
    await driver.switchTo().newWindow('tab');
    await driver.get(`${server.address}/`);
    await page.loaded();
    await page.passes(2000);
    expect(await layout()).to.deep.equal(first);
    await show('News');
    await untilSaved('One instrument', ({ layout: at }) => JSON.stringify(at).includes('"active":"p10"'));
    await driver.close();
    await driver.switchTo().window(main);
    await driver.wait(async () => (await chosen()) === 'News', 5000);
    for (const word of ['Fills', 'News', 'Positions']) {
      await driver.navigate().refresh();
      await page.loaded();
      await show(word);
    }
    await untilSaved('One instrument', ({ layout: at }) => JSON.stringify(at).includes('"active":"p6"'));
    const shares = (of: unknown): number[] => {
      const { split } = of as { split: { size: number }[] };
      const whole = split.reduce((sum, { size }) => sum + size, 0);
      return split.map(({ size }) => Math.round((1000 * size) / whole));
    };
    shares(await layout()).forEach((share, i) => expect(share).to.be.closeTo(shares(first)[i] ?? 0, 4));
  });

  it('takes a pane where its word is dragged to, and holds that', async () => {
    await page.drag('//*[contains(@class, "dv-tab")]//*[normalize-space(text())="News"]', '[role="region"][aria-label^="Ladder"]');
    await untilSaved('One instrument', ({ layout: at }) => /"stack":\["p11","p10"\]/.test(JSON.stringify(at)));
    await driver.navigate().refresh();
    await page.loaded();
    expect((await regions()).some((name) => name.startsWith('News'))).to.equal(true);
    await page.drag('//*[contains(@class, "dv-tab")]//*[normalize-space(text())="News"]', '[role="region"][aria-label^="Orders"]');
    await untilSaved('One instrument', ({ layout: at }) => /"p5","p10"\]/.test(JSON.stringify(at)));
  });

  it('is begun empty, and takes panes from the list and from the command bar', async () => {
    await choose('button[aria-label$="orkspace menu"]', 'New, empty');
    await page.until(`return document.body.textContent.includes('This workspace is empty.')`);
    await choose('button[aria-label="Add a pane"]', 'Watchlist');
    await page.until(`return document.querySelector('[role="region"][aria-label^="Watchlist"]')`);
    await page.keys('/');
    await page.keys('Chart', Key.ENTER);
    await page.until(`return document.querySelector('[role="region"][aria-label^="Chart"]')`);
    expect((await regions()).map((name) => name.split(' ')[0])).to.include('Chart');
    await untilSaved('Workspace', ({ panes }) => Object.values(panes).length === 2);
  });

  it('is split, and what it shows walks with the list through a link letter', async () => {
    // The chart came as a word beside the list; another one beside it is a part of its own.
    await page.click('button[aria-label="Settings of Chart"]');
    await page.clickText('one like it beside');
    await page.keys(Key.ESCAPE);
    await page.until(`return document.querySelectorAll('[role="region"][aria-label^="Chart"]').length >= 2`);
    await page.find('//span[normalize-space(.)="Watchlist"]').click();
    await page.until(`return document.querySelector('tr[data-instrument="GANET.HALM"]')`);
    await page.find('tr[data-instrument="GANET.HALM"] .ticker').click();
    await page.keys(Key.ARROW_DOWN);
    await page.until(`return document.querySelector('[role="region"][aria-label="Chart KELPA.HALM"]')`);
    await untilSaved('Workspace', ({ letters }) => letters['A']?.instrument === 'KELPA.HALM');
  });

  it('has done by name what a pane can that is not active: the bar says whose it is, and goes there', async () => {
    const active = (): Promise<string> =>
      driver.executeScript(`return document.querySelector('.dv-groupview.active-pane [role="region"]').getAttribute('aria-label')`);
    expect(await active()).to.match(/^Watchlist/);
    await page.keys('/');
    await page.keys('fit the chart');
    await page.until(`return document.querySelector('[cmdk-item]')?.textContent.includes('in Chart')`);
    await page.keys(Key.ENTER);
    await driver.wait(async () => (await active()).startsWith('Chart'), 4000);
    expect(await driver.executeScript(`return document.querySelector('[role="region"][aria-label^="Watchlist"]').checkVisibility()`)).to.equal(true);
    await page.keys('/');
    await page.keys('change the theme');
    await page.until(`return document.querySelector('[cmdk-item]')?.textContent.includes('change the theme')`);
    await page.keys(Key.ENTER);
    await page.until(`return document.documentElement.dataset.theme === 'day'`);
    await page.chord('z', Key.CONTROL);
    await page.until(`return document.documentElement.dataset.theme === 'night'`);
  });

  it('links the interval alone to another letter', async () => {
    await page.find('(//*[contains(@class,"dv-groupview")][.//*[@data-testid="chart"]]//button[starts-with(@aria-label, "Link letter")])[last()]').click();
    await page.find('[role="menuitemradio"][aria-label="Interval C"]').click();
    await page.gone('[role="menu"]', Key.ESCAPE);
    await page.until(`return document.querySelector('[data-interval="C"]')`);
    await untilSaved('Workspace', ({ panes }) => Object.values(panes).some((pane) => pane.intervalLetter === 'C'));
  });

  it('takes studies, edited and taken back', async () => {
    await page.clickText('Studies');
    for (const name of ['Simple average', 'Simple average', 'Relative strength', 'MACD']) await page.choose('Add a study', name);
    const second = page.find('(//fieldset[contains(., "Simple average")]//input[@inputmode="numeric"])[2]');
    await second.clear();
    await second.type('50', Key.ENTER);
    await page.until(`return document.querySelector('[data-testid="data-line"]').textContent.includes('SMA 50')`);
    const line: string = await driver.executeScript(`return document.querySelector('[data-testid="data-line"]').textContent`);
    for (const part of ['SMA 20', 'SMA 50', 'RSI 14', 'MACD 12 26 9']) expect(line).to.contain(part);
    await page.keys(Key.ESCAPE);
    await driver.executeScript('document.activeElement?.blur()');
    await page.chord('z', Key.CONTROL);
    await page.until(`return !document.querySelector('[data-testid="data-line"]').textContent.includes('MACD')`);
    expect(await page.find('[data-testid="said"]').text()).to.contain('back: MACD');
  });

  it('is drawn upon, and what was drawn is taken back', async () => {
    const plot = await box('[data-testid="chart"]');
    await page.clickText('Draw');
    await page.find('//*[@role="menuitem"][normalize-space(.)="trend line"]').click();
    await page.settle();
    await drag([plot.x + 60, plot.y + 60], [plot.x + 180, plot.y + 100]);
    await driver.wait(async () => (await drawings()).length === 1, 4000, 'the line was not kept');
    const [line] = await drawings();
    expect(line?.kind).to.equal('trend line');
    expect(line?.points).to.have.length(2);
    expect(line?.points[0]?.price).to.be.greaterThan(line?.points[1]?.price ?? Infinity);
    // Its handles are there: it can be moved, and moved back.
    await drag([plot.x + 120, plot.y + 80], [plot.x + 120, plot.y + 130]);
    await driver.wait(async () => (await drawings())[0]?.points[0]?.price !== line?.points[0]?.price, 4000, 'the line was not moved');
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => (await drawings())[0]?.points[0]?.price === line?.points[0]?.price, 4000, 'the line did not come back');
    await page.clickText('tell me when crossed');
    const alerts = async (): Promise<{ line: { from: { time: string; price: string } } | null }[]> =>
      ((await api.get('/api/alerts')).body as { items: never[] }).items;
    await driver.wait(async () => (await alerts()).length === 1, 4000, 'no alert was made of the line');
    expect((await alerts())[0]?.line?.from.time).to.equal(new Date(line?.points[0]?.time ?? 0).toISOString());
    // The alert goes with the line, there and back.
    const waitsAt = async (): Promise<string | undefined> => (await alerts())[0]?.line?.from.price;
    const first = await waitsAt();
    await page.until(`return [...document.querySelectorAll('button[aria-pressed="true"]')].some((one) => one.textContent === 'tells when crossed')`);
    await drag([plot.x + 120, plot.y + 80], [plot.x + 120, plot.y + 130]);
    await driver.wait(async () => (await waitsAt()) !== first, 4000, 'the alert stayed where the line had been');
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => (await waitsAt()) === first, 4000, 'the alert did not come back with the line');
    await page.clickText('tells when crossed');
    await driver.wait(async () => (await alerts()).length === 0, 4000, 'the alert was not ended');
    await page.click('[role="group"][aria-label="The trend line"] button[aria-label="Delete the trend line"]');
    await driver.wait(async () => (await drawings()).length === 0, 4000, 'the line was not deleted');
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => (await drawings()).length === 1, 4000, 'the line was not brought back');
  });

  it('is there again after the page was loaded anew, under its new name', async () => {
    const tab = page.find('//nav[@aria-label="Workspaces"]//button[normalize-space(.)="Workspace"]');
    await driver
      .actions({ async: true })
      .doubleClick(await tab.element())
      .perform();
    const field = page.find('input[aria-label="New name of Workspace"]');
    await field.type(Key.chord(Key.CONTROL, 'a'), 'Kelp desk', Key.ENTER);
    await page.until(`return [...document.querySelectorAll('nav button')].some((one) => one.textContent === 'Kelp desk')`);
    await untilSaved('Kelp desk', ({ panes }) => Object.values(panes).length >= 3);
    const before = (await regions()).sort();
    await driver.navigate().refresh();
    await page.until(`return document.querySelector('[role="region"][aria-label="Chart KELPA.HALM"]')`);
    await driver.wait(async () => (await regions()).length === before.length, 8000);
    expect((await regions()).sort()).to.deep.equal(before);
    await page.until(`return document.querySelector('[data-testid="data-line"]')?.textContent.includes('SMA 50')`);
    expect((await api.get('/api/workspaces/Workspace')).status).to.equal(404);
  });

  it('lets a pane go to a window of its own, which follows its letter and gives the pane back', async () => {
    const main = await driver.getWindowHandle();
    await page.click('button[aria-label="Settings of Chart"]');
    await page.clickText('own window');
    const other = await driver.wait(async () => (await driver.getAllWindowHandles()).find((handle) => handle !== main) ?? null, 8000);
    await untilSaved('Kelp desk', ({ windows }) => windows.length === 1);
    await driver.switchTo().window(other as string);
    await page.until(`return document.querySelector('[role="region"][aria-label="Chart KELPA.HALM"]')`);
    await page.until(`return document.querySelector('[aria-label="Key target"]') && document.querySelector('[aria-label^="screen"]')`);
    await driver.switchTo().window(main);
    await page.find('tr[data-instrument="BRINE.HALM"] .ticker').click();
    await driver.switchTo().window(other as string);
    await page.until(`return document.querySelector('[role="region"][aria-label="Chart BRINE.HALM"]')`);
    expect(await page.violations(), 'the window').to.deep.equal([]);
    await driver.close();
    await driver.switchTo().window(main);
    await untilSaved('Kelp desk', ({ windows }) => windows.length === 0);
  });

  it('keeps what is changed in a pane’s window while no main window shows its workspace', async () => {
    const main = await driver.getWindowHandle();
    await page.click('button[aria-label="Settings of Chart"]');
    await page.clickText('own window');
    const other = await driver.wait(async () => (await driver.getAllWindowHandles()).find((handle) => handle !== main) ?? null, 8000);
    await untilSaved('Kelp desk', ({ windows }) => windows.length === 1);
    await driver.get('about:blank');
    await driver.switchTo().window(other as string);
    await page.until(`return document.querySelector('[role="region"][aria-label="Chart BRINE.HALM"]')`);
    await page.click('button[aria-label="Settings of Chart"]');
    await page.choose('Scale: linear', 'logarithmic');
    await untilSaved('Kelp desk', ({ panes, windows }) => Object.values(panes).some(({ settings }) => settings['scale'] === 'log') && windows.length === 1);
    await driver.close();
    await driver.switchTo().window(main);
    await driver.get(`${server.address}/`);
    await page.until(`return [...document.querySelectorAll('nav button')].some((one) => one.textContent === '1 window')`);
    await page.clickText('1 window');
    await page.find('//*[@role="menuitem"][normalize-space(.)="Put Chart BRINE.HALM back"]').click();
    await untilSaved('Kelp desk', ({ windows }) => windows.length === 0);
  });

  it('gives one pane all the room and takes it back, and folds a side away', async () => {
    const count = (await regions()).length;
    await driver.executeScript(`document.querySelector('[data-testid="chart"]').focus()`);
    await page.chord(Key.ENTER, Key.CONTROL, Key.SHIFT);
    await page.until(`return document.querySelector('[data-testid="chart"]').clientWidth > 1100`);
    await page.chord(Key.ENTER, Key.CONTROL, Key.SHIFT);
    await page.until(`return document.querySelector('[data-testid="chart"]').clientWidth < 1100`);
    expect((await regions()).length).to.equal(count);
    await choose('button[aria-label$="orkspace menu"]', 'Fold or unfold the right side');
    await page.until(`return [...document.querySelectorAll('nav button')].some((one) => one.textContent === 'unfold right')`);
    await page.clickText('unfold right');
    await page.until(`return ![...document.querySelectorAll('nav button')].some((one) => one.textContent === 'unfold right')`);
  });

  it('is deleted, and comes back with Ctrl Z', async () => {
    await choose('button[aria-label$="orkspace menu"]', 'Delete');
    await page.until(`return document.querySelector('[data-testid="said"]')?.textContent.includes('deleted Kelp desk')`);
    expect((await api.get('/api/workspaces/Kelp%20desk')).status).to.equal(404);
    await driver.executeScript('document.activeElement?.blur()');
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => (await api.get('/api/workspaces/Kelp%20desk')).status === 200, 5000);
    await page.until(`return document.querySelector('[role="region"][aria-label^="Chart"]')`);
  });

  it('comes from a file, and a file of a newer format says so and changes nothing', async () => {
    const document = await saved('Kelp desk');
    const offer = async (name: string, text: string, says: string): Promise<void> => {
      await page.offerFile('Workspace file', name, text);
      await page.until(`return document.querySelector('[data-testid="said"]')?.textContent.includes(arguments[0])`, says);
    };
    await offer('far.workspace.json', JSON.stringify({ ...document, format: 9 }), 'format 9; this Kavix reads format 1');
    await offer('torn.json', '{"format": 1,', 'torn.json: This is no JSON: line 1, column 14');
    await offer('odd.json', JSON.stringify({ ...document, windows: ['nobody'] }, null, 1), ', column 3: /windows/0 there is no pane nobody');
    expect((await api.get('/api/workspaces/odd')).status).to.equal(404);
    await offer('Kelp two.workspace.json', JSON.stringify(document), 'Kelp two');
    await driver.wait(async () => (await api.get('/api/workspaces/Kelp%20two')).status === 200, 5000);
  });

  it('changed here and elsewhere at once is overwritten by neither: what differs is made one, a clash is asked about', async () => {
    const name = await page.until<string>(`return document.querySelector('[aria-current="page"]')?.textContent`);
    await page.menuInterval('5m');
    await untilSaved(name, ({ panes }) => Object.values(panes).some((pane) => pane.kind === 'Chart' && pane.settings['interval'] === '5m'));
    const elsewhere = async (change: (document: SavedWorkspace) => object): Promise<void> => {
      expect((await api.call('PUT', `/api/workspaces/${encodeURIComponent(name)}`, change(await saved(name)))).status).to.equal(200);
    };
    const chartOf = (document: SavedWorkspace): string => Object.entries(document.panes).find(([, pane]) => pane.settings['interval'] !== undefined)?.[0] ?? '';
    const withSetting = (document: SavedWorkspace, setting: object): object => {
      const id = chartOf(document);
      const pane = document.panes[id];
      return { ...document, panes: { ...document.panes, [id]: { ...pane, settings: { ...pane?.settings, ...setting } } } };
    };
    // Another setting of the same pane: both changes stay.
    await elsewhere((document) => withSetting(document, { volume: false }));
    await page.menuInterval('15m');
    await untilSaved(name, (document) => {
      const settings = document.panes[chartOf(document)]?.settings;
      return settings?.['interval'] === '15m' && settings['volume'] === false;
    });
    // The same setting: the window asks, and shows what is chosen.
    await elsewhere((document) => {
      const letters = Object.entries(document.letters).map(([letter, linked]) => [letter, { ...linked, interval: '1h' }]);
      return { ...withSetting(document, { interval: '1h' }), letters: Object.fromEntries(letters) as object };
    });
    await page.menuInterval('5m');
    await page.until(`return [...document.querySelectorAll('[role="alert"]')].some((one) => one.textContent.includes('was changed elsewhere too'))`);
    expect((await saved(name)).panes[chartOf(await saved(name))]?.settings['interval']).to.equal('1h');
    await page.clickText('take the other');
    await page.until(
      `return [...document.querySelectorAll('[role="region"][aria-label^="Chart"] [aria-pressed="true"]')].some((one) => one.textContent === '1h')`,
    );
  });

  for (const theme of ['Night watch', 'Chart room'])
    it(`has no axe violation in any pane, ${theme}`, async () => {
      const panes = Object.fromEntries(
        PANE_KINDS.map((kind, i) => [`q${i}`, { kind, letter: 'A', intervalLetter: null, instrument: null, account: 'MAIN', settings: {} }]),
      );
      const part = (from: number, to: number): object => ({
        split: PANE_KINDS.slice(from, to).map((_, i) => ({ stack: [`q${from + i}`], active: `q${from + i}`, size: 100 })),
        size: 100,
      });
      const reply = await api.call('PUT', '/api/workspaces/All%20panes', {
        format: 1,
        panes,
        letters: { A: { instrument: 'GANET.HALM', account: 'MAIN' } },
        layout: { split: [part(0, 4), part(4, 7), part(7, 10), part(10, PANE_KINDS.length)], size: 100 },
        direction: 'row',
        windows: [],
      });
      expect(reply.status).to.be.oneOf([200, 201]);
      await driver.executeScript(`localStorage.setItem('kavix.tabs', JSON.stringify({ open: ['All panes'], current: 'All panes' }))`);
      await driver.navigate().refresh();
      await page.until(`return document.querySelectorAll('[data-pane]').length === ${PANE_KINDS.length}`);
      if (theme === 'Chart room') await page.menu('Chart room');
      await page.loaded();
      expect(await page.violations()).to.deep.equal([]);
    });
});
