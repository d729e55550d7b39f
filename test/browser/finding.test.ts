import { expect } from 'chai';
import { Key, Origin, type WebDriver } from 'selenium-webdriver';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import { tapeMarket, type Client } from '../support/server.ts';

const T = '2026-03-02T09:00';
const TAPE = [
  ...tapeMarket('GANET.HALM', 41.2),
  ...tapeMarket('BRINE.HALM', 27.3),
  ...tapeMarket('KELPA.HALM', 12.3),
  `${T}:30.000Z,GANET.HALM,trade,buy,41.60,10,`,
  `${T}:40.000Z,KELPA.HALM,trade,buy,45.00,10,`,
].sort();

interface Alert {
  readonly id: string;
  readonly price: string;
  readonly firings: readonly { readonly time: string }[];
}

describe('finding under the hands', function () {
  this.timeout(120_000);
  let driver: WebDriver;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  before(async () => {
    ({ api, driver, page, leave } = await takeSeat(TAPE, '09:00:01.000'));
    await page.showWorkspace('Finding');
    await page.until(`return document.querySelector('[aria-label="Lines of the scan"]')`);
  });
  after(() => leave());

  const field = (label: string): Promise<void> => page.until(`return document.querySelector('[aria-label="${label}"]')`);
  const type = async (label: string, text: string): Promise<void> => {
    await field(label);
    const input = page.find(`[aria-label="${label}"]`);
    await input.type(Key.chord(Key.CONTROL, 'a'), text);
  };
  const button = (words: string): string => `//button[normalize-space(.)="${words}"]`;
  const press = async (words: string): Promise<void> => {
    const found = page.find(button(words));
    await found?.click();
  };
  const found = (): Promise<string[]> =>
    driver.executeScript(`return [...document.querySelectorAll('[aria-label="What the scan found"] tbody tr[data-key]')].map((row) => row.textContent)`);

  it('an order waits for a condition: made in the ticket, told with its distance, ended in Orders', async () => {
    await page.showWorkspace('One instrument');
    await page.until(`return document.querySelector('form[aria-label^="Ticket"]')`);
    await page.clickText('when …');
    await page.find('[aria-label="When"]').type('last > 45');
    await page.until(`return [...document.querySelectorAll('form[aria-label^="Ticket"] button')].some((one) => one.textContent.startsWith('wait, then buy'))`);
    await page.find('form[aria-label^="Ticket"] button[type="submit"]').click();
    // What is held here asks once.
    await page.until(`return [...document.querySelectorAll('button')].some((one) => one.textContent === 'I understand: hold it here')`);
    await page.clickText('I understand: hold it here');
    await driver.wait(async () => ((await api.get('/api/conditional-orders')).body as { items: unknown[] }).items.length === 1, 5000);
    await page.find('//*[@aria-label="Which orders"]//button[starts-with(normalize-space(.), "waiting")]').click();
    await page.until(`return /last 41.2: 9.22 % away/.test(document.querySelector('[aria-label="Orders, waiting"]')?.textContent ?? '')`);
    expect(await page.violations()).to.deep.equal([]);
    await page.clickText('end it');
    await driver.wait(async () => ((await api.get('/api/conditional-orders')).body as { items: { state: string }[] }).items[0]?.state === 'canceled', 5000);
    await page.showWorkspace('Finding');
    await page.until(`return document.querySelector('[aria-label="Lines of the scan"]')`);
  });

  it('a wrong phrase is mended by its own suggestion, then run', async () => {
    await type('Line 1', 'last above 20');
    await page.until(`return document.querySelector('[aria-label="What could stand there"]')`);
    await page.find('//*[@aria-label="What could stand there"]//button[normalize-space(.)=">"]').click();
    expect(await page.find('[aria-label="Line 1"]').value()).to.equal('last > 20');
    expect(await page.violations()).to.deep.equal([]);
    await page.find('[aria-label="Line 1"]').type(Key.ENTER);
    await driver.wait(async () => (await found()).length === 2, 5000);
    const text = await driver.executeScript<string>(`return document.querySelector('[data-line="1"]').textContent`);
    expect(text).to.match(/2 alone, 2 with those above, \d+ unknown/);
  });

  it('a scan is pasted as JSON, whole or not at all', async () => {
    const paste = async (text: string): Promise<void> => {
      await driver.executeScript('navigator.clipboard.readText = () => Promise.resolve(arguments[0])', text);
      await press('more');
      await page.find('//*[@role="menuitem"][normalize-space(.)="paste JSON"]').click();
    };
    await paste('{\n"universe": {},\n"lines": [{ "phrase": 5, "on": true }] }');
    expect(await page.answer('Scanner')).to.contain('no scan: line 3, column 23: /lines/0/phrase must be a text');
    expect(await page.find('[aria-label="Line 1"]').value()).to.equal('last > 20');
    await page.clearAnswers();
    await paste('{ "universe": { "kinds": ["share"] }, "lines": [{ "phrase": "last > 21", "on": true }] }');
    await page.until(`return document.querySelector('[aria-label="Line 1"]')?.value === 'last > 21'`);
    await type('Line 1', 'last > 20');
  });

  it('a line is built from parts by mouse, and results are walked with a linked chart', async () => {
    await press('build a line');
    await type('Value', '30');
    await page.find('//button[starts-with(@aria-label, "Field")]').click();
    const last = '[data-radix-popper-content-wrapper] [cmdk-item]';
    await page.find(last).click();
    await press('add this line');
    await page.until(`return document.querySelector('[aria-label="Line 2"]')?.value.endsWith('> 30')`);
    await type('Line 2', 'last > 10');
    await press('run now');
    await driver.wait(async () => (await found()).length === 2, 5000);
    await page.find('[aria-label="What the scan found"] tbody tr').click();
    await page.keys(Key.ARROW_DOWN);
    await page.until(`return document.querySelector('[role="region"][aria-label^="Chart GANET"]')`);
    await page.keys(Key.ARROW_UP);
    await page.until(`return document.querySelector('[role="region"][aria-label^="Chart BRINE"]')`);
  });

  it('a scan is saved, kept running, and tells what is new', async () => {
    await press('save as');
    await type('Name of the scan', 'twenty');
    await press('save');
    await page.find('//button[normalize-space(.)="runs when asked"]').click();
    await page.find('//label[contains(., "keep it running")]//input').click();
    await page.keys(Key.ESCAPE);
    await press('save');
    await driver.wait(async () => ((await api.get('/api/scans/twenty')).body as { keep: boolean }).keep, 5000);
    await api.to('09:00:45.000');
    await driver.wait(async () => (await found()).some((row) => row.includes('KELPA') && row.includes('new')), 8000);
    const runs = '//*[@aria-label="Runs by time"]//button';
    await page.find(`(${runs})[2]`).appears();
    await page.find(`(${runs})[1]`).click();
    await driver.wait(async () => (await found()).length === 2, 4000);
    await press('tell me');
    await driver.wait(async () => ((await api.get('/api/alerts')).body as { items: { scan: string | null }[] }).items[0]?.scan === 'twenty', 4000);
    expect(await page.violations()).to.deep.equal([]);
  });

  it('what is typed in a scan stays when it was changed elsewhere, and a scan that was deleted comes back', async () => {
    await type('Line 1', 'last > 21');
    const { body } = await api.get('/api/scans/twenty');
    const { universe, join, lines, keep, schedule, version } = body as Record<string, unknown>;
    await api.call('PUT', '/api/scans/twenty', { universe, join, lines, keep, schedule, version, notes: 'from elsewhere' });
    const said = `return document.body.textContent.includes('twenty was changed elsewhere; what is typed here stays')`;
    await driver.wait(() => driver.executeScript<boolean>(said), 15_000);
    expect(await page.labelled('Line 1').value()).to.equal('last > 21');
    await page.choose('Scan: ', 'twenty');
    await page.until(`return document.querySelector('[aria-label="Line 1"]')?.value === 'last > 20'`);
    await press('more');
    await page.item('delete twenty').click();
    await page.until(`return document.querySelector('[aria-label="Scan: a new scan"]')`);
    expect((await api.get('/api/scans/twenty')).status).to.equal(404);
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => (await api.get('/api/scans/twenty')).status === 200, 5000);
    await page.until(`return document.querySelector('[aria-label="Line 1"]')?.value === 'last > 20'`);
  });

  it('what a scan found is what another looks at', async () => {
    const item = (words: string): Promise<void> => page.find(`//*[starts-with(@role, "menuitem")][normalize-space(.)="${words}"]`).click();
    await press('more');
    await item('make a copy');
    await page.find('//section[contains(., "run now")]//button[contains(., "shares")]').click();
    await page.click('[aria-label="What a scan found: any"]');
    await item('twenty');
    await page.keys(Key.ESCAPE);
    await page.until(`return [...document.querySelectorAll('button')].some((one) => one.textContent.endsWith('that twenty found'))`);
    await press('run now');
    await driver.wait(async () => (await found()).length > 0, 5000);
  });

  it('a sample is changed and saved, and runs at its time while the clock goes on', async () => {
    await press('samples');
    const sample = '//*[starts-with(@role, "menuitem")][starts-with(normalize-space(.), "Strong all day")]';
    await page.find(sample).click();
    await page.until(`return document.querySelector('[aria-label="Line 1"]')?.value === 'change % > 2 %'`);
    for (const line of [1, 2, 3]) await type(`Line ${line}`, 'last > 20');
    await press('runs when asked');
    const times = page.find('input[placeholder="09:05, 15:30"]');
    await times.type('9:02', Key.ENTER);
    await page.until(`return document.body.textContent.includes('9:02 is no time: such as 09:05 was expected')`);
    await times.type(Key.chord(Key.CONTROL, 'a'), '09:02', Key.ENTER);
    await page.keys(Key.ESCAPE);
    await press('save as');
    await press('save');
    const scan = '/api/scans/Strong%20all%20day';
    await driver.wait(async () => (await api.get(scan)).status === 200, 5000);
    await api.to('09:03:00.000');
    const runs = ((await api.get(`${scan}/results`)).body as { items: { at: string; cause: string; count: number }[] }).items;
    expect(runs.map(({ at, cause, count }) => [at, cause, count])).to.deep.equal([['2026-03-02T09:02:00.000Z', 'schedule', 3]]);
    await driver.wait(async () => (await found()).length === 3, 8000);
  });

  it('an alert is made from the command bar, its wrong word mended there, and taken back', async () => {
    await page.find('//*[@aria-label="What the scan found"]//tbody/tr[1]').click();
    const alerts = async (): Promise<{ kind: string; phrase?: string; price?: string }[]> =>
      ((await api.get('/api/alerts')).body as { items: { kind: string; phrase?: string; price?: string }[] }).items;
    const reads = (words: string): Promise<unknown> =>
      page.until(`return [...document.querySelectorAll('[cmdk-item]')].some((one) => one.textContent.includes(arguments[0]))`, words);
    const begin = (await alerts()).length;
    await page.keys(Key.ESCAPE);
    await page.chord('/');
    await page.keys('tell me when last abov 900');
    await reads('could stand there');
    const comparison = '//*[@cmdk-item][contains(., "could stand there")][starts-with(normalize-space(.), ">")]';
    await page.find(comparison).click();
    await reads('tells once when');
    await page.keys(Key.ENTER);
    await driver.wait(async () => (await alerts()).length === begin + 1, 5000);
    expect((await alerts()).at(-1)).to.include({ kind: 'condition' });
    await page.until(`return /tells when \\S+: last >=? 900/.test(document.body.textContent)`);
    await page.chord('z', Key.CONTROL);
    await driver.wait(async () => (await alerts()).every(({ kind }) => kind !== 'condition'), 5000, 'not taken back');
  });

  it('an alert is dragged on its chart, fires, and stays until it is read', async () => {
    await page.find('//*[@aria-label="What the scan found"]//tbody/tr[2]').click();
    await page.until(`return document.querySelector('[role="region"][aria-label^="Chart GANET"]')`);
    const made = await api.post('/api/alerts', { kind: 'price', instrument: 'GANET.HALM', price: '41.40', direction: 'down' });
    expect(made.status).to.equal(201);
    const mark = '[role="group"][aria-label^="Alert at"]';
    const line = await page.find(mark).element();
    await driver
      .actions({ async: true })
      .move({ origin: line, x: -6 })
      .press()
      .move({ origin: Origin.POINTER, y: 8 })
      .move({ origin: Origin.POINTER, y: -40 })
      .release()
      .perform();
    const alerts = async (): Promise<Alert[]> => ((await api.get('/api/alerts')).body as { items: Alert[] }).items;
    await driver.wait(async () => (await alerts())[0]?.price !== '41.40', 5000);
    await api.call('PATCH', `/api/alerts/${(await alerts())[0]?.id ?? ''}`, { note: 'near' });
    await api.post('/api/alerts', { kind: 'condition', instrument: 'GANET.HALM', phrase: 'bid > 0 and last > 1', fires: 'every' });
    await api.post('/api/alerts', { kind: 'order', event: 'filled' });
    await api.post('/api/orders', { clientOrderId: 'x1', account: 'MAIN', instrument: 'BRINE.HALM', side: 'buy', type: 'market', quantity: '1' });
    await page.until(`return document.querySelector('[aria-label="Told and not read yet"]')`);
    expect(await page.violations()).to.deep.equal([]);
    await press('read');
    await page.until(`return !document.querySelector('[aria-label="Told and not read yet"]')`);
  });
});
