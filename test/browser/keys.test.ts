import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import { Chance } from '../../src/core/random/index.ts';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import { newFolder, tapeMarket, type Client, type Server } from '../support/server.ts';

interface Bound {
  readonly key: string;
  readonly phrase: string | null;
}

/** A file of keys, as somebody would have kept one. */
const keyFile = (text: string): string => {
  const file = join(newFolder(), 'keys.json');
  writeFileSync(file, text);
  return file;
};

describe('keys under the hands', function () {
  this.timeout(180_000);
  let driver: WebDriver;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  let server: Server;
  before(async () => {
    ({ api, driver, page, server, leave } = await takeSeat(tapeMarket('GANET.HALM', 41.2), '09:00:01.000'));
  });
  after(() => leave());

  const orders = async (): Promise<unknown[]> => ((await api.get('/api/orders?account=MAIN&limit=1000')).body as { items: unknown[] }).items;
  const bound = async (): Promise<Bound[]> => ((await api.get('/api/bindings')).body as { items: Bound[] }).items;
  const keysSay = (words: string): Promise<unknown> =>
    page.until(`return document.querySelector('[data-page="settings"]')?.textContent.includes(arguments[0])`, words);
  const layer = `document.querySelector('[data-testid="order-layer"]')`;
  const onLadder = async (): Promise<void> => {
    await page.until(`return !document.querySelector('[data-page] section')`);
    await driver.executeScript(`document.querySelector('[role="region"][aria-label^="Ladder"]').focus()`);
  };

  it('500 random rows of keys send nothing: no key does without the layer, a slip, a bound key or a pressed button', async () => {
    await onLadder();
    // A slip is one of the ways to send: that one was open is noted.
    await driver.executeScript(
      `window.slips = 0;
       new MutationObserver(() => { if (document.querySelector('[role="dialog"][aria-label^="Order slip"]')) window.slips++; }).observe(document.body, { childList: true, subtree: true });`,
    );
    const plain = [...'abcdefghijklmnopqrstuvwxyz0123456789,.;-+[]<#'];
    const named = [Key.ARROW_UP, Key.ARROW_DOWN, Key.ARROW_LEFT, Key.ARROW_RIGHT, Key.HOME, Key.END, Key.PAGE_UP, Key.PAGE_DOWN, Key.BACK_SPACE, Key.ESCAPE, Key.INSERT, Key.NUMPAD1, Key.ADD, Key.SUBTRACT]; // prettier-ignore
    const chance = new Chance(2026, 13);
    const pick = <T>(of: readonly T[]): T => of[chance.below(of.length)] as T;
    for (let row = 0; row < 500; row++) {
      const actions = driver.actions();
      for (let i = 0; i < 8; i++) {
        const key = chance.next() < 0.7 ? pick(plain) : pick(named);
        if (chance.next() < 0.2) actions.keyDown(Key.SHIFT).sendKeys(key).keyUp(Key.SHIFT);
        else actions.sendKeys(key);
      }
      await actions.sendKeys(Key.ESCAPE, Key.ESCAPE).perform();
      if (row % 50 === 49) {
        expect(await orders(), `after ${row + 1}`).to.deep.equal([]);
        await onLadder();
      }
    }
    expect(await driver.executeScript('return window.slips')).to.equal(0);
    expect(await orders()).to.deep.equal([]);
  });

  it('24 of them are made by keys alone in less than a minute', async () => {
    await page.openPage('Settings');
    await page.until(`return document.querySelector('[aria-label="Sizes of the grid"]')`);
    const from = Date.now();
    await driver.executeScript(`document.querySelector('[aria-label="Sizes of the grid"]').focus()`);
    await page.chord('a', Key.CONTROL);
    await page.keys('100, 200, 300', Key.TAB);
    await page.chord('a', Key.CONTROL);
    await page.keys('at bid, at ask, at bid - 1 tick, at ask + 1 tick');
    await driver.wait(
      async () => (await driver.executeScript<number>(`return document.querySelectorAll('[aria-label="What the grid would write"] li').length`)) === 24,
      4000,
    );
    /** Goes by Tab to a button of these words, and presses it. */
    const press = async (words: string, ...held: string[]): Promise<void> => {
      for (let i = 0; i < 40; i++) {
        await page.chord(Key.TAB, ...held);
        if (await driver.executeScript<boolean>(`return document.activeElement.textContent.trim().startsWith(arguments[0])`, words)) {
          await page.keys(Key.ENTER);
          return;
        }
      }
      throw new Error(`no way by Tab to ${words}`);
    };
    await press('write 24 keys');
    await press('save the keys', Key.SHIFT);
    await driver.wait(async () => (await bound()).length === 24, 5000);
    expect(Date.now() - from, 'milliseconds').to.be.below(60_000);
    expect(new Set((await bound()).map(({ key }) => key)).size).to.equal(24);
  });

  it('count in every other window the moment they are saved in one', async () => {
    const main = await driver.getWindowHandle();
    await driver.switchTo().newWindow('tab');
    await driver.get(`${server.address}/`);
    await page.until(`return document.querySelectorAll('.spine.best').length === 2`);
    const other = await driver.getWindowHandle();
    await driver.switchTo().window(main);
    await page.until(`return document.querySelector('[aria-label="Phrase of key 1"]')`);
    const phrase = page.find('[aria-label="Phrase of key 1"]');
    await phrase.type(Key.chord(Key.CONTROL, 'a'), 'buy 700 at bid - 3 ticks');
    await keysSay('Buy 700 GANET.HALM at 41.15');
    await page.clickText('save the keys');
    await driver.wait(async () => (await bound()).some((one) => one.phrase === 'buy 700 at bid - 3 ticks'), 5000);
    await driver.switchTo().window(other);
    await page.settle();
    await onLadder();
    await driver.actions().keyDown(Key.SPACE).perform();
    await page.until(`return ${layer}?.textContent.includes('Buy 700 GANET.HALM at 41.15')`);
    await driver.actions().keyUp(Key.SPACE).perform();
    await driver.close();
    await driver.switchTo().window(main);
  });

  it('a set that is broken, or of a newer Kavix, is refused whole in words; a good one is shown with what it changes first', async () => {
    const before = await bound();
    const file = page.find('[aria-label="File of keys"]');
    await file.type(keyFile('{"items":[{"key":"F13","phrase":"close"},{"key":"F14"}'));
    await keysSay('This is no JSON');
    await file.type(keyFile('{"format":9,"items":[]}'));
    await keysSay('this Kavix reads format 1. A newer Kavix wrote it');
    await file.type(keyFile('{"items":[{"key":"F13","phrase":{"buy":1}}]}'));
    await keysSay('line 1, column 11: key 1 of the set, F13, does nothing');
    expect(await bound()).to.deep.equal(before);
    await file.type(keyFile('{"items":[{"key":"F13","phrase":"buy 100 at bid now"},{"key":"Numpad 1","phrase":"buy 111 at bid"}]}'));
    await keysSay('2 keys: 2 new (F13, Numpad 1); 24 gone');
    // A stray word is refused at the word, and nothing of the set can be saved.
    await keysSay('“now” is not understood here');
    expect(await page.find('//button[normalize-space(.)="save the keys"]').isEnabled()).to.equal(false);
    expect(await page.violations()).to.deep.equal([]);
    const phrase = page.find('[aria-label="Phrase of key 1"]');
    await phrase.type(Key.chord(Key.CONTROL, 'a'), 'buy 100 at bid');
    await page.until(`return [...document.querySelectorAll('button')].some((one) => one.textContent === 'save the keys' && !one.disabled)`);
    await page.clickText('save the keys');
    await driver.wait(async () => (await bound()).length === 2, 5000);
    expect(await orders()).to.deep.equal([]);
    await page.keys(Key.ESCAPE);
  });

  it('one that is bound already is named with what it does, and a free one beside it', async () => {
    await page.openPage('Settings');
    await page.until(`return document.querySelector('[aria-label="Phrase of key 2"]')`);
    await page.clickText('bind a key');
    const third = page.find('[aria-label="Key 3: press it"]');
    await third.type(Key.NUMPAD1);
    await keysSay('Numpad 1 is bound already, to “buy 111 at bid”');
    expect(await page.find('//button[normalize-space(.)="save the keys"]').isEnabled()).to.equal(false);
    await page.find('//*[@aria-label="Bound keys"]//button[contains(., "is free")]').click();
    expect(await third.value()).to.not.equal('Numpad 1');
    await page.until(`return !document.querySelector('[data-page="settings"]').textContent.includes('is bound already')`);
    await page.find('[aria-label="drop key 3"]').click();
    await page.keys(Key.ESCAPE);
  });

  it('of the number row and of the number pad are two: only the one that is bound does anything', async () => {
    await onLadder();
    await page.keys('1');
    await page.settle();
    expect(await driver.executeScript(`return document.querySelectorAll('[role="dialog"]').length`)).to.equal(0);
    await onLadder();
    await page.keys(Key.NUMPAD1);
    await page.until(`return document.body.textContent.includes('Enter sends: buy 111 GANET.HALM at 41.18')`);
    await page.keys(Key.ESCAPE);
    expect(await orders()).to.deep.equal([]);
  });

  it('size by risk in the layer: what the plan on the plate loses at its stop is the chosen money', async () => {
    const plan = { name: 'scalp', heldBy: 'venue', onSizeChange: 'follow', onMissedLevel: 'fire', steps: [{ share: '100', stop: { by: 'ticks', value: '20', order: 'market' } }] }; // prettier-ignore
    expect((await api.post('/api/exit-plans', plan)).status).to.equal(201);
    const rules = (await api.get('/api/risk/MAIN')).body as object;
    expect((await api.call('PUT', '/api/risk/MAIN', { ...rules, dayLossLimit: '300.00', onDayLoss: 'block' })).status).to.equal(200);
    await onLadder();
    const open = async (): Promise<void> => {
      await driver.actions().keyDown(Key.SPACE).perform();
      await page.until(`return ${layer}`);
    };
    await open();
    await page.until(`return ${layer}.textContent.includes('no money at risk was chosen yet')`);
    await driver.actions().keyUp(Key.SPACE).perform();
    // On the plate: the plan, and the size from money at risk.
    await page.choose('Exit plan on entries', 'scalp');
    await page.until(`return document.querySelector('form[aria-label^="Ticket"]').textContent.includes('scalp')`);
    await page.click('[aria-label="Key target"] button.font-bold');
    await page.clickText('by …');
    await page.find('[aria-label="Money"]').type('100');
    await page.find('[aria-label="At risk to"]').type('ask - 10 ticks');
    await page.until(`return document.body.textContent.includes('where it loses') && document.body.textContent.includes('are left of the day then')`);
    await page.until(`return [...document.querySelectorAll('button')].some((one) => /^take [\\d,]+$/.test(one.textContent) && !one.disabled)`);
    await page.keys(Key.ENTER);
    await page.keys(Key.ESCAPE);
    await onLadder();
    await open();
    // 0.20 a share, and fees of 0.10 % in and out.
    await page.until(`return ${layer}.textContent.includes('354: loses 99.89 with fees at 41.00; 200.11 of 300.00 are left of the day then')`);
    await driver.actions().sendKeys('k').keyUp(Key.SPACE).perform();
    await page.until(`return document.querySelector('[aria-label="Key target"]').textContent.includes('size 354')`);
    expect(await page.violations()).to.deep.equal([]);
    expect(await orders()).to.deep.equal([]);
  });

  it('latch the layer for one order, for hands that can’t hold a key, where that is set', async () => {
    const now = (await api.get('/api/settings')).body as object;
    expect((await api.call('PUT', '/api/settings', { ...now, latch: true })).status).to.equal(200);
    await driver.navigate().refresh();
    await page.until(`return document.querySelectorAll('.spine.best').length === 2`);
    await page.settle();
    await onLadder();
    await page.keys(Key.SPACE, Key.SPACE);
    await page.until(`return ${layer}`);
    await page.passes(400);
    expect(await driver.executeScript(`return ${layer} !== null`), 'it stays without a key held').to.equal(true);
    await page.keys(Key.ESCAPE);
    await page.until(`return !${layer}`);
    // One tap alone opens it only while it is held.
    await page.passes(1000);
    await page.keys(Key.SPACE);
    await page.until(`return !${layer}`);
    expect(await orders()).to.deep.equal([]);
  });
});
