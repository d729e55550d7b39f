import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import { tapeMarket, type Client } from '../support/server.ts';

const T = '2026-03-02T09:00';
const TAPE = [
  ...tapeMarket('GANET.HALM', 41.2),
  ...tapeMarket('BRINE.HALM', 27.3),
  `${T}:20.000Z,GANET.HALM,trade,buy,41.70,10,`,
  `${T}:40.000Z,BRINE.HALM,trade,sell,24.00,10,`,
].sort();

interface Plan {
  readonly id: string;
  readonly instrument: string;
  readonly state: string;
}
interface Risk {
  readonly blocked: readonly { readonly rule: string }[];
  readonly closeOut: string | null;
  readonly lockedUntil: string | null;
}

describe('exits and rules under the hands', function () {
  this.timeout(120_000);
  let driver: WebDriver;
  let restart: () => Promise<Client>;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  before(async () => {
    ({ api, driver, page, restart, leave } = await takeSeat(TAPE, '09:00:01.000'));
  });
  after(() => leave());
  const plans = async (): Promise<Plan[]> => ((await api.get('/api/running-plans')).body as { items: Plan[] }).items;
  const held = async (instrument: string): Promise<string> =>
    ((await api.get('/api/positions?account=MAIN')).body as { items: { instrument: string; quantity: string }[] }).items.find(
      (one) => one.instrument === instrument,
    )?.quantity ?? '0';
  const risk = async (): Promise<Risk> => (await api.get('/api/risk/MAIN/state')).body;
  const tab = async (name: string): Promise<void> => {
    await page.find(`//*[contains(@class, "dv-tab")]//*[normalize-space(text())="${name}"]`).click();
  };
  const button = (words: string): string => `//button[starts-with(normalize-space(.), "${words}")]`;
  const press = async (words: string): Promise<void> => page.find(button(words)).click();
  const typeOver = async (label: string, text: string): Promise<void> => {
    const field = page.find(`[aria-label="${label}"]`);
    await field.type(Key.chord(Key.CONTROL, 'a'), text);
  };

  it('make a plan in its editor, drawn and checked as it is typed', async () => {
    await tab('Exit plans');
    await press('saved');
    await press('new plan');
    await page.until(`return document.querySelector('[role="dialog"] svg[role="img"]')`);
    const name = page.find('[role="dialog"] label input');
    await name.type('two steps');
    await press('one more step');
    await typeOver('Share of step 1, percent', '60');
    // The last takes the rest unless it is typed over.
    expect(await driver.executeScript(`return document.querySelector('[aria-label="Share of step 2, percent"]').value`)).to.equal('40');
    await typeOver('Share of step 2, percent', '30');
    await page.until(`return document.querySelector('[role="dialog"]').textContent.includes('the shares sum to 90')`);
    await typeOver('Share of step 2, percent', '40');
    await typeOver('Distance of the stop of step 1', '2.5');
    await page.until(`return document.querySelector('[role="dialog"]').textContent.includes('step 1 stop value: ')`);
    expect(await driver.executeScript(`return document.querySelector('[role="dialog"] button[type="submit"]').disabled`)).to.equal(true);
    await typeOver('Distance of the stop of step 1', '25');
    await page.until(`return !document.querySelector('[role="dialog"] button[type="submit"]').disabled`);
    expect(await page.violations()).to.deep.equal([]);
    await page.click('[role="dialog"] button[type="submit"]');
    await page.until(`return document.body.textContent.includes('two steps') && !document.querySelector('[role="dialog"]')`);
  });

  it('take a plan from a file into the editor, and say where a file is wrong', async () => {
    const {
      name: _name,
      version: _version,
      ...two
    } = (await api.get('/api/exit-plans/two%20steps')).body as { name: string; version: number; steps: { share: string }[] };
    const file = (plan: object): string => JSON.stringify({ name: 'from a file', ...plan }, null, 1);
    const refused = (words: string): Promise<unknown> => page.until(`return document.body.textContent.includes(arguments[0])`, words);
    await page.offerFile('File of an exit plan', 'torn.json', '{\n"name": ');
    await refused('torn.json: This is no JSON: line 2, column 9');
    await page.offerFile('File of an exit plan', 'odd.json', file({ ...two, heldBy: 'nowhere' }));
    await refused('odd.json: line 3, column 12: /heldBy ');
    await page.offerFile('File of an exit plan', 'short.json', file({ ...two, steps: two.steps.slice(0, 1) }));
    await refused('/steps the shares sum to 60');
    await page.offerFile('File of an exit plan', 'good.json', file(two));
    await page.until(`return document.querySelector('[role="dialog"] label input')?.value === 'from a file'`);
    await page.click('[role="dialog"] button[type="submit"]');
    await page.until(`return !document.querySelector('[role="dialog"]')`);
    const { name: _own, version: _first, ...made } = (await api.get('/api/exit-plans/from%20a%20file')).body as { name: string; version: number };
    expect(made).to.deep.equal(two);
    await page.click('button[aria-label="delete from a file"]');
    await driver.wait(async () => (await api.get('/api/exit-plans/from%20a%20file')).status === 404, 5000);
  });

  it('put it on the plate: every entry takes it along, and the slip says so', async () => {
    await page.click('[role="region"][aria-label^="Chart"]');
    await page.choose('Exit plan on entries', 'two steps');
    await page.settle();
    await page.keys(Key.F4);
    await page.until(
      `return document.querySelector('[role="dialog"][aria-label^="Order slip"]')?.textContent.match(/two steps[^]*could lose|could lose[^]*two steps/)`,
    );
    await page.settle();
    await page.keys(Key.ENTER);
    await driver.wait(async () => (await plans()).some(({ state }) => state === 'waiting'), 6000);
    // What filled at once would be armed at once.
    await api.post('/api/orders/cancel', { account: 'MAIN' });
    await api.post('/api/orders', {
      clientOrderId: 'b-0',
      account: 'MAIN',
      instrument: 'GANET.HALM',
      side: 'buy',
      type: 'market',
      quantity: '50',
      exitPlan: 'two steps',
    });
    await driver.wait(async () => (await plans()).some(({ state }) => state === 'armed'), 6000);
  });

  it('show it running, and stop it with a key; the position stays', async () => {
    await press('running');
    await page.until(`return document.querySelector('[data-key^="MAIN-p"]')`);
    await page.click('[data-key^="MAIN-p"]');
    await page.until(`return document.querySelector('[aria-label^="Log of the exit plan"]')?.textContent.includes('Armed')`);
    const before = await held('GANET.HALM');
    await page.keys(Key.DELETE);
    await driver.wait(async () => (await plans()).every(({ state }) => state === 'stopped' || state === 'done'), 6000);
    expect(await held('GANET.HALM')).to.equal(before);
  });

  it('leave a position by a share, by reverse, each saying what it sends', async () => {
    await page.click('button[aria-label^="More exits of GANET.HALM"]');
    const half = `//*[@role="menuitem"][starts-with(normalize-space(.), "close 50 %")]`;
    const item = page.find(half);
    expect(await item?.text()).to.contain('25');
    await item?.click();
    await driver.wait(async () => (await held('GANET.HALM')) === '25', 6000);
    await page.until(`return [...document.querySelectorAll('button')].some((one) => one.textContent === 'close 25')`);
    await page.settle();
    await page.click('button[aria-label^="More exits of GANET.HALM"]');
    const reverse = `//*[@role="menuitem"][starts-with(normalize-space(.), "reverse")]`;
    await page.find(reverse).click();
    await driver.wait(async () => (await held('GANET.HALM')) === '-25', 6000);
    await api.post('/api/flatten', { account: 'MAIN' });
  });

  it('ask once what it means that something is held here, and show it suspended while the prices are cut off', async () => {
    const here = {
      name: 'here',
      heldBy: 'here',
      onSizeChange: 'follow',
      onMissedLevel: 'ask',
      steps: [{ share: '100', stop: { by: 'percent', value: '20', order: 'market' } }],
    };
    await api.post('/api/exit-plans', here);
    await api.post('/api/orders', { clientOrderId: 'b-1', account: 'MAIN', instrument: 'BRINE.HALM', side: 'buy', type: 'market', quantity: '100' });
    await page.until(`return document.querySelector('button[aria-label^="More exits of BRINE.HALM"]')`);
    await page.settle();
    await page.click('button[aria-label^="More exits of BRINE.HALM"]');
    const item = `//*[@role="menuitem"][starts-with(normalize-space(.), "here")]`;
    await page.find(item).click();
    await press('I understand');
    await driver.wait(async () => (await plans()).some(({ instrument, state }) => instrument === 'BRINE.HALM' && state === 'armed'), 6000);
    await api.post('/api/link', { data: 'down' });
    await page.until(`return [...document.querySelectorAll('[data-key^="MAIN-p"]')].some((row) => row.textContent.includes('suspended'))`);
    const band = (words: string): Promise<unknown> => page.until(`return document.querySelector('[data-testid="band"]')?.textContent.includes('${words}')`);
    await band('1 exit held here can’t see its market: BRINE 100. Its stop can’t fire. The broker link works: you can close.');
    expect(await page.violations()).to.deep.equal([]);
    await api.post('/api/link', { data: 'up' });
    await page.until(`return [...document.querySelectorAll('[data-key^="MAIN-p"]')].some((row) => row.textContent.includes('armed'))`);
    await band('BRINE 100: it goes on: nothing was passed meanwhile.');
    await page.clickText('read');
    await api.post('/api/link', { broker: 'down' });
    await band('1 exit held here is SUSPENDED: BRINE 100. It is checked when it is back.');
    await api.post('/api/link', { broker: 'up' });
    await band('Broker back');
    await page.clickText('read');
  });

  it('select working orders and link them as a group', async () => {
    for (const [i, limitPrice] of ['40.00', '39.00'].entries())
      await api.post('/api/orders', {
        clientOrderId: `l-${i}`,
        account: 'MAIN',
        instrument: 'GANET.HALM',
        side: 'buy',
        type: 'limit',
        quantity: '10',
        limitPrice,
      });
    await tab('Orders');
    await page.until(`return document.querySelectorAll('[data-order]').length >= 2`);
    await page.settle();
    for (const nth of [1, 2]) {
      const row = await page.find(`(//tr[@data-order])[${nth}]`).element();
      await driver.actions().keyDown(Key.CONTROL).click(row).keyUp(Key.CONTROL).perform();
    }
    await press('link as a group');
    await driver.wait(async () => {
      const { items } = (await api.get('/api/orders?state=working&instrument=GANET.HALM')).body as { items: { group: string | null }[] };
      return items.length === 2 && items[0]?.group !== null && items[0]?.group === items[1]?.group;
    }, 6000);
    await api.post('/api/orders/cancel', { account: 'MAIN', instrument: 'GANET.HALM' });
  });

  it('open the order layer while Space is held: it says what each key does, sends nothing by itself, and closes on its release', async () => {
    await page.click('[role="region"][aria-label^="Ladder"] [data-testid="answer"], [role="region"][aria-label^="Ladder"]');
    await page.settle();
    const layer = `document.querySelector('[data-testid="order-layer"]')`;
    await driver.actions().keyDown(Key.SPACE).perform();
    await page.until(`return ${layer}?.textContent.includes('join')`);
    const words = await driver.executeScript<string>(`return ${layer}.textContent`);
    expect(words).to.contain('GANET.HALM').and.contain('buys 50 at 41.18 · rests').and.contain('flattens all of MAIN');
    expect(await page.violations()).to.deep.equal([]);
    await driver.actions().keyUp(Key.SPACE).perform();
    await page.until(`return !${layer}`);
    // Without the layer the same key is no order.
    await page.keys('j');
    await page.drawn();
    expect(await driver.executeScript(`return document.querySelector('[role="dialog"][aria-label^="Order slip"]')`)).to.equal(null);
    await page.keys(Key.ESCAPE);
    await page.settle();
    await page.click('[role="region"][aria-label^="Ladder"]');
    await page.settle();
    await driver.actions().keyDown(Key.SPACE).perform();
    await page.until(`return ${layer}`);
    await driver.actions().keyDown('2').keyUp('2').keyDown('j').keyUp('j').perform();
    await page.until(
      `return document.querySelector('[role="dialog"][aria-label="Order slip GANET.HALM"]')?.textContent.includes('buy 100 GANET.HALM at 41.18')`,
    );
    await page.until(`return !${layer}`);
    await driver.actions().keyUp(Key.SPACE).perform();
    await page.settle();
    await page.keys(Key.ESCAPE);
  });

  it('walk the price through the book when the key that opened the slip is pressed again within a second', async () => {
    await page.settle();
    await page.click('[role="region"][aria-label^="Ladder"]');
    await page.settle();
    await driver.actions().keyDown(Key.SPACE).perform();
    await page.until(`return document.querySelector('[data-testid="order-layer"]')`);
    await driver.actions().keyDown('j').keyUp('j').pause(400).keyDown('j').keyUp('j').perform();
    await page.until(`return document.querySelector('[role="dialog"][aria-label="Order slip GANET.HALM"]')?.textContent.includes('GANET.HALM at 41.20')`);
    // A second later it is a key like any other: it does nothing here.
    await page.passes(1100);
    await page.keys('j');
    await driver.actions().keyUp(Key.SPACE).perform();
    await page.drawn();
    expect(await driver.executeScript(`return document.querySelector('[role="dialog"]').textContent`)).to.contain('GANET.HALM at 41.20');
    await page.keys(Key.ESCAPE);
    expect(await held('GANET.HALM')).to.equal('0');
  });

  it('open the slip by the layer’s key though the rows moved a moment ago: it acts on the target, not under the pointer', async () => {
    await page.settle();
    await page.click('[role="region"][aria-label^="Ladder"]');
    await page.settle();
    await driver.actions().keyDown(Key.SPACE).perform();
    await page.until(`return document.querySelector('[data-testid="order-layer"]')`);
    await driver.executeScript(`document.querySelector('[data-testid="ladder-body"]').dispatchEvent(new WheelEvent('wheel', { deltaY: 100, bubbles: true, cancelable: true }))`); // prettier-ignore
    expect(await driver.executeScript(`return document.querySelector('[data-moving]') !== null`), 'the rows moved').to.equal(true);
    await driver.actions().keyDown('j').keyUp('j').perform();
    await page.until(`return document.querySelector('[role="dialog"][aria-label="Order slip GANET.HALM"]')`);
    await driver.actions().keyUp(Key.SPACE).perform();
    await page.gone('[role="dialog"]', Key.ESCAPE);
  });

  it('close the order layer when the window loses the focus, as a lost key-up would leave it open', async () => {
    await page.settle();
    await page.click('[role="region"][aria-label^="Ladder"]');
    await page.settle();
    await driver.actions().keyDown(Key.SPACE).perform();
    await page.until(`return document.querySelector('[data-testid="order-layer"]')`);
    await driver.executeScript(`window.dispatchEvent(new Event('blur'))`);
    await page.until(`return !document.querySelector('[data-testid="order-layer"]')`);
    await driver.actions().keyUp(Key.SPACE).perform();
  });

  it('set rules and lock them; a looser one is refused where it is typed', async () => {
    await page.openPage('Risk');
    await page.until(`return document.querySelector('[data-page="risk"] input[aria-label^="Day loss limit"]')`);
    await typeOver('Day loss limit, net of fees', '50');
    await page.choose('When the day limit is reached', 'closes out');
    await page.until(`return document.querySelector('[data-page="risk"]').textContent.includes('closes all positions')`);
    await press('set these rules');
    await driver.wait(async () => ((await api.get('/api/risk/MAIN')).body as { dayLossLimit: string | null }).dayLossLimit !== null, 6000);
    await page.until(`return !document.querySelector('[data-page="risk"]').textContent.includes('The rules were never changed')`);
    await press('lock all rules');
    await press('lock all rules until');
    await driver.wait(async () => (await risk()).lockedUntil !== null, 6000);
    await page.until(`return document.querySelector('[data-page="risk"]').textContent.includes('Locked: All rules until')`);
    await page.settle();
    await typeOver('Day loss limit, net of fees', '60');
    await press('set these rules');
    await page.until(`return document.querySelector('[data-page="risk"]').textContent.includes('is locked until')`);
    expect(await page.violations()).to.deep.equal([]);
    await page.keys(Key.ESCAPE);
  });

  it('trade into the limit: everything is closed, and the rail says so by night and by day', async () => {
    await page.until(`return !document.querySelector('[data-page="risk"]')`);
    await api.to('09:00:40.000');
    await driver.wait(async () => (await risk()).closeOut === 'done', 6000);
    expect(await held('BRINE.HALM')).to.equal('0');
    await page.until(`return document.querySelector('[data-testid="limit-reached"]')?.textContent.includes('no opening until')`);
    expect(await page.violations()).to.deep.equal([]);
    await page.menu('Chart room');
    await page.until(`return document.documentElement.dataset.theme === 'day'`);
    expect(await page.violations()).to.deep.equal([]);
  });

  it('find it all holding after the program starts again: the plate, the lock, and no way to open', async () => {
    api = await restart();
    await page.until(`return !document.querySelector('[data-testid="band"]')?.textContent.includes('This screen lost Kavix')`);
    await page.until(`return document.querySelector('[data-testid="limit-reached"]')?.textContent.includes('no opening until')`);
    const { lockedUntil, blocked } = await risk();
    expect([lockedUntil !== null, blocked.map(({ rule }) => rule)]).to.deep.equal([true, ['dayLossLimit']]);
    await page.openPage('Risk');
    await page.until(`return document.querySelector('[data-page="risk"]')?.textContent.includes('Locked: All rules until')`);
    await typeOver('Day loss limit, net of fees', '9000');
    await press('set these rules');
    await page.until(`return document.querySelector('[data-page="risk"]').textContent.includes('is locked until')`);
    const order = { account: 'MAIN', instrument: 'BRINE.HALM', side: 'buy', type: 'limit', quantity: '1', limitPrice: '20.00' };
    const refused = await api.post('/api/orders', { ...order, clientOrderId: 'after' });
    expect([refused.status, (refused.body as { rule: string }).rule]).to.deep.equal([422, 'dayLossLimit']);
  });

  it('tell in the activity what became of it: from the beginning, by whom and of what kind', async () => {
    await page.keys(Key.ESCAPE);
    await page.find('input[aria-label="Command bar"]').type('activity');
    await page.until(`return document.querySelector('[cmdk-item]')?.textContent.includes('Activity')`);
    await page.keys(Key.ENTER);
    const rows = (): Promise<string[]> =>
      driver.executeScript(`return [...document.querySelectorAll('[role="region"][aria-label^="Activity"] tbody tr')].map((row) => row.textContent)`);
    await driver.wait(async () => (await rows()).length > 3, 6000);
    await page.choose('Since when', 'from the beginning');
    await page.choose('By whom', 'by a rule');
    await driver.wait(async () => (await rows()).length > 0 && (await rows()).every((row) => row.includes('rule')), 6000);
    await page.choose('By whom', 'by anyone');
    await page.choose('Of what kind', 'cut off');
    await driver.wait(async () => (await rows()).every((row) => /cut off/.test(row)), 6000);
    expect(await page.violations()).to.deep.equal([]);
  });
});
