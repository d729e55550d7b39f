import { expect } from 'chai';
import { authenticator } from 'otplib';
import { Key, type WebDriver } from 'selenium-webdriver';
import { enterDemo, openBrowser } from '../support/browser.ts';
import { DeskPage } from '../support/desk-page.ts';
import { Client, dropFolder, startServer, type Server } from '../support/server.ts';

describe('the settings', function () {
  this.timeout(120_000);
  let server: Server;
  let driver: WebDriver;
  let close: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  before(async () => {
    server = await startServer({ KAVIX_CLOCK: 'manual' });
    ({ driver, close } = await openBrowser());
    page = new DeskPage(driver);
    await enterDemo(driver, server.address);
    api = await Client.signIn(server.address);
  });
  after(async () => {
    await close();
    await server.stop();
    dropFolder(server.folder);
  });
  const saved = async (): Promise<Record<string, unknown>> => (await api.get('/api/settings')).body;
  const untilSaved = (is: (settings: Record<string, unknown>) => boolean): Promise<unknown> => driver.wait(async () => is(await saved()), 8000, 'not saved so');
  const type = async (label: string, text: string): Promise<void> => {
    const field = page.find(`input[aria-label="${label}"]`);
    await field.type(Key.chord(Key.CONTROL, 'a'), text, Key.ENTER);
  };

  it('are a page over the workspace, which Esc leaves just as it was', async () => {
    await page.click('[role="region"][aria-label^="Orders"]');
    const before = await driver.executeScript<string>(`return document.querySelector('.dv-groupview.active-pane [data-pane]').dataset.pane`);
    await page.openPage('Settings');
    expect(await driver.executeScript(`return location.hash`)).to.equal('#settings');
    expect(await driver.executeScript(`return document.querySelector('[aria-label="Key target"]').textContent`)).to.include('keys do nothing');
    expect(await page.violations(), 'night').to.deep.equal([]);
    // A pane's keys do nothing meanwhile: Delete, letters, arrows.
    await page.keys('G', Key.ARROW_DOWN);
    expect(await driver.executeScript(`return document.querySelector('[cmdk-list]').className`)).to.equal('hidden');
    await page.keys(Key.ESCAPE);
    await page.until(`return !document.querySelector('[data-page]')`);
    expect(await driver.executeScript(`return document.querySelector('.dv-groupview.active-pane [data-pane]').dataset.pane`)).to.equal(before);
    await driver.navigate().back();
    await page.until(`return document.querySelector('[data-page="settings"]')`);
  });

  it('give way to the workspace that is asked for, by its name or by a pane that is opened', async () => {
    const open = (): Promise<unknown> => page.until(`return document.querySelector('[data-page="settings"]')`);
    const gone = (): Promise<unknown> => page.until(`return !document.querySelector('[data-page]')`);
    await open();
    await page.showWorkspace('Four charts');
    await gone();
    await page.openPage('Settings');
    await open();
    // The name of the one that lies under the page.
    await page.showWorkspace('Four charts');
    await gone();
    await page.showWorkspace('One instrument');
    await page.openPage('Settings');
    await open();
    await page.keys('/');
    await page.keys('BRINE.HALM');
    await page.until(`return document.querySelector('[cmdk-item]')`);
    await page.keys(Key.ENTER);
    await gone();
    await page.openPage('Settings');
    await open();
  });

  it('give the sizes that can be picked, and say what is wrong with others', async () => {
    await type('Sizes of Shares', '25 75 xx');
    await page.until(`return document.querySelector('[aria-label="Sizes"]').textContent.includes('xx is not a quantity')`);
    await type('Sizes of Shares', '75 25');
    await page.until(`return document.querySelector('[aria-label="Sizes"]').textContent.includes('25 is not larger than the one before it')`);
    expect(await saved()).to.not.have.property('sizeKeys');
    await type('Sizes of Shares', '25 75 150');
    await untilSaved(({ sizeKeys }) => (sizeKeys as { share: string[] } | undefined)?.share.join() === '25,75,150');
    await page.keys(Key.ESCAPE);
    await page.until(`return [...document.querySelectorAll('[role="region"][aria-label^="Ladder"] button')].some((one) => one.textContent === '75')`);
    expect(await driver.executeScript(`return document.querySelector('[aria-label="Key target"]').textContent`)).to.include('25');
  });

  it('take a number when the field is left, never while it is typed', async () => {
    await page.openPage('Settings');
    const label = 'The same press again is refused within, ms';
    const field = page.find(`input[aria-label="${label}"]`);
    await field.type(Key.chord(Key.CONTROL, 'a'), '900');
    expect(await field.value()).to.equal('900');
    await page.until(`return document.querySelector('[aria-label="Sending"]').textContent.includes('from 0 to 500')`);
    await field.type(Key.chord(Key.CONTROL, 'a'), '400', Key.TAB);
    await untilSaved(({ againMs }) => againMs === 400);
  });

  it('draw the theme and the scale at once, and a press still meets the row it is on', async () => {
    await page.choose('Theme', 'Chart room');
    await page.until(`return document.documentElement.dataset.theme === 'day'`);
    expect(await page.violations(), 'day').to.deep.equal([]);
    await page.choose('Scale', '125 %');
    await untilSaved(({ scale, theme }) => scale === 125 && theme === 'day');
    await page.keys(Key.ESCAPE);
    const row = await page.bestRow('bid');
    const at = await driver.executeScript<{ x: number; y: number; price: string }>(
      `const row = document.querySelectorAll('.ladder-row')[arguments[0] + 2];
       const [box, bid] = [row.getBoundingClientRect(), row.querySelector('.bid').getBoundingClientRect()];
       return { x: bid.left + 8, y: box.top + box.height / 2, price: row.querySelector('.spine').textContent };`,
      row,
    );
    await page.moveTo(at.x, at.y);
    await page.settle();
    await page.press(at.x, at.y);
    await page.until(
      `return document.querySelector('[role="dialog"][aria-label^="Order slip"]')?.textContent.includes('at ' + arguments[0] + ', MAIN')`,
      at.price,
    );
    const clear = await driver.executeScript<boolean>(
      `const slip = document.querySelector('[role="dialog"]').getBoundingClientRect();
       return [...document.querySelectorAll('[data-order-area]')].every((one) => {
         const area = one.getBoundingClientRect();
         return slip.right <= area.left || slip.left >= area.right || slip.bottom <= area.top || slip.top >= area.bottom;
       });`,
    );
    expect(clear, 'the slip stands clear of every order area').to.equal(true);
    await page.settle();
    await page.keys(Key.ARROW_UP);
    await page.until(`return !document.querySelector('[role="dialog"]').textContent.includes('at ' + arguments[0] + ', MAIN')`, at.price);
    await page.keys(Key.ESCAPE);
  });

  it('let a boundary between panes be pulled as far as the pointer goes, at any scale', async () => {
    const ladder = `document.querySelector('[role="region"][aria-label^="Ladder"]')`;
    const edge = (): Promise<{ x: number; y: number }> =>
      driver.executeScript(`const box = ${ladder}.closest('.dv-groupview').getBoundingClientRect(); return { x: box.left, y: box.top + box.height / 2 };`);
    const from = await edge();
    await driver
      .actions({ async: true })
      .move({ x: Math.round(from.x - 3), y: Math.round(from.y), duration: 0 })
      .press()
      .move({ x: Math.round(from.x - 43), y: Math.round(from.y), duration: 100 })
      .move({ x: Math.round(from.x - 83), y: Math.round(from.y), duration: 100 })
      .release()
      .perform();
    expect((await edge()).x - from.x).to.be.closeTo(-80, 3);
  });

  it('keep the way out of the account in the window, however large all is drawn', async () => {
    const outside = await driver.executeScript<string[]>(
      `return [...document.querySelectorAll('[aria-label="Risk rail"] > *')]
         .filter((one) => one.getBoundingClientRect().right > innerWidth || one.getBoundingClientRect().left < 0).map((one) => one.textContent);`,
    );
    expect(outside).to.deep.equal([]);
  });

  const templates = async (): Promise<string[]> => ((await api.get('/api/rule-templates')).body as { items: { name: string }[] }).items.map((one) => one.name);
  const field = (label: string): Promise<string> => page.until(`return document.querySelector('input[aria-label="${label}"]')?.value`);

  const pickAccount = async (account: string): Promise<void> => {
    await page.click('[data-page="risk"] button[aria-label^="Account"]');
    const item = `//*[@role="menuitemradio"][starts-with(normalize-space(.), "${account}")]`;
    await page.find(item).click();
  };

  it('keep risk rules as a template, for another account too; it counts whole', async () => {
    await page.openPage('Risk');
    await page.until(`return document.querySelector('input[aria-label^="Day loss limit"]')`);
    await page.clickText('steady');
    await type('Day loss limit, net of fees', '275');
    await type('Orders a minute', '9');
    await page.until(`return document.querySelector('[data-page="risk"]').textContent.includes('275')`);
    await type('Name of a template', 'calm days');
    await driver.wait(async () => (await templates()).includes('calm days'), 4000);
    expect((await api.get('/api/risk/MAIN')).body, 'nothing is set by that').to.include({ dayLossLimit: null });
    await pickAccount('EVAL');
    await page.until(`return document.querySelector('input[aria-label="Orders a minute"]')?.value === ''`);
    await page.clickText('first month');
    await page.clickText('calm days');
    await page.until(`return document.querySelector('[aria-label="Templates"] [role="status"]').textContent.includes('calm days')`);
    expect([await field('Day loss limit, net of fees'), await field('Orders a minute'), await field('Cool-down')]).to.deep.equal(['275', '9', '15']);
    await page.clickText('set these rules');
    await driver.wait(async () => ((await api.get('/api/risk/EVAL')).body as { maxOrdersPerMinute: number }).maxOrdersPerMinute === 9, 4000);
    expect((await api.get('/api/risk/EVAL')).body).to.include({ dayLossLimit: '275.00', instrumentLossLimit: null, noTradeWindows: null, openRisk: 'warn' });
  });

  it('take up a template but for what is locked and would be looser, and say so', async () => {
    await page.click('button[aria-label^="Rules to lock"]');
    for (const rule of ['day limit', 'orders a minute'])
      await page.find(`//*[@role="group"][@aria-label="Rules to lock"]//label[normalize-space(.)="${rule}"]`).click();
    await page.keys(Key.ESCAPE);
    await page.choose('Lock: ', 'until a moment');
    await page.until(`return [...document.querySelectorAll('button')].find((one) => one.textContent.startsWith('lock day limit'))?.disabled`);
    await page.find('input[aria-label="Locked until, exchange time"]').type('03052026', Key.TAB, '1100PM');
    await page.clickText('lock day limit, orders a minute …');
    await page.clickText('lock day limit, orders a minute until 2026-03-05 23:00');
    await page.until(`return document.querySelector('[aria-label="Lock"]').textContent.includes('Locked: day limit, orders a minute until 2026-03-05 23:00.')`);
    const { locks } = (await api.get('/api/risk/EVAL/state')).body as { locks: object[] };
    const until = '2026-03-05T23:00:00.000Z';
    expect(locks).to.deep.equal([
      { rule: 'dayLossLimit', until },
      { rule: 'maxOrdersPerMinute', until },
    ]);
    await page.clickText('first month');
    await page.until(`return document.querySelector('input[aria-label="Orders a minute"]')?.value === '6'`);
    await page.clickText('evaluation account');
    await page.until(
      `return document.querySelector('[aria-label="Templates"] [role="status"]').textContent.includes('locked and would be looser: day limit, orders a minute')`,
    );
    expect([await field('Day loss limit, net of fees'), await field('Orders a minute'), await field('Largest position')]).to.deep.equal(['275.00', '9', '5']);
    await page.clickText('set these rules');
    await driver.wait(async () => ((await api.get('/api/risk/EVAL')).body as { maxPositionQuantity: string | null }).maxPositionQuantity === '5', 4000);
  });

  it('write over a template and delete it, and bring it back', async () => {
    await page.until(`return [...document.querySelectorAll('[data-page="risk"] button')].find((one) => one.textContent === 'set these rules')?.disabled`);
    await type('Name of a template', 'calm days');
    await driver.wait(
      async () => ((await api.get('/api/rule-templates/calm%20days')).body as { maxPositionQuantity: string | null }).maxPositionQuantity === '5',
      4000,
      'not written over',
    );
    await page.click('button[aria-label="Delete the template calm days"]');
    await driver.wait(async () => (await templates()).length === 0, 4000, 'not deleted');
    await page.until(`return !document.querySelector('button[aria-label="Delete the template calm days"]')`);
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => (await templates()).includes('calm days'), 4000, 'not back');
    await page.until(`return document.querySelector('button[aria-label="Delete the template calm days"]')`);
    expect(await page.violationsInBothThemes()).to.deep.equal([]);
  });

  it('take rules from a file into the fields, and say where a file is wrong; nothing counts until it is set', async () => {
    const { version, ...rules } = (await api.get('/api/risk/EVAL')).body as { version: number; maxOrderQuantity: string | null };
    const told = (words: string): Promise<unknown> =>
      page.until(`return document.querySelector('[aria-label="Templates"] [role="status"]')?.textContent.includes(arguments[0])`, words);
    await page.offerFile('File of rules', 'odd.json', JSON.stringify({ ...rules, maxOrderQuantity: 'many' }, null, 1));
    await told('/maxOrderQuantity ');
    await told('Nothing was taken.');
    await page.offerFile('File of rules', 'mine.json', JSON.stringify({ ...rules, maxOrderQuantity: '77' }));
    await told('The fields are as in mine.json');
    await page.until(`return [...document.querySelectorAll('[data-page="risk"] input')].some((one) => one.value === '77')`);
    expect((await api.get('/api/risk/EVAL')).body).to.deep.equal({ ...rules, version });
    await page.clickText('as they were');
  });

  it('are taken along as a file, whole or not at all, and Ctrl Z brings them back', async () => {
    await page.openPage('Settings');
    const told = (words: string): Promise<unknown> =>
      page.until(`return document.querySelector('[aria-label="Take along"] [role="status"]')?.textContent.includes(arguments[0])`, words);
    const { volume } = (await saved()) as { volume?: number };
    await page.offerFile('File of settings', 'odd.json', '{\n "volume": 7,\n "scale": 400\n}');
    await told('odd.json: line 3, column 11: /scale ');
    expect((await saved())['volume']).to.equal(volume);
    await page.offerFile('File of settings', 'mine.json', '{ "volume": 7, "daySheetSeen": "2030-01-01" }');
    await told('The settings are as in mine.json');
    await untilSaved((settings) => settings['volume'] === 7 && settings['daySheetSeen'] !== '2030-01-01');
    expect(await page.violations()).to.deep.equal([]);
    await driver.executeScript('document.activeElement?.blur()');
    await page.chord('z', Key.CONTROL);
    await untilSaved((settings) => settings['volume'] === (volume ?? 50));
  });

  it('make a token, tell it once, and delete it', async () => {
    await page.openPage('Settings');
    await page.until(`return document.querySelector('input[aria-label="Name of a new token"]')`);
    await type('Name of a new token', 'night script');
    const told = await page.until<string>(`return [...document.querySelectorAll('[aria-label="Tokens"] [role="status"] .figure')][0]?.textContent`);
    const with_ = async (): Promise<number> => (await fetch(`${server.address}/api/accounts`, { headers: { authorization: `Bearer ${told}` } })).status;
    expect(await with_()).to.equal(200);
    await page.click('button[aria-label="Delete the token night script"]');
    await driver.wait(async () => (await with_()) === 401, 4000);
  });

  it('begin a second step, which signing in then asks for, and end it', async () => {
    await page.clickText('Begin a second step');
    const secret = (await page.until<string>(`return document.querySelector('[aria-label="Second step"] .figure')?.textContent`)).replaceAll(' ', '');
    await type('Code', '000000');
    await page.until(`return document.querySelector('[aria-label="Second step"]').textContent.includes('That code is wrong')`);
    await type('Code', authenticator.generate(secret));
    await page.until(`return document.querySelector('[aria-label="Second step"]').textContent.includes('End the second step')`);
    const fresh = new Client(server.address);
    const asked = await fresh.post('/api/session', { user: 'demo', password: 'kavix-demo' });
    expect([asked.status, (asked.body as { needs?: string }).needs]).to.deep.equal([401, 'code']);
    await type('Code', authenticator.generate(secret));
    await page.until(`return document.querySelector('[aria-label="Second step"]').textContent.includes('Begin a second step')`);
  });

  it('sign out elsewhere, and everywhere', async () => {
    const here = await page.until<number>(`return document.querySelectorAll('[aria-label="Signed in"] li').length`);
    expect(here).to.be.at.least(2);
    await page.clickText('sign out there');
    await page.until(`return document.querySelectorAll('[aria-label="Signed in"] li').length === ${here - 1}`);
    await page.clickText('Sign out everywhere');
    await page.until(`return location.pathname === '/sign-in'`);
    expect((await api.get('/api/accounts')).status).to.equal(401);
  });
});
