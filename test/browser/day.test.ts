import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import { enterDemo, leaveDaySheet, openBrowser } from '../support/browser.ts';
import { DeskPage } from '../support/desk-page.ts';
import type { Found } from '../support/found.ts';
import { Client, dropFolder, startServer, writeTape, type Server } from '../support/server.ts';

describe('a day begins and is looked back at', function () {
  this.timeout(240_000);
  let server: Server;
  let api: Client;
  let driver: WebDriver;
  let page: DeskPage;
  let close: () => Promise<void>;
  before(async () => {
    server = await startServer({ KAVIX_PAST: 'demo', KAVIX_CLOCK: 'manual' });
    api = await Client.signIn(server.address);
    ({ driver, close } = await openBrowser());
    page = new DeskPage(driver);
    await enterDemo(driver, server.address, 'stay');
  });
  after(async () => {
    await close();
    await server.stop();
    dropFolder(server.folder);
  });

  const texts = (selector: string): Promise<string[]> =>
    driver.executeScript(`return [...document.querySelectorAll(arguments[0])].map((one) => one.textContent)`, selector);

  it('opens with the day sheet: each account, its rules, what is held without a stop, what last week asks', async () => {
    await page.until(`return document.querySelector('[data-page="sheet"]')?.textContent.includes('Last week: 2026-02-23')`);
    const all = (await texts('[data-page="sheet"]')).join(' ');
    expect(all)
      .to.contain('Monday 2 March')
      .and.contain('100,000.00 EUR')
      .and.match(/6 positions: ([+−][\d,]+ [A-Z]+, ){5}[+−][\d,]+ [A-Z]+/);
    expect(all).to.contain('If today’s net result reaches −500.00').and.contain('0 of 500 · 0 %').and.contain('0 of 5 · 0 %');
    expect(all).to.match(/\?/);
    expect(await page.violationsInBothThemes()).to.deep.equal([]);
  });

  it('is left by Enter for the workspace, and opens once a day', async () => {
    await page.keys(Key.ENTER);
    await page.until(`return document.querySelector('[data-page="sheet"]') === null`);
    await driver.navigate().refresh();
    await page.until(`return document.querySelector('[data-testid="ladder-body"] .ladder-row')`);
    await page.until(`return document.querySelector('[role="meter"]')`);
    await page.loaded();
    expect(await texts('[data-page="sheet"]')).to.deep.equal([]);
    await page.openPage('Day sheet');
    await page.until(`return document.querySelector('[data-page="sheet"]')`);
    await leaveDaySheet(driver);
  });

  it('measures a day without a limit by the largest of the last twenty, and says how many units were filled today', async () => {
    const days = ((await api.get('/api/risk/MAIN/days?limit=21')).body as { items: { day: string; net: string }[] }).items.slice(0, -1);
    const largest = Math.max(...days.map(({ net }) => Math.abs(Number(net))));
    expect(largest, 'there is a past').to.be.greaterThan(10);
    await page.until(`return document.querySelector('[role="meter"]')?.ariaValueMin === arguments[0]`, String(-Math.round(largest)));
    const { quantityUsed } = (await api.get('/api/risk/MAIN/state')).body as { quantityUsed: Record<string, string> };
    const units = Object.values(quantityUsed).reduce((sum, of) => sum + Number(of), 0);
    await page.until(
      `return document.querySelector('[aria-label="Risk rail"]').textContent.includes('quantity' + arguments[0])`,
      units.toLocaleString('en-GB'),
    );
  });

  it('cuts no cell and no title in any prepared workspace, before the first trade and after', async () => {
    // What is for screen readers alone has no width; what wraps goes out of sight whole.
    const cut = `return [...document.querySelectorAll('.dv-groupview *')]
      .filter((one) => one.clientWidth > 1 && ['hidden', 'clip'].includes(getComputedStyle(one).overflowX) && one.scrollWidth > one.clientWidth + 1)
      .filter((one) => getComputedStyle(one).flexWrap === 'nowrap' && !one.querySelector('table, canvas, svg') && one.textContent.trim() !== '')
      .map((one) => one.textContent.trim() + ' in ' + (one.closest('[data-pane]')?.dataset.pane ?? 'a title') + ', ' + one.scrollWidth + ' of ' + one.clientWidth)`;
    for (const time of ['09:00:00.000', '11:00:00.000']) {
      await api.to(time);
      for (const name of ['One instrument', 'Many instruments', 'Four charts', 'Futures ladder', 'Night market', 'Finding', 'Baskets and options']) {
        await page.openAlone(name);
        expect(await driver.executeScript(cut), `${name} at ${time}`).to.deep.equal([]);
      }
    }
    await page.openAlone('One instrument');
  });

  it('never moves the frame out of the window, however long its pages are', async () => {
    for (const title of ['Day sheet', 'Review', 'Risk', 'Accounts', 'Settings']) {
      await page.openPage(title);
      await page.until(`return document.querySelector('[data-page] section h2')`);
      expect(await driver.executeScript('return [document.body.scrollHeight, document.body.scrollWidth]'), title).to.deep.equal([800, 1280]);
    }
    await page.gone('[data-page]', Key.ESCAPE);
  });

  it('opens a round trip on its market, with what was asked, and compares two setups', async () => {
    await page.openPage('Review');
    await page.choose('Period', 'all');
    await page.find('//*[@aria-label="Round trips"]//tbody//button[@aria-expanded]').poke();
    await page.until(`return document.querySelectorAll('[aria-label="What was asked and answered"] li').length >= 4`);
    const asked = (await texts('[aria-label="What was asked and answered"] li')).join(' ');
    expect(asked)
      .to.match(/user.*(Buy|Sell)/)
      .and.match(/(Bought|Sold) \d/);
    const drawn = (what: string): string => `return document.querySelector('svg[aria-label*="; in at"] ${what}')`;
    for (const what of ['[data-fill="in"]', '[data-fill="out"]', '[data-level="stop"]', '[data-extreme="at worst"]']) await page.until(drawn(what));
    await page.until(`return document.querySelectorAll('[aria-label="Compared"] tbody tr').length === 10`);
    await page.until(`return ![...document.querySelectorAll('[aria-label="Compared"] td')].slice(0, 4).some((one) => one.textContent === '–')`);
    const figures = (await api.get('/api/review/figures?by=setup')).body as {
      groups: { key: string; figures: { count: number; gross: string; fees: string } }[];
    };
    const counts = await texts('[aria-label="Compared"] tbody tr:nth-child(2) td.figure');
    await page.until(`return document.querySelector('[aria-label="Results by weekday"]')`);
    expect(await texts('[aria-label="Results by weekday"] tbody td:first-child')).to.deep.equal(['mon', 'tue', 'wed', 'thu', 'fri']);
    const shares = figures.groups.map(({ figures: { gross, fees } }) =>
      Number(gross) > 0 ? `${((Number(fees) / Number(gross)) * 100).toFixed(1)} %` : 'no gross',
    );
    expect(await page.find('//section[@aria-label="Grouped by"]//table').text()).to.satisfy((said: string) => shares.every((share) => said.includes(share)));
    expect(counts).to.deep.equal(
      figures.groups
        .filter(({ key }) => key !== '(none)')
        .slice(0, 2)
        .map(({ figures: of }) => String(of.count)),
    );
    expect(await page.violationsInBothThemes()).to.deep.equal([]);
  });

  it('lets a losing setup speak in the ticket, in the trader’s own words, with half the size', async () => {
    const figures = (await api.get('/api/review/figures?by=setup')).body as { groups: { key: string; figures: { expectancyR: string | null } }[] };
    const losing = figures.groups.find(({ figures: of }) => of.expectancyR !== null && Number(of.expectancyR) < 0)?.key ?? 'Opening break';
    await page.find(`//section[contains(., "the last 20 of each")]//li[contains(., "${losing}, the last")]//button`).poke();
    await page.find(`//input[@aria-label="Words for ${losing}"]`).type('Only with the trend', Key.ENTER);
    await driver.wait(async () => JSON.stringify((await api.get('/api/settings')).body).includes('Only with the trend'), 5000);
    await page.keys(Key.ESCAPE);
    await page.until(`return document.querySelector('[data-page]') === null`);
    const setup = page.find('//form[starts-with(@aria-label, "Ticket")]//input[@aria-label="Setup"]');
    await setup.type(losing);
    await page.until(`return document.querySelector('[aria-label="How ' + arguments[0] + ' has done"]')?.textContent.includes('Only with the trend')`, losing);
    await page.find(`//*[@aria-label="How ${losing} has done"]//button`).click();
    const quantity = page.find('//form[starts-with(@aria-label, "Ticket")]//input[contains(@id, "quantity")]');
    expect(await quantity.value()).to.equal('25');
    expect(await page.violations()).to.deep.equal([]);
  });

  it('tells what is offered; lots are applied for, changed and taken back in Accounts', async () => {
    await page.openPage('Day sheet');
    await page.until(`return document.querySelector('[data-page="sheet"] [aria-label="New issues"]')?.textContent.includes('is offered at')`);
    await page.clickText('Apply in Accounts');
    const field = (label: string): Found => page.find(`//*[starts-with(@aria-label, "${label}")]`);
    const lots = async (count: string): Promise<void> => field('lots of ').type(Key.chord(Key.CONTROL, 'a'), count, Key.ENTER);
    const told = (words: string): Promise<unknown> => page.until(`return document.querySelector('section[aria-label="New issues"]')?.textContent.includes(arguments[0])`, words); // prettier-ignore
    await lots('99');
    await told('lots must be 1 to 20');
    await lots('2');
    await told('2 × ');
    await told('tied up');
    await field('change the application').click();
    await lots('3');
    await told('3 × ');
    expect(await page.violationsInBothThemes()).to.deep.equal([]);
    await field('take back the application').click();
    await field('lots of ').appears();
    const { items } = (await api.get('/api/applications')).body as { items: { state: string }[] };
    expect(items.map(({ state }) => state)).to.deep.equal(['canceled']);
    await page.keys(Key.ESCAPE);
  });

  it('asks at the end of a lock what its time was like, on the day sheet and on the rail, until that is answered', async () => {
    await page.openPage('Day sheet');
    await page.until(`return document.querySelector('[data-page="sheet"]')?.textContent.includes('The lock of EVAL is over')`);
    expect(await texts('[data-page="sheet"] section')).to.satisfy((all: string[]) =>
      all.some((one) => /round trips?, net [+−]?[\d.]+ EUR.*reached on \d+ of \d+ days/.test(one)),
    );
    await page.clickText('leave it open');
    await page.until(`return !document.querySelector('[data-page="sheet"]').textContent.includes('The lock of EVAL is over')`);
    await driver.navigate().refresh();
    await page.until(`return document.querySelectorAll('[aria-label="Risk rail"]').length > 0`);
    expect(await driver.executeScript(`return document.body.textContent.includes('lock over')`)).to.equal(false);
  });
});

