import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import { tapeMarket, type Client } from '../support/server.ts';

const T = '2026-03-02T09:00';
const OPTION = 'GANET-APR26-40C.HALM';
const TAPE = [
  ...tapeMarket('GANET.HALM', 41.2),
  ...tapeMarket('BRINE.HALM', 27.3),
  ...tapeMarket('SALMO-JUN26.HALM', 68.5).map((row) =>
    row.replace(/,6\d\.\d\d,/, (price) => `,${(Math.round(Number(price.slice(1, -1)) * 20) / 20).toFixed(2)},`),
  ),
  `${T}:00.000Z,${OPTION},state,,,,open`,
  `${T}:00.000Z,${OPTION},level,bid,1.90,200,`,
  `${T}:00.000Z,${OPTION},level,ask,2.00,200,`,
  `${T}:40.000Z,BRINE.HALM,trade,buy,28.50,40,`,
  `${T}:50.000Z,${OPTION},level,ask,1.96,200,`,
  `${T}:54.000Z,${OPTION},level,ask,1.96,0,`,
  `${T}:55.000Z,${OPTION},level,bid,2.10,200,`,
].sort();

interface Run {
  readonly state: string;
  readonly rows: readonly { readonly instrument: string; readonly state: string; readonly asked: string; readonly filled: string }[];
}

