import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import { tapeMarket, type Client } from '../support/server.ts';

const T = '2026-03-02T09:00';
const TAPE = [
  ...tapeMarket('GANET.HALM', 41.2),
  ...tapeMarket('BRINE.HALM', 27.3),
  `${T}:20.000Z,GANET.HALM,state,,,,halted`,
  `${T}:25.000Z,GANET.HALM,state,,,,open`,
  `${T}:30.000Z,GANET.HALM,trade,buy,41.60,10,`,
].sort();

interface Order {
  readonly id: string;
  readonly instrument: string;
  readonly state: string;
  readonly limitPrice: string | null;
}

describe('the desk under the hands', function () {
  this.timeout(120_000);
  let driver: WebDriver;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  before(async () => {
    ({ api, driver, page, leave } = await takeSeat(TAPE, '09:00:01.000'));
  });
  after(() => leave());
  const orders = async (): Promise<Order[]> => ((await api.get('/api/orders?limit=1000')).body as { items: Order[] }).items;
  let made = 0;
  const place = (order: Record<string, unknown>): Promise<unknown> =>
    api.post('/api/orders', {
      clientOrderId: `desk-${++made}`,
      account: 'MAIN',
      instrument: 'GANET.HALM',
      side: 'buy',
      type: 'limit',
      quantity: '100',
      ...order,
    });
  const plate = (): Promise<string> => driver.executeScript(`return document.querySelector('[aria-label="Key target"]').textContent`);

  it('sends a ticket once for two Enters, and leaves nothing behind that a third would send', async () => {
    const limit = page.find('form[aria-label^="Ticket"] input[name="limitPrice"]');
    await limit.type(Key.chord(Key.CONTROL, 'a'), '41.00');
    await limit.type(Key.ENTER, Key.ENTER);
    await page.until(`return document.querySelectorAll('[data-order]').length > 0`);
    await page.until(`return document.querySelector('form[aria-label^="Ticket"] input[name="limitPrice"]').value === ''`);
    await limit.type(Key.ENTER);
    await page.passes(400);
    expect((await orders()).filter(({ limitPrice }) => limitPrice === '41.00' || limitPrice === '41')).to.have.length(1);
    expect(await driver.executeScript(`return document.querySelector('form[aria-label^="Ticket"] button[type="submit"]').disabled`)).to.equal(true);
  });

  it('opens the slip for the target with F4, clear of the order areas', async () => {
    await page.click('[role="region"][aria-label^="Orders"]');
    await page.keys(Key.F4);
    await page.until(`return document.querySelector('[role="dialog"][aria-label="Order slip GANET.HALM"]')?.textContent.includes('at 41.18, MAIN')`);
    await page.settle();
    // The book below the bid, and above it the last trade at the ask.
    await page.keys('[');
    await page.until(`return document.querySelector('[role="dialog"]').textContent.includes('at 41.17, MAIN')`);
    await page.keys(']', ']');
    await page.until(`return document.querySelector('[role="dialog"]').textContent.includes('at 41.20, MAIN')`);
    await page.keys(Key.ESCAPE);
    await page.until(`return !document.querySelector('[role="dialog"]')`);
  });

  it('says in the slip what is no number as it is typed, and sends nothing of it', async () => {
    const before = (await orders()).length;
    await page.click('[role="region"][aria-label^="Orders"]');
    await page.keys(Key.F4);
    await page.until(`return document.querySelector('#slip-quantity')`);
    await page.settle();
    await page.find('#slip-quantity').type(Key.chord(Key.CONTROL, 'a'), '1,5');
    await page.until(`return document.querySelector('[role="dialog"]').textContent.includes('quantity must be a decimal such as "41.20"')`);
    expect(await driver.executeScript(`return document.querySelector('#slip-quantity').getAttribute('aria-invalid')`)).to.equal('true');
    await page.keys(Key.ENTER);
    await page.until(`return document.querySelector('[data-testid="answer"]')?.textContent.includes('quantity must be')`);
    expect((await orders()).length).to.equal(before);
    // A step with the arrow keys is a number again.
    await page.find('#slip-quantity').type(Key.chord(Key.CONTROL, 'a'), '50');
    await page.until(`return document.querySelector('#slip-quantity').getAttribute('aria-invalid') === 'false'`);
    await page.keys(Key.ESCAPE);
    await page.until(`return !document.querySelector('[role="dialog"]')`);
  });

  it('opens a menu by key on its first line, the first time as ever', async () => {
    for (let time = 0; time < 2; time++) {
      await driver.executeScript(`document.querySelector('button[aria-label="Menu"]').focus()`);
      await page.keys(Key.ENTER);
      await page.until(
        `return document.activeElement?.getAttribute('role') === 'menuitem' && document.activeElement === document.querySelector('[role="menuitem"]')`,
      );
      await page.keys(Key.ESCAPE);
      await page.until(`return document.activeElement?.getAttribute('aria-label') === 'Menu'`);
    }
  });

  it('does by its words what the active pane can do, but nothing to an order, and remembers what was typed there', async () => {
    await page.click('[role="region"][aria-label^="Orders"]');
    await page.keys('/');
    await page.keys('ringed order');
    const items = (): Promise<string[]> => driver.executeScript(`return [...document.querySelectorAll('[cmdk-item]')].map((one) => one.textContent)`);
    await driver.wait(async () => (await items()).some((one) => /^another price for the ringed order.*F2$/.test(one)), 4000);
    expect((await items()).filter((one) => one.includes('cancel'))).to.deep.equal([]);
    await page.keys(Key.ESCAPE);
    await page.keys('/');
    await page.keys('all keys', Key.ENTER);
    await page.until(`return document.querySelector('[role="dialog"]')?.textContent.includes('Keys now')`);
    await page.keys(Key.ESCAPE);
    await page.until(`return !document.querySelector('[role="dialog"]')`);
    await page.keys('/');
    await driver.wait(async () => (await items()).includes('all keys'), 4000);
    await page.keys(Key.ESCAPE);
  });

  it('takes what is named exactly before an instrument that is named nearly so, and an item however long it is pressed', async () => {
    await page.keys('/');
    await page.keys('fills', Key.ENTER);
    await page.until(`return document.querySelector('[role="region"][aria-label="Fills GANET.HALM"]')`);
    await page.keys('/');
    await page.keys('brine');
    await page.until(`return document.querySelector('[cmdk-item][data-value="BRINE.HALM"]')?.offsetHeight > 0`);
    const item = await page.find('[cmdk-item][data-value="BRINE.HALM"]').element();
    await driver.actions({ async: true }).move({ origin: item }).press().pause(400).release().perform();
    await page.until(`return document.querySelector('[role="region"][aria-label="Ladder BRINE.HALM"]')`);
    await page.keys('/');
    await page.keys('ganet', Key.ENTER);
    await page.until(`return document.querySelector('[role="region"][aria-label="Ladder GANET.HALM"] .spine.best')`);
  });

  it('shows in the rail that a position has no stop, and with one what it would lose', async () => {
    await place({ type: 'market', quantity: '300' });
    await page.until(`return document.querySelector('[aria-label="Risk rail"]').textContent.includes('no stop: GANET')`);
    await place({ side: 'sell', type: 'stop', stopPrice: '40.90', quantity: '300', reduceOnly: true });
    await page.until(`return document.querySelector('[aria-label="Risk rail"] [data-testid="stem"]')`);
    const words = await driver.executeScript<string>(`return document.querySelector('[role="meter"]').getAttribute('aria-valuetext')`);
    expect(words).to.match(/^MAIN: net .*if every stop fills −\d+\.\d\d$/);
  });

  it('says where an order would go at once though entries open the slip', async () => {
    const cell = await page.until<{ x: number; y: number }>(
      `const row = [...document.querySelectorAll('.ladder-row')].find((one) => one.querySelector('.spine').textContent === '41.23');
       if (!row) return null;
       const box = row.querySelector('.ask').getBoundingClientRect();
       return { x: box.left + 8, y: box.top + 12 };`,
    );
    await page.click('[role="region"][aria-label^="Ladder"] [role="group"][aria-label="Size"] button');
    await page.moveTo(cell.x, cell.y);
    await page.until(`return document.querySelector('[data-ghost-words]').textContent.includes('SENDS AT ONCE')`);
    expect(await driver.executeScript(`return document.querySelector('[data-ghost]').dataset.sends`)).to.equal('yes');
    await driver.wait(async () => (await plate()).includes('SENDS AT ONCE'), 4000);
    await page.moveTo(640, 560);
    await driver.wait(async () => (await plate()).includes('OPENS SLIP'), 4000);
  });

  it('changes direct send by a press on the plate’s word', async () => {
    await page.click('[role="region"][aria-label^="Ladder"] [role="group"][aria-label="Size"] button');
    await page.choose('Direct send, ladder', 'all');
    await driver.wait(async () => (await plate()).includes('SENDS AT ONCE'), 4000);
    await page.choose('Direct send, ladder', 'exits only');
    await driver.wait(async () => (await plate()).includes('OPENS SLIP'), 4000);
  });

  it('shows orders at one price on one plate, rings them one by one by key, and cancels the one that is ringed', async () => {
    await place({ limitPrice: '41.05' });
    await place({ limitPrice: '41.05', quantity: '200' });
    await page.until(`return [...document.querySelectorAll('.hook')].some((tag) => tag.textContent.includes('+1'))`);
    await page.click('[role="region"][aria-label^="Chart"] [data-testid="chart"]');
    const ringed = (): Promise<string> => driver.executeScript(`return document.querySelector('.hook.ringed')?.getAttribute('aria-label') ?? ''`);
    await page.keys(Key.ARROW_DOWN);
    const first = await ringed();
    await page.keys(Key.ARROW_DOWN);
    const second = await ringed();
    expect([first, second].map((one) => /Buy (\d+)/.exec(one)?.[1])).to.have.members(['100', '200']);
    const size = await driver.executeScript<number[]>(
      `const box = document.querySelector('.hook.ringed button[aria-label^="Cancel"]').getBoundingClientRect(); return [box.width, box.height];`,
    );
    expect(Math.min(...size)).to.be.at.least(24);
    await page.keys(Key.DELETE);
    await driver.wait(
      async () => (await orders()).filter(({ limitPrice, state }) => limitPrice?.startsWith('41.05') && state === 'canceled').length === 1,
      4000,
    );
  });

  it('takes no order back with Ctrl Z: it says so, and offers a slip with what was cancelled', async () => {
    const before = (await orders()).length;
    await page.chord('z', Key.CONTROL);
    const said = await page.until<string>(`return document.querySelector('[data-testid="said"]')?.textContent`);
    expect(said).to.match(/an order was cancelled. Undo never touches ordersa slip with B [12]00 41.05$/);
    expect(await page.violations()).to.deep.equal([]);
    await page.click('[data-testid="said"] button');
    await page.until(`return document.querySelector('[role="dialog"][aria-label="Order slip GANET.HALM"]')?.textContent.includes('at 41.05')`);
    await page.settle();
    await page.keys(Key.ESCAPE);
    await page.until(`return !document.querySelector('[role="dialog"]')`);
    expect((await orders()).length).to.equal(before);
  });

  it('keeps rows where they are while the pointer is over them: what is gone stays, quiet, what is new comes last', async () => {
    await page.find('//span[normalize-space(text())="Orders"]').click();
    const rows = (): Promise<string[]> => driver.executeScript(`return [...document.querySelectorAll('tr[data-order]')].map((row) => row.dataset.order)`);
    const before = await rows();
    expect(before.length).to.be.at.least(2);
    const second = await page.find(`tr[data-order="${before[1]}"]`).box();
    await page.moveTo(second.x + 60, second.y + 8);
    await api.call('DELETE', `/api/orders/${before[0]}`);
    await place({ limitPrice: '41.01' });
    await driver.wait(async () => (await rows()).length === before.length + 1, 4000);
    expect((await rows()).slice(0, before.length)).to.deep.equal(before);
    expect(await driver.executeScript(`return getComputedStyle(document.querySelector('tr[data-order="${before[0]}"]')).pointerEvents`)).to.equal('none');
    await page.moveTo(640, 20);
    await driver.wait(async () => !(await rows()).includes(before[0] ?? ''), 4000);
  });

  it('tags a position with a setup, and sums what is open', async () => {
    await page.find('//span[normalize-space(.)="Positions"]').click();
    await page.click('[aria-label="More exits of GANET.HALM in MAIN"]');
    await page.item('setup …').click();
    const field = page.find('[role="dialog"] [aria-label="Setup"]');
    await field.type('Opening range', Key.ENTER);
    const path = '/api/positions/MAIN/GANET.HALM/setup';
    await driver.wait(async () => ((await api.get(path)).body as { setup: string | null }).setup === 'Opening range', 4000);
    await page.until(`return !document.querySelector('[role="dialog"]')`);
    const totals = `document.querySelector('[role="region"][aria-label^="Positions"] tfoot')?.textContent`;
    expect(await driver.executeScript(`return ${totals}`)).to.equal(null);
    await api.post('/api/orders', { clientOrderId: 'totals', account: 'MAIN', instrument: 'BRINE.HALM', side: 'buy', type: 'market', quantity: '10' });
    await page.until(`return /^all.*−?\\d+\\.\\d\\d/.test(${totals} ?? '')`);
    expect(await page.violations()).to.deep.equal([]);
    await api.post('/api/positions/MAIN/BRINE.HALM/close', {});
  });

  it('shows the answer of a stacked pane on its word', async () => {
    await page.find('//span[normalize-space(.)="Positions"]').click();
    await page.clickText('close 300');
    await page.answer('Positions');
    await page.find('//span[normalize-space(.)="Time & sales"]').click();
    await page.until(`return document.querySelector('[data-testid="answer-beneath"]')`);
    expect(await page.violations()).to.deep.equal([]);
  });

  it('writes a halt across the ladder, and its end, without anything else happening', async () => {
    await api.to('09:00:20.000');
    await page.until(`return document.querySelector('[data-testid="halted"]')?.textContent === 'halted 09:00: orders wait'`);
    await api.to('09:00:25.000');
    await page.until(`return !document.querySelector('[data-testid="halted"]')`);
  });

  it('saves fills as FIX execution reports', async () => {
    await page.find('//span[normalize-space(.)="Fills"]').click();
    await driver.executeScript(`window.saved = []; HTMLAnchorElement.prototype.click = function () { window.saved.push([this.download, this.href]); }`);
    await page.click('[aria-label="Table: Fills"]');
    await page.item('Save as FIX execution reports').click();
    const [[file, address] = []] = await page.until<string[][]>('return window.saved.length > 0 && window.saved');
    expect(file).to.equal('fills.fix');
    const text = await driver.executeScript<string>('return fetch(arguments[0]).then((answer) => answer.text())', address);
    expect(text)
      .to.match(/^8=FIX\.4\.4\u0001/)
      .and.contain('\u000135=8\u0001');
    await page.find('//span[normalize-space(.)="Positions"]').click();
  });

  it('tells of a last price beyond the rows while the pointer keeps them where they are', async () => {
    const body = await page.find('[data-testid="ladder-body"]').box();
    await page.moveTo(body.x + 90, body.y + 200);
    await api.to('09:00:30.000');
    await page.until(`return document.querySelector('[data-testid="out-of-view"]')?.textContent === '↑ 41.60'`);
  });

  it('orders from a row of the quote table with the very first press on it', async () => {
    await page.clickText('Many instruments');
    await page.until(`return document.querySelector('.quotes tr[data-instrument="BRINE.HALM"] [data-column="bid"][data-price]')`);
    await page.settle();
    expect(await driver.executeScript(`return document.querySelector('.quotes tr[data-instrument="BRINE.HALM"]').getAttribute('aria-selected')`)).to.equal(
      'false',
    );
    const cell = await page.find('.quotes tr[data-instrument="BRINE.HALM"] [data-column="bid"]').box();
    await page.moveTo(cell.x + cell.width / 2, cell.y + cell.height / 2);
    await page.settle();
    await page.press(cell.x + cell.width / 2, cell.y + cell.height / 2);
    await page.until(`return document.querySelector('[role="dialog"][aria-label="Order slip BRINE.HALM"]')?.textContent.includes('at 27.28, MAIN')`);
    await page.keys(Key.ESCAPE);
  });

  it('lets a pane stay on top of everything, with plate and lamps, and takes it back', async () => {
    await page.click('button[aria-label="Settings of Quote table"]');
    await page.clickText('stay on top');
    const inside = `documentPictureInPicture.window?.document.querySelector('iframe')?.contentDocument`;
    await page.until(
      `return Boolean(${inside}?.querySelector('[role="region"][aria-label^="Quote table"]') && ${inside}.querySelector('[aria-label="Key target"]'))`,
    );
    await page.until(`return !document.querySelector('[role="region"][aria-label^="Quote table"]')`);
    await driver.executeScript(`documentPictureInPicture.window.close()`);
    await page.until(`return Boolean(document.querySelector('[role="region"][aria-label^="Quote table"]'))`);
  });
});
