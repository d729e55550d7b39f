import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import { enterDemo, openBrowser } from '../support/browser.ts';
import { DeskPage } from '../support/desk-page.ts';
import { Client, dropFolder, newFolder, startServer, type Server } from '../support/server.ts';

interface Order {
  readonly id: string;
  readonly state: string;
  readonly limitPrice: string | null;
  readonly quantity: string;
  readonly side: string;
}

describe('a trader’s first minutes', function () {
  this.timeout(120_000);
  let server: Server;
  let driver: WebDriver;
  let close: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  const folder = newFolder();

  before(async () => {
    server = await startServer({ KAVIX_DATA: folder });
    ({ driver, close } = await openBrowser());
    page = new DeskPage(driver);
    api = await Client.signIn(server.address);
  });
  after(async () => {
    await close();
    await server.stop();
    dropFolder(folder);
  });

  const orders = async (): Promise<Order[]> => ((await api.get('/api/orders')).body as { items: Order[] }).items;
  const waitFor = async (what: (all: Order[]) => boolean): Promise<Order[]> => {
    let all: Order[] = [];
    await driver.wait(async () => what((all = await orders())), 10_000, 'never came');
    return all;
  };

  it('sees a market move after one click', async () => {
    await enterDemo(driver, server.address);
    const clock = await page.find('[data-testid="market-time"]').text();
    await page.until(`return document.querySelector('[data-testid="market-time"]').textContent !== arguments[0]`, clock);
    const first = await page.until<string>(
      `return [...document.querySelectorAll('.ladder-row .bid, .ladder-row .ask')].map((cell) => cell.textContent).join()`,
    );
    await page.until(
      `return [...document.querySelectorAll('.ladder-row .bid, .ladder-row .ask')].map((cell) => cell.textContent).join() !== arguments[0]`,
      first,
    );
    // And all that is in the list, of which nobody asked before.
    await page.until(
      `const rows = [...document.querySelectorAll('[aria-label^="Watchlist"] tr[data-instrument] [data-column="last"]')];
       return rows.length > 5 && rows.every((cell) => cell.textContent !== '')`,
    );
  });

  it('finds an instrument by its name, and every linked pane follows', async () => {
    await page.keys('/');
    await page.keys('brine');
    await page.until(`return document.querySelector('[cmdk-item][aria-selected="true"]')?.textContent.includes('BRINE')`);
    await page.keys(Key.ENTER);
    await page.until(
      `return ['Chart', 'Ladder', 'Ticket', 'Watchlist'].every((kind) => document.querySelector('[role="region"][aria-label="' + kind + ' BRINE.HALM"]'))`,
    );
    await page.find('//tr[contains(., "GANET") and contains(., "HALM")][not(contains(., "APR26"))]').click();
    await page.until(`return document.querySelector('[role="region"][aria-label="Ladder GANET.HALM"]')`);
  });

  it('buys at a price picked on the ladder, through the slip', async () => {
    // The market stands still while the pointer aims, so that the row under it keeps its price on a slow machine.
    await api.post('/api/clock', { speed: 0 });
    await page.settle();
    const cell = await page.ladderCell('buy', (await page.bestRow('bid')) + 5);
    await page.moveTo(cell.x, cell.y);
    await page.settle();
    const ghost = await page.until<string>(`return document.querySelector('[data-ghost-words]').textContent`);
    expect(ghost).to.equal(`buys 50 at ${cell.price} · rests`);
    await page.press(cell.x, cell.y);
    await page.until(
      `return document.querySelector('[role="dialog"]')?.textContent.includes('Enter sends: buy 50 GANET.HALM at ' + arguments[0] + ', MAIN')`,
      cell.price,
    );
    await api.post('/api/clock', { speed: 1 });
    await page.settle();
    await page.keys(Key.ENTER);
    const [order] = await waitFor((all) => all.some((one) => one.state === 'new'));
    expect(order).to.include({ side: 'buy', limitPrice: cell.price, quantity: '50' });
    expect(await page.answer('Ladder')).to.equal(`sent B 50 ${cell.price}`);
    // The pointer has not moved: what it aims at now stands beside the order's pin, and hides nothing of it.
    await page.until(
      `const [ghost, pin] = ['[data-ghost]', '[data-pins]'].map((css) => document.querySelector(css)?.getBoundingClientRect());
       return pin && ghost && (ghost.left >= pin.right || ghost.right <= pin.left || ghost.top >= pin.bottom || ghost.bottom <= pin.top);`,
    );
  });

  it('moves the order by its pin', async () => {
    await api.post('/api/clock', { speed: 0 });
    const pin = page.find('[data-pin]');
    const box = await pin.box();
    const [before] = await orders();
    await driver
      .actions({ async: true })
      .move({ x: Math.round(box.x + 12), y: Math.round(box.y + 12) })
      .press()
      .move({ x: Math.round(box.x + 12), y: Math.round(box.y - 10), duration: 100 })
      .move({ x: Math.round(box.x + 12), y: Math.round(box.y - 12), duration: 50 })
      .release()
      .perform();
    await api.post('/api/clock', { speed: 1 });
    const [after] = await waitFor((all) => all[0]?.state === 'new' && all[0].limitPrice !== before?.limitPrice);
    expect(Number(after?.limitPrice)).to.be.closeTo(Number(before?.limitPrice) + 0.01, 1e-9);
  });

  it('is offered the change back by Ctrl Z, which itself changes nothing', async () => {
    const [moved] = await orders();
    await page.chord('z', Key.CONTROL);
    const words = await page.until<string>(`return document.querySelector('[data-testid="said"] button')?.textContent`);
    const old = (Number(moved?.limitPrice) - 0.01).toFixed(2);
    expect(words).to.match(new RegExp(`^change it back to B \\d+ ${old}$`));
    expect((await orders())[0]?.limitPrice).to.equal(moved?.limitPrice);
    await page.click('[data-testid="said"] button');
    await waitFor((all) => all[0]?.state === 'new' && all[0].limitPrice === old);
    await page.until(`return !document.querySelector('[data-testid="said"]')`);
  });

  it('is filled, and sees the position on the chart', async () => {
    // What is taken is still offered when it arrives: the market stands still until it is sent.
    await api.post('/api/clock', { speed: 0 });
    await page.settle();
    await page.clickText('take ');
    await page.find('[role="dialog"]').appears();
    await page.settle();
    await page.keys(Key.ENTER);
    await waitFor((all) => all.length > 1);
    await api.post('/api/clock', { speed: 1 });
    await page.until(`return document.querySelector('[data-testid="position-mark"]')?.textContent.startsWith('long ')`);
    await page.until(`return document.querySelector('[role="region"][aria-label^="Positions"]')?.textContent.includes('GANET')`);
  });

  it('finds everything as it was after the program starts again', async () => {
    // The market stands still, so that nothing is filled between the two looks.
    await api.post('/api/clock', { speed: 0 });
    const before = await orders();
    const { items: positions } = (await api.get('/api/positions')).body as { items: { quantity: string }[] };
    await server.stop();
    await page.until(`return document.querySelector('[data-testid="band"]')?.textContent.includes('This screen lost Kavix')`);
    server = await startServer({ KAVIX_DATA: folder, PORT: String(server.port) });
    api = await Client.signIn(server.address);
    expect((await orders()).map((one) => one.id)).to.deep.equal(before.map((one) => one.id));
    expect(((await api.get('/api/positions')).body as { items: { quantity: string }[] }).items.map((one) => one.quantity)).to.deep.equal(
      positions.map((one) => one.quantity),
    );
    await api.post('/api/clock', { speed: 1 });
    // The window comes back by itself, still signed in.
    await page.until(`return !document.querySelector('[data-testid="band"]')?.textContent.includes('This screen lost Kavix')`);
    await page.until(`return document.querySelector('[data-testid="position-mark"]')?.textContent.startsWith('long ')`);
  });

  it('flattens by pressing and holding', async () => {
    const button = page.find('button[aria-label^="Flatten MAIN"]');
    const box = await button.box();
    const at = { x: Math.round(box.x + box.width / 2), y: Math.round(box.y + box.height / 2) };
    await api.post('/api/clock', { speed: 0 });
    const before = await orders();
    await driver.actions({ async: true }).move(at).press().release().perform();
    await page.passes(300);
    expect(await orders()).to.deep.equal(before);
    await api.post('/api/clock', { speed: 1 });
    // A thread that is busy while it is held must not eat the press: it counts by when it went down and up.
    await driver.executeScript(
      `const busy = () => { const until = performance.now() + 900; while (performance.now() < until); };
       addEventListener('pointerdown', () => setTimeout(busy, 200), { once: true });`,
    );
    await driver.actions({ async: true }).move(at).press().pause(700).release().perform();
    const said = await page.until<string>(
      `return document.querySelector('button[aria-label="MAIN is flat"]')?.textContent ??
        (document.querySelector('button.heather[title="Press to put it away"]')?.textContent || null)`,
    );
    expect(said).to.equal('MAIN is flat');
    const all = await orders();
    expect(all.every((one) => ['filled', 'canceled'].includes(one.state))).to.equal(true);
  });
});
