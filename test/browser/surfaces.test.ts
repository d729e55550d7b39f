import { expect } from 'chai';
import { authenticator } from 'otplib';
import { Key, type WebDriver } from 'selenium-webdriver';
import { enterDemo, openBrowser } from '../support/browser.ts';
import { DeskPage } from '../support/desk-page.ts';
import { Client, dropFolder, startServer, type Server } from '../support/server.ts';

interface Order {
  readonly id: string;
  readonly side: string;
  readonly type: string;
  readonly state: string;
  readonly limitPrice: string | null;
  readonly stopPrice: string | null;
}

describe('the surfaces one orders from', function () {
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
    api = await Client.signIn(server.address);
  });
  after(async () => {
    await close();
    await server.stop();
    dropFolder(server.folder);
  });
  const orders = async (): Promise<Order[]> => ((await api.get('/api/orders?limit=1000')).body as { items: Order[] }).items;
  const untilOrder = (is: (order: Order) => boolean): Promise<unknown> => driver.wait(async () => (await orders()).some(is), 6000, 'no such order');
  const rightPress = (x: number, y: number): Promise<void> =>
    driver
      .actions({ async: true })
      .move({ x: Math.round(x), y: Math.round(y), duration: 0 })
      .contextClick()
      .perform();

  it('are entered with a code by a user with a second step, and not with a wrong one', async () => {
    const second = await Client.signIn(server.address, 'second', 'kavix-second');
    const { secret } = (await second.post('/api/session/second-step', {})).body as { secret: string };
    await second.post('/api/session/second-step', { code: authenticator.generate(secret) });
    await driver.get(`${server.address}/sign-in`);
    const field = async (name: string, text: string): Promise<void> => {
      const input = page.find(`input[name="${name}"]`);
      await input.type(Key.chord(Key.CONTROL, 'a'), text);
    };
    await field('user', 'second');
    await field('password', 'kavix-second');
    await page.keys(Key.ENTER);
    await field('code', '000000');
    await page.keys(Key.ENTER);
    await page.until(`return document.body.textContent.includes('wrong')`);
    await field('code', authenticator.generate(secret));
    await page.keys(Key.ENTER);
    await page.find('[aria-label="Risk rail"]').appears();
    await page.until(`return document.querySelector('[aria-label="Risk rail"]').textContent.includes('OTHER')`);
    await driver.executeScript(`localStorage.clear()`);
    await driver.manage().deleteAllCookies();
    await second.call('DELETE', '/api/session/second-step', { code: authenticator.generate(secret) });
  });

  it('stand on a clock that is moved on by hand', async () => {
    await enterDemo(driver, server.address);
    await page.until(`return document.querySelectorAll('.spine.best').length === 2`);
    const time = (): Promise<string> => driver.executeScript(`return document.querySelector('[data-testid="market-time"]').textContent`);
    expect(await time()).to.equal('09:00:00');
    await page.find('//button[.//*[@data-testid="market-time"]]').click();
    await page.clickText('+1 min');
    await driver.wait(async () => (await time()) === '09:01:00', 6000);
    await page.keys(Key.ESCAPE);
  });

  it('place from the chart’s strip just what is said across the plot', async () => {
    await page.clickText('Orders from chart');
    const strip = page.find('[data-testid="order-strip"]');
    const box = await strip.box();
    await page.moveTo(box.x + 10, box.y + box.height - 40);
    await page.settle();
    const words = await page.until<string>(`return document.querySelector('[data-testid="strip-words"]')?.textContent`);
    const price = /buys 50 at (\S+) · rests/.exec(words)?.[1] ?? '';
    expect(price, words).to.match(/^\d+\.\d\d$/);
    await page.press(box.x + 10, box.y + box.height - 40);
    await page.until(`return document.querySelector('[role="dialog"]')?.textContent.includes('at ' + arguments[0] + ', MAIN')`, price);
    await page.settle();
    await page.keys(Key.ENTER);
    await untilOrder(({ limitPrice, side }) => limitPrice === price && side === 'buy');
    // Above the market a press in the buy column is a stop.
    await page.moveTo(box.x + 10, box.y + 60);
    await page.settle();
    expect(await page.until<string>(`return document.querySelector('[data-testid="strip-words"]')?.textContent`)).to.match(/stop/);
    await page.moveTo(600, 20);
  });

  it('list every legal order at a price on a right press, on chart and ladder', async () => {
    const strip = await page.find('[data-testid="order-strip"]').box();
    await rightPress(strip.x + 10, strip.y + strip.height - 60);
    const listed = (): Promise<string[]> =>
      driver.executeScript(`return [...document.querySelectorAll('[role="menu"] [role="menuitem"]')].map((one) => one.textContent)`);
    await driver.wait(async () => (await listed()).length > 0, 4000);
    const onChart = await listed();
    expect(onChart.some((one) => one.startsWith('buys')) && onChart.some((one) => one.startsWith('sells'))).to.equal(true);
    await page.keys(Key.ESCAPE);
    await driver.wait(async () => (await listed()).length === 0, 4000);
    const cell = await page.ladderCell('buy', (await page.bestRow('bid')) + 3);
    await rightPress(cell.x, cell.y);
    await driver.wait(async () => (await listed()).some((one) => one.includes(`sells 50 if it falls to ${cell.price}`) || one.includes('stop')), 4000);
    const stop = (await listed()).find((one) => one.includes('stop')) ?? '';
    await page.find(`//*[@role="menuitem"][normalize-space(.)="${stop}"]`).click();
    await page.until(`return document.querySelector('[role="dialog"]')?.textContent.includes('at ' + arguments[0] + ', MAIN')`, cell.price);
    await page.settle();
    await page.keys(Key.ENTER);
    await untilOrder(({ stopPrice, type }) => stopPrice === cell.price && type === 'stop');
  });

  it('change an order’s price in its cell, and leave it with Esc', async () => {
    const row = page.find('tr[data-order]');
    const before = (await orders()).filter(({ state }) => state === 'new').map(({ limitPrice, stopPrice }) => limitPrice ?? stopPrice);
    await row.click();
    await page.keys(Key.F2);
    await page.until(`return document.activeElement?.getAttribute('aria-label')?.startsWith('New price of')`);
    await page.keys('1', Key.ESCAPE);
    expect((await orders()).filter(({ state }) => state === 'new').map(({ limitPrice, stopPrice }) => limitPrice ?? stopPrice)).to.deep.equal(before);
    await page.keys(Key.F2);
    await page.until(`return document.activeElement?.getAttribute('aria-label')?.startsWith('New price of')`);
    await page.chord('a', Key.CONTROL);
    await page.keys('40.00', Key.ENTER);
    await untilOrder(({ limitPrice, stopPrice }) => limitPrice === '40.00' || stopPrice === '40.00');
  });

  it('take a size from what may be risked, in ticket and slip, and send nothing by that', async () => {
    const before = (await orders()).length;
    const ticket = 'form[aria-label^="Ticket"]';
    const quantity = (): Promise<string> => driver.executeScript(`return document.querySelector('${ticket} input[id$="-quantity"]').value`);
    const asked = async (money: string, to: string): Promise<void> => {
      await page.find('[aria-label="Money"]').type(money);
      await page.find('[aria-label="At risk to"]').type(to);
    };
    const taken = (): Promise<string> =>
      page.until<string>(`return [...document.querySelectorAll('button')].find((one) => /^take [\\d,]+$/.test(one.textContent))?.textContent`);
    await page.find('//form[starts-with(@aria-label, "Ticket")]//button[normalize-space(.)="by …"]').click();
    await asked('200', 'bid - 1 %');
    const { bid } = ((await api.get('/api/quotes?instruments=GANET.HALM')).body as { items: { bid: string }[] }).items[0] ?? { bid: '0' };
    const limit = Number(await driver.executeScript<string>(`return document.querySelector('${ticket} input[id$="-limitPrice"]').value`));
    const words = await taken();
    const size = Number(/([\d,]+)/.exec(words)?.[1]?.replace(',', ''));
    // By hand: what a unit loses down to there, and the fees in and out, a tenth of a percent each.
    const stop = Number(bid) * 0.99;
    const lost = (units: number): number => units * (limit - stop) + Math.max(2, units * limit * 0.001) + Math.max(2, units * stop * 0.001);
    expect(lost(size)).to.be.at.most(200.01);
    expect(lost(size + 1)).to.be.above(199.99);
    await page.keys(Key.ENTER);
    await driver.wait(async () => (await quantity()) === String(size), 3000, 'the size was not taken');
    expect((await orders()).length).to.equal(before);
    expect(await page.violations()).to.deep.equal([]);
  });

  it('draw a chart without holes after the clock ran on and after the stream was lost', async () => {
    await page.menuInterval('1m');
    await page.until(`return document.querySelector('[data-testid="data-line"]').textContent.includes('C ')`);
    for (const _ of [1, 2, 3]) await api.post('/api/clock', { advanceBy: 600_000 });
    await api.post('/api/link', { data: 'down' });
    await api.post('/api/clock', { advanceBy: 600_000 });
    await api.post('/api/link', { data: 'up' });
    await api.post('/api/clock', { advanceBy: 61_000 });
    await driver.executeScript(
      `URL.createObjectURL = (blob) => { blob.text().then((text) => { window.savedText = text; }); return 'about:blank#'; };
       HTMLAnchorElement.prototype.click = () => undefined;`,
    );
    const minutes = async (): Promise<string[]> => {
      await page.click('[role="region"][aria-label^="Chart"] button[aria-label^="More"]');
      await driver.executeScript(`window.savedText = undefined`);
      await page.find('//*[@role="menuitem"][contains(., "as CSV")]').click();
      const text = await page.until<string>(`return window.savedText`);
      return text.split('\r\n').slice(1).map((line) => line.slice(0, 16)); // prettier-ignore
    };
    const bars = ((await api.get('/api/bars/GANET.HALM?interval=1m&limit=30')).body as { items: { time: string }[] }).items.map(({ time }) =>
      time.slice(0, 16),
    );
    await driver.wait(
      async () => {
        const shown = (await minutes()).map((one) => one.replace(' ', 'T'));
        return bars.every((time) => shown.includes(time));
      },
      // Each look saves the chart as CSV, which takes seconds on a busy machine.
      30_000,
      'the chart has holes',
    );
  });

  it('send a breakout pair from the chart as one group, of which a fill cancels the other', async () => {
    const strip = await page.find('[data-testid="order-strip"]').box();
    await rightPress(strip.x + 10, strip.y + 60);
    await page.find('//*[@role="menuitem"][starts-with(normalize-space(.), "Breakout pair")]').click();
    await page.until(`return document.querySelector('[role="dialog"]')?.textContent.includes('Enter sends: buy 50 at stop')`);
    await page.settle();
    await page.keys(Key.ENTER);
    const legs = async (): Promise<(Order & { group: string | null })[]> =>
      ((await orders()) as (Order & { group: string | null })[]).filter(({ group, state }) => group !== null && state === 'new');
    await driver.wait(async () => (await legs()).length === 2, 6000);
    const [one, other] = await legs();
    expect(one?.group).to.equal(other?.group);
    expect([one?.side, other?.side].sort()).to.deep.equal(['buy', 'sell']);
    await api.post('/api/orders/cancel', { account: 'MAIN', instrument: 'GANET.HALM' });
  });

  it('protect a position whose handle is pulled: Esc leaves it, letting go puts the stop', async () => {
    await api.post('/api/orders', { clientOrderId: 'held', account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'market', quantity: '300' });
    const handle = await page.find('[data-testid="position-handle"]').element();
    const pull = (y: number) =>
      driver
        .actions()
        .move({ origin: handle })
        .press()
        .move({ origin: handle, x: 2, y: Math.sign(y) * 20 })
        .move({ origin: handle, x: 2, y });
    await pull(70).perform();
    expect(await page.until<string>(`return document.querySelector('[data-testid="pulled-exit"]')?.textContent`)).to.match(
      /^stop for 300 at [\d.]+ · \d+ ticks · −[\d.]+ · −1.0 R$/,
    );
    await page.until(`return document.querySelector('[data-testid="would-stem"]') !== null`);
    await page.keys(Key.ESCAPE);
    await driver.actions().release().perform();
    expect((await orders()).filter(({ state }) => state === 'new')).to.deep.equal([]);
    // By the keys it is pulled too.
    await driver.executeScript(`document.querySelector('[data-testid="position-handle"]').focus()`);
    await page.keys(Key.ARROW_UP, Key.ARROW_UP);
    await page.until(`return document.querySelector('[data-testid="pulled-exit"]') !== null`);
    await page.keys(Key.ESCAPE);
    await pull(70).release().perform();
    await untilOrder(({ side, type, state }) => side === 'sell' && type === 'stop' && state === 'new');
    await page.until(`return document.querySelector('[data-testid="stem"]') !== null`);
    await api.post('/api/flatten', { account: 'MAIN' });
    await page.until(`return document.querySelector('[data-testid="position-handle"]') === null`);
  });

  it('pull a stop that is held here to another price, by pointer and by keys', async () => {
    await api.call('PUT', '/api/consents/held-here', { given: true });
    await api.post('/api/orders', { clientOrderId: 'here', account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'market', quantity: '20' });
    const leg = { by: 'ticks', value: '10', order: 'market' };
    const plan = { heldBy: 'here', onSizeChange: 'follow', onMissedLevel: 'fire', steps: [{ share: '100', stop: leg }] };
    const put = await api.post('/api/positions/MAIN/GANET.HALM/exit-plan', { plan });
    expect(put.status).to.equal(201);
    interface Running {
      readonly id: string;
      readonly steps: readonly { readonly stop: { readonly price: string } | null }[];
    }
    const waitsAt = async (): Promise<number> => {
      const { items } = (await api.get('/api/running-plans')).body as { items: Running[] };
      return Number(items.find(({ id }) => id === (put.body as Running).id)?.steps[0]?.stop?.price);
    };
    const first = await waitsAt();
    const tag = page.find('.hook.hatched[data-order]');
    await page.settle();
    const pull = async (y: number): Promise<void> => {
      const origin = await tag.element();
      await driver.actions().move({ origin }).press().move({ origin, y: 12 }).move({ origin, y }).perform();
    };
    const { y: stood } = await tag.box();
    await pull(40);
    // It stands under the pointer, not where the pointer was before.
    await driver.wait(async () => (await tag.box()).y - stood > 30, 4000, 'the tag did not follow');
    await page.until(`return document.querySelector('[data-testid="would-stem"]') !== null`);
    await page.keys(Key.ESCAPE);
    await driver.actions().release().perform();
    expect(await waitsAt()).to.equal(first);
    await pull(40);
    await driver.actions().release().perform();
    await driver.wait(async () => (await waitsAt()) < first, 6000, 'it was not pulled down');
    const pulled = await waitsAt();
    await page.until(`return document.querySelector('.hook.hatched[data-order]').textContent.includes('${pulled.toFixed(2)}')`);
    await driver.executeScript(`document.querySelector('.hook.hatched[data-order]').focus()`);
    await page.keys(Key.ARROW_UP, Key.ARROW_UP, Key.ENTER);
    await driver.wait(async () => Math.abs((await waitsAt()) - pulled - 0.02) < 1e-9, 6000, 'the keys did not move it');
    await api.post('/api/flatten', { account: 'MAIN' });
    await page.until(`return document.querySelector('.hook.hatched[data-order]') === null`);
  });

  it('never show one instrument’s price as another’s, while that one’s is not known yet', async () => {
    const title = (): Promise<{ instrument: string; price: string }> =>
      driver.executeScript(
        `const pane = document.querySelector('[role="region"][aria-label^="Chart "]').closest('.dv-groupview');
         return { instrument: document.querySelector('[role="region"][aria-label^="Chart "]').getAttribute('aria-label'), price: pane.querySelector('.title-price').textContent };`,
      );
    const before = await title();
    expect(before.price).to.match(/\d/);
    await api.post('/api/link', { data: 'down' });
    const { items } = (await api.get('/api/instruments?venue=HALM&kind=share&limit=80')).body as { items: { id: string; ticker: string }[] };
    const other = items[70] as { id: string; ticker: string };
    await page.click('[role="region"][aria-label^="Chart"] [data-testid="chart"]');
    await page.keys('/');
    await page.keys(other.ticker.toLowerCase());
    await page.until(`return document.querySelector('[cmdk-item][aria-selected="true"]')?.dataset.value === arguments[0]`, other.id);
    await page.keys(Key.ENTER);
    await driver.wait(async () => (await title()).instrument.includes(other.id), 4000);
    expect((await title()).price).not.to.equal(before.price);
    await api.post('/api/link', { data: 'up' });
    await driver.wait(async () => /\d/.test((await title()).price), 8000);
  });
});
