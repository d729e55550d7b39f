import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import { tapeMarket, type Client, type Server } from '../support/server.ts';

const TAPE = [...tapeMarket('GANET.HALM', 41.2), ...tapeMarket('BRINE.HALM', 27.3), '2026-03-02T09:00:10.000Z,GANET.HALM,level,ask,41.15,500,'].sort();

/** With every gesture sent at once, so that a refusal is what keeps an order back. */
describe('a gesture that must not send', function () {
  this.timeout(120_000);
  let server: Server;
  let driver: WebDriver;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;

  before(async () => {
    ({ server, api, driver, page, leave } = await takeSeat(TAPE, '09:00:01.000'));
    await page.menu('ladder all: every gesture');
  });
  after(() => leave());

  const count = async (): Promise<number> => ((await api.get('/api/orders?limit=1000')).body as { items: unknown[] }).items.length;
  const cellOf = (price: string): Promise<{ x: number; y: number }> =>
    page.until(
      `const row = [...document.querySelectorAll('.ladder-row')].find((one) => one.querySelector('.spine').textContent === arguments[0]);
       if (!row) return null;
       const box = row.getBoundingClientRect();
       return { x: box.left + 90, y: box.top + 12 };`,
      price,
    );

  it('sends at once when nothing stands against it, and says so on the surface', async () => {
    const cell = await cellOf('41.12');
    await page.moveTo(cell.x, cell.y);
    await page.settle();
    await page.press(cell.x, cell.y);
    expect(await page.answer('Ladder')).to.equal('sent B 50 41.12');
    expect(await count()).to.equal(1);
    expect(await page.find('[aria-label="Key target"]').text()).to.contain('SENDS AT ONCE');
  });

  it('counts a double press once', async () => {
    const cell = await cellOf('41.10');
    await page.clearAnswers();
    await page.moveTo(cell.x, cell.y);
    await page.settle();
    const before = await count();
    await driver.actions({ async: true }).press().release().press().release().perform();
    await page
      .until(`return [...document.querySelectorAll('[data-testid="answer"]')].some((line) => line.textContent.includes('second press'))`)
      .catch(() => undefined);
    await page.passes(400);
    expect(await count()).to.equal(before + 1);
  });

  it('refuses a press right after the target changed through a link letter', async () => {
    await page.clearAnswers();
    const before = await count();
    const row = page.find('//tr[contains(., "BRINE")]');
    const from = await row.box();
    const ladder = await page.find('[data-testid="ladder-body"]').box();
    await driver
      .actions({ async: true })
      .move({ x: Math.round(from.x + 40), y: Math.round(from.y + 8), duration: 0 })
      .press()
      .release()
      .move({ x: Math.round(ladder.x + 90), y: Math.round(ladder.y + 400), duration: 0 })
      .press()
      .release()
      .perform();
    expect(await page.answer('Ladder')).to.match(/changed a moment ago|no order was shown|old/);
    expect(await count()).to.equal(before);
    await page.find('//tr[contains(., "GANET") and contains(., "HALM")][not(contains(., "APR26"))]').click();
    await page.until(`return document.querySelector('[role="region"][aria-label="Ladder GANET.HALM"] .spine.best')`);
    await page.settle();
  });

  it('refuses a press whose ghost is no longer true', async () => {
    await page.clearAnswers();
    const before = await count();
    const cell = await cellOf('41.16');
    await page.moveTo(cell.x, cell.y);
    await page.settle();
    expect(await page.until<string>(`return document.querySelector('[data-ghost-words]').textContent`)).to.contain('rests');
    // Down on an order that rests; the ask falls through it; up.
    await driver.actions({ async: true }).press().perform();
    await api.to('09:00:10.000');
    await page.until(`return document.querySelector('[data-ghost-words]').textContent.includes('now')`);
    await driver.actions({ async: true }).release().perform();
    expect(await page.answer('Ladder')).to.contain('it would have rested and now fills now');
    expect(await count()).to.equal(before);
  });

  it('refuses the press that wakes the window', async () => {
    await page.clearAnswers();
    const before = await count();
    const cell = await cellOf('41.11');
    await page.moveTo(cell.x, cell.y);
    await page.settle();
    // The system takes the focus away; the next press is what brings it back.
    await driver.executeScript(`window.dispatchEvent(new Event('blur'))`);
    await page.press(cell.x, cell.y);
    expect(await page.answer('Ladder')).to.contain('only woke the window');
    expect(await count()).to.equal(before);
  });

  it('refuses Delete while the pointer merely rests on a pin', async () => {
    await page.clearAnswers();
    const pin = await page.find('[data-pin]').box();
    await page.moveTo(pin.x + 10, pin.y + 12);
    await driver.executeScript(`document.querySelector('[aria-label="Ladder prices"]').focus()`);
    await page.keys(Key.DELETE);
    expect(await page.answer('Ladder')).to.contain('nothing is ringed');
    const { items } = (await api.get('/api/orders?state=working')).body as { items: unknown[] };
    expect(items.length).to.be.greaterThan(0);
  });

  it('refuses what would cross zero, and names what closes', async () => {
    await page.clearAnswers();
    await api.post('/api/orders', { clientOrderId: 'held', account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'market', quantity: '20' });
    await page.until(`return document.querySelector('[data-testid="position-mark"]')`);
    const before = await count();
    const box = await page.find('[data-testid="ladder-body"]').box();
    const high = await cellOf('41.23');
    await page.moveTo(box.x + box.width - 130, high.y);
    await page.settle();
    await page.press(box.x + box.width - 130, high.y);
    expect(await page.answer('Ladder')).to.contain('cross zero');
    expect(await count()).to.equal(before);
  });

  it('refuses everything while the screen has lost Kavix', async () => {
    await page.clearAnswers();
    await server.stop();
    await page.until(`return document.querySelector('[data-testid="band"]')?.textContent.includes('This screen lost Kavix')`);
    const cell = await cellOf('41.11');
    await page.moveTo(cell.x, cell.y);
    await page.settle();
    await page.press(cell.x, cell.y);
    expect(await page.answer('Ladder')).to.contain('no link to Kavix');
  });
});
