import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import { tapeMarket, type Client } from '../support/server.ts';

interface Order {
  readonly side: string;
  readonly quantity: string;
  readonly limitPrice: string | null;
}

describe('orders in a line', function () {
  this.timeout(120_000);
  let driver: WebDriver;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  before(async () => {
    ({ api, driver, page, leave } = await takeSeat(tapeMarket('GANET.HALM', 41.2), '09:00:01.000'));
  });
  after(() => leave());
  const orders = async (): Promise<Order[]> => ((await api.get('/api/orders?account=MAIN')).body as { items: Order[] }).items;
  const bar = 'input[aria-label="Command bar"]';
  const listed = (): Promise<string> => driver.executeScript(`return document.querySelector('[cmdk-list]').textContent`);

  it('read while they are typed, a wrong word mended by what could stand there, opened in the slip and sent from it', async () => {
    await page.pane('Ladder').click();
    await page.find(bar).type('buy 300 att bid');
    await driver.wait(async () => (await listed()).includes('“att”'), 4000);
    expect(await page.violations()).to.deep.equal([]);
    await page.find('//*[@cmdk-item][starts-with(normalize-space(.), "at")]').click();
    await driver.wait(async () => (await listed()).includes('Buy 300 GANET.HALM at 41.18 or better'), 4000);
    await page.find(bar).type(Key.ENTER);
    await page.until(
      `return [...document.querySelectorAll('[role="dialog"], section, div')].some((one) => one.textContent.includes('Enter sends: buy 300 GANET.HALM at 41.18, MAIN'))`,
    );
    expect(await orders()).to.deep.equal([]);
    await page.settle();
    await page.keys(Key.ENTER);
    await driver.wait(async () => (await orders()).length === 1, 5000);
    expect((await orders()).map(({ side, quantity, limitPrice }) => [side, quantity, limitPrice])).to.deep.equal([['buy', '300', '41.18']]);
  });

  it('are bound to keys: a key that can’t send is named with a free one beside it, a good one counts at once', async () => {
    await page.openPage('Settings');
    await page.clickText('bind a key');
    const key = '[aria-label="Key 1: press it"]';
    await page.find(key).type('k');
    await page.until(`return document.querySelector('[aria-label="Bound keys"]').textContent.includes('only F13 to F24')`);
    await page.find('//*[@aria-label="Bound keys"]//button[contains(., "is free")]').click();
    expect(await page.find(key).value()).to.equal('Space Q');
    const phrase = page.find('[aria-label="Phrase of key 1"]');
    await phrase.type(Key.chord(Key.CONTROL, 'a'), 'sell 100 at ask + 2 ticks');
    await page.until(`return document.querySelector('[aria-label="Bound keys"]').textContent.includes('Sell 100 GANET.HALM at 41.22')`);
    expect(await page.violations()).to.deep.equal([]);
    await page.clickText('save the keys');
    await driver.wait(async () => ((await api.get('/api/bindings')).body as { items: unknown[] }).items.length === 1, 5000);
    await page.keys(Key.ESCAPE);
    await page.pane('Ladder').click();
    const before = (await orders()).length;
    await driver.actions().keyDown(Key.SPACE).perform();
    await page.until(`return document.querySelector('[data-testid="order-layer"]')?.textContent.includes('Sell 100 GANET.HALM at 41.22')`);
    await driver.actions().sendKeys('q').keyUp(Key.SPACE).perform();
    // With exits only an entry opens the slip: nothing is sent by the key alone.
    await page.until(`return document.body.textContent.includes('Enter sends: sell 100 GANET.HALM at 41.22')`);
    expect((await orders()).length).to.equal(before);
    await page.keys(Key.ESCAPE);
  });

  it('walk through the book: the same key again while its slip is fresh, and [ and ] at any time', async () => {
    const line = (price: string): Promise<unknown> =>
      page.until(`return document.body.textContent.includes('Enter sends: sell 100 GANET.HALM at ' + arguments[0] + ',')`, price);
    const passed = async (ms: number): Promise<void> => {
      const from = await driver.executeScript<number>('return performance.now()');
      await page.until('return performance.now() > arguments[0]', from + ms);
    };
    const before = (await orders()).length;
    await page.pane('Ladder').click();
    await driver.actions().keyDown(Key.SPACE).perform();
    await page.until(`return document.querySelector('[data-testid="order-layer"]')`);
    await driver.actions().sendKeys('q').perform();
    await line('41.22');
    // A slip that has just come hears nothing yet.
    await passed(250);
    await driver.actions().sendKeys('q').perform();
    // Level by level to the best ask, then through to where it fills at once.
    await line('41.21');
    await driver.actions().sendKeys('q').perform();
    await line('41.20');
    await driver.actions().sendKeys('q').keyUp(Key.SPACE).perform();
    await line('41.18');
    await page.until(`return document.querySelector('[role="dialog"]').textContent.includes('It fills now')`);
    // A second after its last press the key walks no more.
    await passed(1100);
    await page.keys('q');
    await page.keys(']', ']');
    await line('41.21');
    await page.keys('[');
    await line('41.20');
    await page.keys(Key.ESCAPE);
    expect((await orders()).length, 'nothing was sent').to.equal(before);
  });

  it('are made a grid of, shown whole before it is written, drawn on the keyboard, and practised without sending anything', async () => {
    await page.openPage('Settings');
    await page.until(`return document.querySelector('[aria-label="What the grid would write"] li')`);
    const sizes = page.find('[aria-label="Sizes of the grid"]');
    await sizes.type(Key.chord(Key.CONTROL, 'a'), '100, 200');
    await page.find('[aria-label="Prices of the grid"]').type(Key.chord(Key.CONTROL, 'a'), 'at bid, at ask + 1 tick');
    const listed = (): Promise<string[]> =>
      driver.executeScript(`return [...document.querySelectorAll('[aria-label="What the grid would write"] li')].map((one) => one.textContent)`);
    await driver.wait(async () => (await listed()).length === 8, 3000);
    expect((await listed())[0]).to.equal('Space Q buy 100 at bid');
    await page.clickText('write 8 keys');
    await page.clickText('save the keys');
    const bound = async (): Promise<{ key: string; phrase: string }[]> =>
      ((await api.get('/api/bindings')).body as { items: { key: string; phrase: string }[] }).items;
    await driver.wait(async () => (await bound()).length === 8, 5000);
    expect((await bound()).find(({ key }) => key === 'Space I')?.phrase).to.equal('sell 200 at ask + 1 ticks');
    await page.until(`return [...document.querySelectorAll('[aria-label="The keyboard"] button')].some((key) => key.textContent.includes('sell 200 at ask'))`);
    expect(await page.violations()).to.deep.equal([]);
    const before = (await orders()).length;
    await page.clickText('practise the keys');
    await page.until(`return document.activeElement.getAttribute('aria-label') === 'Press the key of this order'`);
    const asked = await driver.executeScript<string>(`return document.querySelector('[aria-label="Practice"] b').textContent`);
    const right =
      (await bound())
        .find(({ phrase }) => phrase === asked)
        ?.key.replace('Space ', '')
        .toLowerCase() ?? '';
    const wrong = right === 'q' ? 'w' : 'q';
    await driver.actions().keyDown(Key.SPACE).sendKeys(wrong).sendKeys(right).keyUp(Key.SPACE).perform();
    await page.until(`return document.querySelector('[aria-label="Practice"]').textContent.includes('1 right, 1 wrong')`);
    expect((await orders()).length).to.equal(before);
    await page.clickText('end the practice');
    await page.keys(Key.ESCAPE);
  });

  it('are refused in an import as a whole, at the word that is wrong', async () => {
    const reply = await api.call('PUT', '/api/bindings', {
      items: [
        { key: 'F13', phrase: 'buy 100 at bid now' },
        { key: 'F5', phrase: 'close' },
        { key: 'Space Shift f', phrase: 'flatten' },
        { key: 'space shift F', phrase: 'close' },
      ],
      version: 3,
    });
    expect(reply.status).to.equal(422);
    const { errors } = reply.body as { errors: { path: string; from?: number }[] };
    expect(errors.map(({ path }) => path)).to.deep.equal(['/items/0/phrase', '/items/1/key', '/items/3/key']);
    expect(errors[0]?.from).to.equal(15);
  });
});
