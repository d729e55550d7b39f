import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import type { Client } from '../support/server.ts';

const row = (clock: string, rest: string): string => `2026-03-02T${clock}.000Z,GANET.HALM,${rest}`;
/** Bought 100 at 41.20 with a fee of 4.12, the day stands at 100 times what the last trade is below that, less the fee. */
const TAPE = [
  row('09:00:00', 'state,,,,open'),
  row('09:00:00', 'level,bid,38.00,500,'),
  row('09:00:00', 'level,bid,41.18,500,'),
  row('09:00:00', 'level,ask,41.20,500,'),
  row('09:00:00', 'trade,buy,41.20,10,'),
  row('09:00:50', 'level,bid,41.18,0,'),
  row('09:01:00', 'trade,sell,39.70,10,'),
  row('09:02:00', 'trade,sell,38.90,10,'),
  row('09:03:00', 'trade,sell,38.20,10,'),
];

describe('the risk rail on the way to the day’s limit', function () {
  this.timeout(120_000);
  let driver: WebDriver;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  before(async () => {
    ({ api, driver, page, leave } = await takeSeat(TAPE, '09:00:01.000'));
    const rules = (await api.get('/api/risk/MAIN')).body as object;
    const set = await api.call('PUT', '/api/risk/MAIN', {
      ...rules,
      dayLossLimit: '300.00',
      onDayLoss: 'close-out',
      openRisk: 'warn',
      maxOrderQuantity: '250',
      maxDistancePercent: '5',
    });
    expect(set.status).to.equal(200);
  });
  after(() => leave());

  const RAIL = `document.querySelector('[aria-label="Risk rail"]')`;
  const meter = (words: string): Promise<unknown> =>
    page.until(`return document.querySelector('[role="meter"]')?.getAttribute('aria-valuetext').startsWith(arguments[0])`, words);
  const told = (words: string): Promise<unknown> => page.until(`return ${RAIL}.textContent.includes(arguments[0])`, words);
  const spoken = (words: string): Promise<unknown> =>
    page.until(`return [...document.querySelectorAll('[aria-live="assertive"]')].some((one) => one.textContent.includes(arguments[0]))`, words);
  const edge = (): Promise<string> => driver.executeScript(`return document.querySelector('[role="meter"] rect').getAttribute('stroke')`);
  /** Nothing of the rail is cut off or lies over another part of it. */
  const stands = (): Promise<boolean> =>
    driver.executeScript(
      `const boxes = [...${RAIL}.children].map((one) => one.getBoundingClientRect()).filter(({ width, height }) => width > 1 && height > 1).sort((a, b) => a.left - b.left);
       return boxes.every((box, i) => box.right <= 1280.5 && (i === 0 || box.left >= boxes[i - 1].right - 0.5));`,
    );
  const looksRight = async (): Promise<void> => {
    expect(await stands(), 'each part in its place').to.equal(true);
    expect(await page.violationsInBothThemes()).to.deep.equal([]);
  };

  it('at nothing: the whole limit is left, and no part of the rail asks for a look', async () => {
    await meter('MAIN: net 0.00 of −300.00');
    await told('left300.00');
    expect(await edge()).to.equal('var(--hair)');
    await looksRight();
  });

  it('before an order: what it would leave of the day, and the warning that it has no stop', async () => {
    const cell = await page.ladderCell('buy', (await page.bestRow('ask')) + 3);
    await page.press(cell.x, cell.y);
    const slip = `document.querySelector('[role="dialog"]')?.textContent ?? ''`;
    await page.until(`return (${slip}).includes('300.00 left today, of a limit of 300.00') && (${slip}).includes('A warning: It has no stop')`);
    await page.keys(Key.ESCAPE);
    await page.until(`return (${slip}) === ''`);
    // Nothing is aimed at any more.
    await page.moveTo(640, 620);
  });

  it('at a half: it is said once, and what is left is a plain figure', async () => {
    const bought = await api.post('/api/orders', {
      clientOrderId: 'in',
      account: 'MAIN',
      instrument: 'GANET.HALM',
      side: 'buy',
      type: 'market',
      quantity: '100',
    });
    expect((bought.body as { state: string }).state).to.equal('filled');
    await api.to('09:01:00.000');
    await meter('MAIN: net −154.12 of −300.00; no stop on GANET.HALM');
    await spoken('MAIN: 50 percent of the day’s limit are used.');
    await told('left145.88');
    await told('no stop: GANET');
    expect(await edge()).to.equal('var(--hair)');
    await looksRight();
  });

  it('past three quarters: what is left becomes a plate and the edge turns', async () => {
    await api.to('09:02:00.000');
    await meter('MAIN: net −234.12 of −300.00');
    await told('65.88 left · 78 % used');
    await spoken('MAIN: 75 percent');
    expect(await edge()).to.equal('var(--heather)');
    await looksRight();
  });

  it('at the limit: one plate says when, at what, and that nothing opens; all is closed', async () => {
    await api.to('09:03:00.000');
    await page.until(`return document.querySelector('[data-testid="limit-reached"]')?.textContent.includes('all closed')`);
    const plate = await driver.executeScript<string>(`return document.querySelector('[data-testid="limit-reached"]').textContent`);
    // Sold at the only bid, 38.00: 320.00 below, with a fee of 4.12 and one of 3.80.
    expect(plate).to.match(/^DAY LIMIT 09:03 · −327\.92 of −300\.00.*no opening until .* · closing works$/);
    expect(await edge()).to.equal('var(--crimson)');
    await told('MAIN is flat');
    await looksRight();
  });

  it('afterwards the page tells how far past the limit it ran, and how much of each rule the day used', async () => {
    await page.openPage('Risk');
    await page.until(`return document.querySelector('[aria-label="The last 20 days"]')?.textContent.includes('−327.92 of −300.00, 27.92 past it')`);
    await page.until(`return document.querySelector('[aria-label="Use of each rule"]').textContent.includes('at most 327.92 of 300.00 on 2026-03-02')`);
    await page.until(
      `return document.querySelector('[aria-label="Use of each rule"]').textContent.includes('order sizeat most 100 of 250 on 2026-03-02 in GANET.HALM')`,
    );
    await page.until(`return document.querySelector('[aria-label="Used today"]').textContent.includes('largest order size: GANET.HALM100 of 25040 %')`);
    await page.until(`return document.querySelector('[aria-label="Used today"]').textContent.includes('distance from the market0 of 5 %0 %')`);
    expect(await page.violationsInBothThemes()).to.deep.equal([]);
  });
});

