import { expect } from 'chai';
import { Key, type WebDriver } from 'selenium-webdriver';
import type { DeskPage } from '../support/desk-page.ts';
import { takeSeat } from '../support/seat.ts';
import { tapeMarket, type Client } from '../support/server.ts';

interface Listed<T> {
  readonly items: readonly T[];
}
interface Trip {
  readonly setup: string | null;
  readonly note: string | null;
  readonly net: string;
}

describe('what it made, under the hands', function () {
  this.timeout(120_000);
  let driver: WebDriver;
  let leave: () => Promise<void>;
  let page: DeskPage;
  let api: Client;
  before(async () => {
    ({ api, driver, page, leave } = await takeSeat([...tapeMarket('GANET.HALM', 41.2), ...tapeMarket('BRINE.HALM', 27.3)].sort(), '09:00:01.000'));
    const place = async (side: string, instrument: string, setup?: string): Promise<void> => {
      const body = { clientOrderId: `${side}-${instrument}`, account: 'MAIN', instrument, side, type: 'market', quantity: '10', ...(setup ? { setup } : {}) };
      expect((await api.call('POST', '/api/orders', body)).status).to.equal(201);
    };
    await place('buy', 'GANET.HALM', 'pullback');
    await place('sell', 'GANET.HALM');
    await place('buy', 'BRINE.HALM', 'range');
    await place('sell', 'BRINE.HALM');
  });
  after(() => leave());

  const text = (css: string): Promise<string> => driver.executeScript(`return document.querySelector(${JSON.stringify(css)})?.textContent ?? ''`);
  const press = async (label: string): Promise<void> => {
    const by = `//button[@aria-label="${label}" or normalize-space(.)="${label}"]`;
    const found = page.find(by);
    await found?.click();
  };
  /** Marks one of several, or takes its mark away. */
  const mark = async (choice: string, words: string): Promise<void> => {
    await page.find(`button[aria-label^="${choice}:"]`).click();
    const item = `//*[@role="group"][@aria-label="${choice}"]//label[normalize-space(.)="${words}"]//input`;
    await page.find(item).click();
    await page.keys(Key.ESCAPE);
  };
  const sentence = (): Promise<string> => text('[data-testid="review-sentence"]');
  const trips = async (): Promise<readonly Trip[]> => ((await api.call('GET', '/api/review/round-trips')).body as Listed<Trip>).items;

  it('what is chosen is one sentence, and nothing else is in', async () => {
    await page.openPage('Review');
    await driver.wait(async () => /round trips 2/.test(await text('[data-testid="review-result"]')), 8000);
    expect(await text('[data-testid="review-sentence"]')).to.equal('Round trips that ended this week, in all accounts.');
    await mark('Setup', 'pullback');
    await driver.wait(async () => /round trips 1/.test(await text('[data-testid="review-result"]')), 8000);
    expect(await text('[data-testid="review-sentence"]')).to.equal('Round trips that ended this week, in all accounts, of pullback.');
    expect(await page.violations()).to.deep.equal([]);
    await mark('Account', 'MAIN');
    await mark('Account', 'EVAL');
    await mark('Kind', 'share');
    await mark('Hour', '20');
    expect(await sentence()).to.equal('Round trips that ended this week, in MAIN and EVAL, of pullback, shares only, ended in the hour of 20.');
    await driver.wait(async () => /round trips 0/.test(await text('[data-testid="review-result"]')), 8000);
    await mark('Hour', '20');
    await mark('Hour', '09');
    await driver.wait(async () => /round trips 1/.test(await text('[data-testid="review-result"]')), 8000);
  });

  it('a note is written where the round trip stands, and kept', async () => {
    await press('note of GANET.HALM: none, change');
    await page.find('[aria-label="note of GANET.HALM"]').type('too early, "again"', Key.ENTER);
    await driver.wait(async () => (await trips()).some(({ note }) => note === 'too early, "again"'), 4000);
    await page.until(`return document.querySelector('[aria-label^="note of GANET.HALM: too early"]')`);
  });

  it('one opens with the day and the rules as they stood when it began', async () => {
    await api.to('09:00:02.000');
    const rules = (await api.call('GET', '/api/risk/MAIN')).body as Record<string, unknown>;
    expect((await api.call('PUT', '/api/risk/MAIN', { ...rules, dayLossLimit: '900.00' })).status).to.equal(200);
    await page.find('//section[@aria-label="Round trips"]//td//button[normalize-space(.)="GANET.HALM"]').click();
    await driver.wait(async () => /first round trip of its day\..*No rule is set: /.test(await text('[data-testid="rules-then"]')), 8000);
  });

  it('the export reads back as what is listed', async () => {
    const address = await page.find('a[download="round-trips.csv"]').attribute('href');
    const csv = await driver.executeAsyncScript<string>(`fetch(arguments[0]).then((r) => r.text()).then(arguments[1])`, address);
    const [head, row, ...rest] = csv.trim().split('\r\n');
    expect(head?.split(',').slice(0, 3)).to.deep.equal(['id', 'account', 'instrument']);
    expect(row).to.contain('"too early, ""again"""');
    expect(rest).to.deep.equal([]);
  });

  it('the day’s note is kept', async () => {
    const note = page.find('textarea[aria-label^="Note of"]');
    await note.type('One trade less.');
    await press('keep it');
    await driver.wait(async () => ((await api.call('GET', '/api/notes/2026-03-02')).body as { text: string }).text === 'One trade less.', 4000);
  });

  it('a withdrawal is asked for and taken back; too much is refused in words', async () => {
    await page.openPage('Accounts');
    const amount = page.find('[aria-label="Amount in EUR"]');
    await amount.type('999999.00', Key.ENTER);
    await driver.wait(async () => /must be at most/.test(await text('[aria-label="Withdrawals and deposits"]')), 4000);
    await amount.type(Key.chord(Key.CONTROL, 'a'), '250.00', Key.ENTER);
    await press('take back the withdrawal of 250.00');
    const state = async (): Promise<string[]> =>
      ((await api.call('GET', '/api/cash-requests')).body as Listed<{ state: string }>).items.map((one) => one.state);
    await driver.wait(async () => (await state()).includes('canceled'), 4000);
    expect(await page.violations()).to.deep.equal([]);
  });

  it('the statement chains, and ends with the cash there is', async () => {
    const { cash } = (await api.call('GET', '/api/accounts/MAIN')).body as { cash: string };
    await driver.wait(async () => (await text('[aria-label="Statement of MAIN"]')).endsWith(`ends with${Number(cash).toLocaleString('en-US', { minimumFractionDigits: 2 })}`), 8000); // prettier-ignore
    await page.choose('Statement', 'by month');
    await driver.wait(async () => (await text('[aria-label="Statement of MAIN by month"] tbody tr')).endsWith(Number(cash).toLocaleString('en-US', { minimumFractionDigits: 2 })), 4000); // prettier-ignore
    expect(await text('[aria-label="Statement of MAIN by month"] tbody td')).to.equal('2026-03');
    // Nothing was closed before the demo world began.
    await page.choose('Year', '2025');
    await page.until(`return document.querySelector('[aria-label="Realised in 2025"]')?.textContent.includes('Nothing was closed')`);
    expect(await text('[data-testid="account-details"]')).to.match(
      /^MAIN trades .*shares.* on HALM and QUAY, .*intraday.*, and is kept in EUR\. It is demo’s\.$/,
    );
    expect(await text('[aria-label="Second step"]')).to.contain('Begin a second step');
    expect(await page.violationsInBothThemes()).to.deep.equal([]);
  });
});