describe('a basket under the hands', function () {
  this.timeout(180_000);
  let driver: WebDriver;
  let page: DeskPage;
  let api: Client;
  let leave: () => Promise<void>;
  before(async () => {
    ({ api, driver, page, leave } = await takeSeat(TAPE, '09:00:01.000'));
    await page.find('//button[contains(normalize-space(.), "more")]').click();
    await page.item('Baskets and options').click();
    await page.until(`return document.querySelector('[aria-label="Instrument, row 1"]')`);
  });
  after(() => leave());

  const saved = (): Promise<void> => page.until(`return [...document.querySelectorAll('span')].some((one) => one.textContent === 'saved')`);
  const runs = async (): Promise<readonly Run[]> => ((await api.get('/api/basket-runs')).body as { items: Run[] }).items;
  const told = (): Promise<string[]> =>
    driver.executeScript(
      `return [...document.querySelectorAll('[aria-label="Rows of the basket"] tbody tr')].map((row) => row.cells[row.cells.length - 2].textContent)`,
    );
  const focused = (): Promise<string> => driver.executeScript<string>('return document.activeElement.getAttribute("aria-label") ?? ""');

  it('is filled by keyboard alone: a share, a sell limit by phrase, an option by its name, a future', async () => {
    await page.labelled('Instrument, row 1').type('ganet', Key.ENTER, Key.TAB);
    // The button that opens the chain stands between instrument and side.
    await page.keys(Key.TAB, Key.TAB);
    expect(await focused()).to.equal('Quantity, row 1');
    await page.keys('300', Key.TAB, Key.TAB);
    expect(await focused()).to.equal('Price, row 1');
    await page.keys('41.10', Key.ENTER);
    await driver.wait(async () => (await focused()) === 'Instrument, row 2', 3000);
    await page.keys('brine', Key.TAB);
    expect(await focused()).to.equal('Side, row 2: buy');
    await page.keys('s', Key.TAB, '200', Key.TAB, Key.TAB, 'ask + 2 spreads', Key.ENTER);
    await driver.wait(async () => (await focused()) === 'Instrument, row 3', 3000);
    await page.keys('ganet-apr26-40c', Key.ENTER);
    await page.labelled('Side, row 3: sell').type('b', Key.TAB, '5', Key.TAB, Key.TAB, 'ask', Key.ENTER);
    await driver.wait(async () => (await focused()) === 'Instrument, row 4', 3000);
    await page.keys('salmo-jun26', Key.TAB, Key.TAB, '1', Key.TAB, Key.TAB, 'bid - 2 ticks');
    await saved();
    await page.until(`return document.querySelector('[aria-label="The basket as a whole"]')`);
    const [basket] = ((await api.get('/api/baskets')).body as { items: { rows: object[] }[] }).items;
    expect(basket?.rows.map((row) => Object.fromEntries(Object.entries(row).filter(([name]) => name !== 'id')))).to.deep.equal([
      { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', quantity: '300', type: 'limit', limitPrice: '41.10' },
      { account: 'MAIN', instrument: 'BRINE.HALM', side: 'sell', quantity: '200', type: 'limit', limitPhrase: 'ask + 2 spreads' },
      { account: 'MAIN', instrument: OPTION, side: 'buy', quantity: '5', type: 'limit', limitPhrase: 'ask' },
      { account: 'MAIN', instrument: 'SALMO-JUN26.HALM', side: 'buy', quantity: '1', type: 'limit', limitPhrase: 'bid - 2 ticks' },
    ]);
    await driver.wait(async () => (await told()).join() === 'rests,rests,fills 5 now at about 2.00,rests', 8000);
    expect(await page.violations()).to.deep.equal([]);
  });

  it('shows the columns that are chosen, the day of each instrument among them', async () => {
    await page.click('button[aria-label="Settings of Basket"]');
    await page.find('//label[contains(normalize-space(.), "day %")]/input[@type="checkbox"]').click();
    await page.gone('[data-radix-popper-content-wrapper]', Key.ESCAPE);
    await page.until(
      `return [...document.querySelectorAll('[aria-label="Rows of the basket"] [data-column="percent"]')].filter((one) => one.textContent !== '').length === 4`,
    );
  });

  it('says in its row what can’t be read, and saves once it can', async () => {
    const price = page.labelled('Price, row 4');
    await price.type(Key.chord(Key.CONTROL, 'a'), 'somewhere');
    await page.until(`return /row 4, .*limitPhrase/.test(document.querySelector('[aria-label="Rows that are refused"]')?.textContent ?? '')`);
    expect((await told())[3]).to.equal('refused');
    await price.type(Key.chord(Key.CONTROL, 'a'), 'bid - 2 ticks');
    await saved();
    expect((await runs()).length).to.equal(0);
  });

  it('is saved anew where it was deleted elsewhere while it is written', async () => {
    const first = async (): Promise<string | undefined> =>
      ((await api.get('/api/baskets/Basket%201')).body as { rows?: { quantity: string }[] }).rows?.[0]?.quantity;
    await api.call('DELETE', '/api/baskets/Basket%201');
    for (const quantity of ['310', '300']) {
      await page.labelled('Quantity, row 1').type(Key.chord(Key.CONTROL, 'a'), quantity);
      await driver.wait(async () => (await first()) === quantity, 5000);
    }
    await saved();
  });

  it('saves what is shown, also what was typed while it was being saved', async () => {
    const quantity = page.labelled('Quantity, row 4');
    const kept = async (): Promise<string | undefined> =>
      ((await api.get('/api/baskets')).body as { items: { rows: { quantity: string }[] }[] }).items[0]?.rows[3]?.quantity;
    // Its answers come late, so that a key falls between a save and its answer.
    await driver.executeScript(
      `window.ownFetch = window.fetch;
       window.fetch = async (address, options) => {
         const answer = await window.ownFetch(address, options);
         if (options?.method === 'PUT' && String(address).includes('/api/baskets/')) await new Promise((done) => (window.letAnswer = done));
         return answer;
       };`,
    );
    await quantity.type(Key.chord(Key.CONTROL, 'a'), '2');
    await page.until(`return window.letAnswer`);
    await quantity.type('5');
    await driver.executeScript(`window.fetch = window.ownFetch; window.letAnswer()`);
    await driver.wait(async () => (await kept()) === '25', 5000);
    await saved();
    expect(await quantity.value()).to.equal('25');
    await quantity.type(Key.chord(Key.CONTROL, 'a'), '1');
    await driver.wait(async () => (await kept()) === '1', 5000);
    await saved();
  });

  it('goes 40 %, then the rest', async () => {
    const percent = page.labelled('Percent of each row');
    await percent.type(Key.chord(Key.CONTROL, 'a'), '40');
    await page.button('send 4 orders, 40 %').click();
    // The run is there a moment before its orders are.
    await driver.wait(async () => (await runs())[0]?.rows.every(({ state }) => state !== 'waiting' && state !== 'pending-new') ?? false, 5000);
    const [first] = await runs();
    expect(first?.rows.map(({ state, asked, filled }) => `${state} ${filled}/${asked}`)).to.deep.equal(['new 0/120', 'new 0/80', 'filled 2/2', 'skipped 0/0']);
    await page.until(`return document.querySelector('[aria-label="Run of the basket"]')`);
    expect(await page.violations()).to.deep.equal([]);
    await page.button('cancel the rest').click();
    await driver.wait(async () => (await runs())[0]?.state === 'canceled', 5000);
    await percent.type(Key.chord(Key.CONTROL, 'a'), '100');
    await page.button('send 4 orders').click();
    await driver.wait(async () => (await runs()).length === 2, 5000);
    expect((await runs())[1]?.rows.map(({ asked }) => asked)).to.deep.equal(['180', '120', '3', '1']);
  });

  it('is cancelled and turned round half-way', async () => {
    await api.to('09:00:41.000');
    await driver.wait(async () => (await runs())[1]?.rows[1]?.state === 'filled', 5000);
    await page.button('cancel and reverse').click();
    await driver.wait(async () => (await runs())[1]?.state === 'canceled', 5000);
    await driver.wait(async () => {
      const positions = ((await api.get('/api/positions')).body as { items: { instrument: string; quantity: string }[] }).items;
      // What the first run bought stays, what the second one sold is bought back.
      return (
        positions
          .filter(({ quantity }) => quantity !== '0')
          .map(({ instrument, quantity }) => `${instrument} ${quantity}`)
          .join() === `${OPTION} 2`
      );
    }, 5000);
  });

  it('is made of two presses in the chain: a spread in one sentence', async () => {
    await page.until(`return document.querySelector('[aria-label^="${OPTION} ask"]')`);
    const press = async (label: string, shift: boolean): Promise<void> => {
      const cell = await page.find(`[aria-label^="${label}"]`).element();
      const actions = driver.actions();
      await (shift ? actions.keyDown(Key.SHIFT).click(cell).keyUp(Key.SHIFT) : actions.click(cell)).perform();
    };
    await press(`${OPTION} ask`, true);
    await press(`${OPTION} ask`, true);
    await page.until(`return document.querySelector('[aria-label="The spread"]')?.textContent.includes('buys 2 × 40 call, costs 4.00')`);
    await press(`${OPTION} bid`, true);
    await page.until(`return document.querySelector('[aria-label="The spread"]')?.textContent.includes('buys 40 call, costs 1.90')`);
    expect(await page.violations()).to.deep.equal([]);
    await page.button('as a basket').click();
    await driver.wait(async () => ((await api.get('/api/baskets')).body as { items: { name: string }[] }).items.some(({ name }) => name === 'Spread 1'), 4000);
    // Another basket beside it: what its rows have differently, and what it alone has.
    await page.until(`return [...document.querySelectorAll('[aria-label="Basket"] [aria-pressed="true"]')].some((one) => one.textContent === 'Spread 1')`);
    await page.button('all rows').click();
    await page.item('Basket 1').click();
    await page.until(`return document.body.textContent.includes('only in Basket 1:')`);
    expect(await page.violations()).to.deep.equal([]);
    // Without Shift a press on the bid is an order that rests there, in the slip.
    await page.settle();
    await press(`${OPTION} bid`, false);
    await page.until(`return document.body.textContent.includes('Enter sends: buy 1 ${OPTION} at 1.90')`);
    await page.keys(Key.ESCAPE);
    await api.call('DELETE', '/api/baskets/Spread%201');
  });

  it('has a chain beside it that lives by its quotes', async () => {
    const row = (): Promise<string> =>
      driver.executeScript(`return document.querySelector('[aria-label^="${OPTION} ask"]').closest('[role="row"]').textContent`);
    const before = await row();
    await api.to('09:00:51.000');
    // Sooner than it would be asked for anew.
    await page.until(`return document.querySelector('[aria-label="${OPTION} ask 1.96"]')`);
    // With the price go the volatility and the greeks that hang on it.
    const volatility = (text: string): string | undefined => /[\d.]+ %/.exec(text)?.[0];
    expect(volatility(await row())).to.not.equal(volatility(before));
  });

  it('leaves a spread at what it is worth: each leg that is held waits for it, and goes', async () => {
    await page.until(`return document.querySelector('[aria-label="The spread"]')?.textContent.includes('worth 1.90 now')`);
    await page.labelled('target, worth of the legs').type('1.50');
    expect(await page.button('leave it then').isEnabled()).to.equal(false);
    await page.until(`return document.querySelector('[aria-label="The spread"]').textContent.includes('a target lies above what it costs, 1.90')`);
    await page.labelled('target, worth of the legs').type(Key.chord(Key.CONTROL, 'a'), '2.05', Key.ENTER);
    await page.button('I understand: hold it here').click();
    const waiting = async (): Promise<{ when: string; state: string }[]> =>
      ((await api.get('/api/conditional-orders')).body as { items: { when: string; state: string }[] }).items;
    await driver.wait(async () => (await waiting())[0]?.when === `held and ${OPTION} bid >= 2.05`, 5000);
    await api.to('09:00:56.000');
    await driver.wait(async () => {
      const { items } = (await api.get('/api/positions')).body as { items: { instrument: string; quantity: string }[] };
      return items.every(({ instrument, quantity }) => instrument !== OPTION || quantity === '0');
    }, 5000);
    await page.button('let it go').click();
  });

  it('takes rows of a sheet, names what is wrong in it, and is brought back after it was deleted', async () => {
    await page.button('a new basket').click();
    await page.button('all rows').click();
    await page.item('paste rows').click();
    await page
      .labelled('Rows')
      .type(
        'instrument,side,quantity,type,price\nGANET,buy,100,limit,41.00\nNOPE,buy,1,market,\nBRINE,long,1,market,\nBRINE,sell,x,market,\nBRINE,sell,50,limit,ask',
      );
    const wrong = await page.labelled('What is wrong').text();
    expect(wrong.split('\n').length).to.equal(3);
    expect(wrong)
      .to.match(/line 3, column 1 NOPE is no instrument/)
      .and.match(/line 4, column 2/)
      .and.match(/line 5, column 3/);
    expect(await page.violations()).to.deep.equal([]);
    await page.button('take 2 rows').click();
    await saved();
    const names = async (): Promise<string[]> => ((await api.get('/api/baskets')).body as { items: { name: string }[] }).items.map(({ name }) => name);
    expect(await names()).to.deep.equal(['Basket 1', 'Basket 2']);
    await page.button('all rows').click();
    await page.item('delete Basket 2').click();
    await driver.wait(async () => (await names()).length === 1, 4000);
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => (await names()).length === 2, 4000);
  });
});