describe('a margin call', function () {
  this.timeout(120_000);
  let driver: WebDriver;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  before(async () => {
    const deep = ['level,bid,41.18,90000,', 'level,ask,41.20,90000,', 'trade,buy,41.20,10,'].map((rest) => row('09:00:00', rest));
    const falls = ['level,bid,41.18,0,', 'level,bid,35.90,90000,', 'trade,sell,36.00,10,'].map((rest) => row('09:01:00', rest));
    const rises = ['level,bid,39.98,90000,', 'trade,buy,40.00,10,'].map((rest) => row('09:03:00', rest));
    ({ api, driver, page, leave } = await takeSeat([row('09:00:00', 'state,,,,open'), ...deep, ...falls, ...rises], '09:00:01.000'));
  });
  after(() => leave());
  const order = (clientOrderId: string, side: string, quantity: string) =>
    api.post('/api/orders', { clientOrderId, account: 'MAIN', instrument: 'GANET.HALM', side, type: 'market', product: 'intraday', quantity });
  const called = async (): Promise<unknown> => ((await api.get('/api/accounts/MAIN')).body as { marginCall: boolean }).marginCall;
  const plate = `document.querySelector('[data-testid="margin-call"]')`;

  it('is told on the rail with what it blocks; opening is refused, closing works, and it ends above maintenance', async () => {
    // 10,000 at 41.20 with a fee of 40.00: 99,960 of equity, 61,800 of maintenance. At 36.00: 47,960 and 54,000.
    expect((await order('in', 'buy', '10000')).status).to.equal(201);
    expect([await called(), await driver.executeScript(`return ${plate}`)]).to.deep.equal([false, null]);
    await api.to('09:01:00.000');
    await page.until(`return ${plate}?.textContent === 'MARGIN CALL no opening · closing works'`);
    expect(await driver.executeScript(`return ${plate}.title`)).to.match(/Equity 47,960\.00 EUR is below the maintenance margin of 54,000\.00 EUR/);
    await page.until(`return [...document.querySelectorAll('[aria-live="assertive"]')].some((one) => one.textContent.includes('MAIN: margin call'))`);
    expect(await page.violationsInBothThemes()).to.deep.equal([]);
    const refused = await order('more', 'buy', '1');
    expect([refused.status, (refused.body as { rule: string }).rule]).to.deep.equal([422, 'buyingPower']);
    expect((await order('less', 'sell', '100')).status).to.equal(201);
    await api.to('09:03:00.000');
    await page.until(`return !${plate}`);
    expect(await called()).to.equal(false);
  });
});