describe('a week that is over', function () {
  this.timeout(120_000);

  it('is looked back at, at the first sign-in after its last close', async () => {
    const friday = (clock: string, rest: string): string => `2026-03-06T${clock}.000Z,GANET.HALM,${rest}`;
    const tape = writeTape([
      friday('17:29:00', 'state,,,,open'),
      friday('17:29:00', 'level,bid,41.00,500,'),
      friday('17:29:00', 'level,ask,41.02,500,'),
      friday('17:29:00', 'trade,buy,41.02,10,'),
    ]);
    const server = await startServer({ KAVIX_MARKET: `tape:${tape}`, KAVIX_CLOCK: 'manual' });
    const api = await Client.signIn(server.address);
    const { driver, close } = await openBrowser();
    const page = new DeskPage(driver);
    const sheet = (): Promise<string> => driver.executeScript(`return document.querySelector('[data-page="sheet"]')?.textContent ?? ''`);
    try {
      await api.post('/api/clock', { advanceTo: '2026-03-06T17:29:01.000Z' });
      await enterDemo(driver, server.address, 'stay');
      await page.until(`return document.querySelector('[data-page="sheet"]')`);
      expect(await sheet()).not.to.contain('This week');
      await leaveDaySheet(driver);
      await api.post('/api/clock', { advanceTo: '2026-03-06T17:31:00.000Z' });
      await driver.navigate().refresh();
      await page.until(`return document.querySelector('[data-page="sheet"]')?.textContent.includes('This week: 2026-03-02')`);
      expect(await sheet())
        .to.contain('Friday 6 March')
        .and.contain('HALM has closed')
        .and.contain('Today: 2026-03-06');
      expect(await page.violations()).to.deep.equal([]);
    } finally {
      await close();
      await server.stop();
      dropFolder(server.folder);
    }
  });
});
