import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import { enterDemo, openBrowser } from '../support/browser.ts';
import { DeskPage } from '../support/desk-page.ts';
import { Client, dropFolder, startServer, type Server } from '../support/server.ts';

describe('every view', function () {
  this.timeout(120_000);
  let server: Server;
  let driver: WebDriver;
  let close: () => Promise<void>;
  let page: DeskPage;

  const errors = async (): Promise<string[]> =>
    (await driver.manage().logs().get('browser')).filter((line) => line.level.name === 'SEVERE').map((line) => line.message);

  before(async () => {
    server = await startServer();
    ({ driver, close } = await openBrowser());
    page = new DeskPage(driver);
  });
  after(async () => {
    await close();
    await server.stop();
    dropFolder(server.folder);
  });

  it('has no axe violation on the sign-in page', async () => {
    await driver.get(`${server.address}/sign-in`);
    await page.find('[data-testid="demo-sign-in"]').appears();
    expect(await page.violations()).to.deep.equal([]);
  });

  it('has none in the workspace, empty and loaded, in both themes', async () => {
    await enterDemo(driver, server.address);
    await page.loaded();
    expect(await page.violations(), 'night, empty').to.deep.equal([]);
    const api = await Client.signIn(server.address);
    for (const [i, price] of ['40.20', '40.10', '40.00'].entries())
      await api.post('/api/orders', {
        clientOrderId: `v-${i}`,
        account: 'MAIN',
        instrument: 'GANET.HALM',
        side: 'buy',
        type: 'limit',
        quantity: '100',
        limitPrice: price,
      });
    await api.post('/api/orders', { clientOrderId: 'v-fill', account: 'MAIN', instrument: 'KELPA.HALM', side: 'buy', type: 'market', quantity: '200' });
    await page.until(`return document.querySelectorAll('[data-order]').length >= 3 && document.querySelector('[data-position]')`);
    expect(await page.violations(), 'night, loaded').to.deep.equal([]);
    await page.menu('Chart room');
    await page.until(`return document.documentElement.dataset.theme === 'day'`);
    await page.drawn();
    expect(await page.violations(), 'day, loaded').to.deep.equal([]);
  });

  it('shows nothing that has to be scrolled sideways at 1280×800', async () => {
    const wide = await driver.executeScript<string[]>(
      `return [...document.querySelectorAll('body *')].filter((one) => one.scrollWidth > one.clientWidth + 1 && ['auto', 'scroll'].includes(getComputedStyle(one).overflowX)).map((one) => one.className)`,
    );
    expect(wide).to.deep.equal([]);
  });

  it('tells every key with ?, and why one can’t be used now', async () => {
    await page.click('[role="region"][aria-label^="Orders"]');
    await page.keys(Key.ESCAPE);
    await page.keys('?');
    const text = await page.until<string>(`return document.querySelector('[role="dialog"]')?.textContent`);
    expect(text).to.include('cancel the ringed order').and.include('not now: nothing is ringed').and.include('the next workspace');
    expect(await page.violations()).to.deep.equal([]);
    await page.keys(Key.ESCAPE);
    await page.until(`return !document.querySelector('[role="dialog"]')`);
  });

  it('says nothing in the console, the content security policy included', async () => {
    expect(await errors()).to.deep.equal([]);
  });

  it('says what a lost broker means, and that it is back', async () => {
    const api = await Client.signIn(server.address);
    await api.post('/api/link', { broker: 'down' });
    await page.until(`return document.querySelector('[data-testid="band"]')?.textContent.includes('No link to the broker')`);
    await api.post('/api/link', { broker: 'up' });
    await page.until(`return document.querySelector('[data-testid="band"]')?.textContent.includes('Broker back')`);
    await page.clickText('read');
    await api.post('/api/link', { data: 'down' });
    await page.until(`return document.querySelector('[data-testid="band"]')?.textContent.includes('No prices since')`);
    // A price in brackets stands whole in its title.
    const whole = `return [...document.querySelectorAll('.title-price')].every((one) => one.getBoundingClientRect().right <= one.parentElement.getBoundingClientRect().right)`;
    expect(await driver.executeScript(whole)).to.equal(true);
    await api.post('/api/link', { data: 'up' });
    await page.until(`return document.querySelector('[data-testid="band"]')?.textContent.includes('Prices back')`);
    await page.clickText('read');
    await page.until(`return !document.querySelector('[data-testid="band"]')`);
  });

  it('keeps a free pane where it is when the others follow a letter', async () => {
    await page.find('//*[contains(@class, "dv-groupview")][.//*[@data-testid="ladder-body"]]//button[starts-with(@aria-label, "Link letter")]').click();
    await page.find('//*[@role="menuitemradio"][normalize-space(.)="free"]').click();
    await page.find('//tr[contains(., "KELPA")][not(@data-position)]').click();
    await page.until(
      `return document.querySelector('[role="region"][aria-label="Chart KELPA.HALM"]') && document.querySelector('[role="region"][aria-label="Ladder GANET.HALM"]')`,
    );
  });
});
