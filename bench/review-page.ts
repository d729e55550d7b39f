import { join } from 'node:path';
import { QueryTypes, Sequelize } from 'sequelize';
import { enterDemo, openBrowser } from '../test/support/browser.ts';
import { DeskPage } from '../test/support/desk-page.ts';
import { Client, dropFolder, newFolder, startServer } from '../test/support/server.ts';
import { ms, percentile, type Figure } from './table.ts';

const TRIPS = 50_000;
const AT_ONCE = 500;
const ROUNDS = 7;

interface PastRow {
  readonly account: string;
  readonly value: string;
}
interface Fact {
  readonly name: string;
  readonly value: string;
}

/** Makes of the demo's round trips so many that the page has its work. */
async function multiply(folder: string): Promise<void> {
  const open = (file: string): Sequelize => new Sequelize({ dialect: 'sqlite', storage: join(folder, file), logging: false });
  const [tables, desk] = [open('tables.sqlite'), open('desk.sqlite')];
  const trips = await tables.query<PastRow>(`SELECT * FROM past WHERE kind = 'trip'`, { type: QueryTypes.SELECT });
  const facts = new Map((await desk.query<Fact>(`SELECT * FROM review_facts`, { type: QueryTypes.SELECT })).map(({ name, value }) => [name, value]));
  const idOf = ({ value }: PastRow): string => (JSON.parse(value) as { id: string }).id;
  const known = trips.filter((trip) => facts.has(`trip ${trip.account} ${idOf(trip)}`));
  for (let from = 0; from < TRIPS; from += AT_ONCE) {
    const some = Array.from({ length: AT_ONCE }, (_, i) => ({ id: `x${from + i}`, place: 1000 + from + i, trip: known[(from + i) % known.length] as PastRow }));
    await tables
      .getQueryInterface()
      .bulkInsert('past', some.map(({ id, place, trip }) => ({ ...trip, place, name: id, value: trip.value.replace(`"id":"${idOf(trip)}"`, `"id":"${id}"`) }))); // prettier-ignore
    await desk
      .getQueryInterface()
      .bulkInsert('review_facts', some.map(({ id, trip }) => ({ name: `trip ${trip.account} ${id}`, value: facts.get(`trip ${trip.account} ${idOf(trip)}`) }))); // prettier-ignore
  }
  await tables.close();
  await desk.close();
}

/** In the page: how long after a choice was pressed result, pictures and rows of all of them stand. */
const WATCH = `
  const done = arguments[arguments.length - 1];
  const count = arguments[0];
  const began = performance.now();
  const look = () => {
    const page = document.querySelector('[data-page="review"]');
    const stands = page.querySelector('[data-testid="review-result"]')?.textContent.includes('round trips ' + count) &&
      page.querySelector('svg[aria-label^="Running result over ' + count + ' "]') &&
      page.querySelector('svg[aria-label*="results as multiples"]') && page.querySelectorAll('[aria-label="Round trips"] tbody tr').length > 5;
    if (stands) requestAnimationFrame(() => done(performance.now() - began));
    else setTimeout(look, 2);
  };
  [...document.querySelectorAll('[role="menuitemradio"], [cmdk-item]')].find((one) => one.textContent.startsWith('all')).click();
  look();`;

/** The review page over a long past: from choosing all of it until it is drawn. */
export async function reviewPage(): Promise<Figure[]> {
  const folder = newFolder();
  const first = await startServer({ KAVIX_PAST: 'demo', KAVIX_DATA: folder, KAVIX_CLOCK: 'manual' });
  await (await Client.signIn(first.address)).get('/api/review/figures');
  await first.stop();
  await multiply(folder);
  const server = await startServer({ KAVIX_PAST: 'demo', KAVIX_DATA: folder, KAVIX_CLOCK: 'manual' });
  const { driver, close } = await openBrowser();
  try {
    const api = await Client.signIn(server.address);
    const count = ((await api.get('/api/review/figures?points=4')).body as { all: { count: number } }).all.count;
    const began = performance.now();
    await api.get('/api/review/figures?points=1200&by=setup');
    const asked = performance.now() - began;
    const page = new DeskPage(driver);
    await enterDemo(driver, server.address);
    const taken: number[] = [];
    for (let i = 0; i < ROUNDS; i++) {
      await page.openPage('Review');
      await page.until(`return document.querySelector('[data-testid="review-result"]')`);
      await page.loaded();
      await page.click('[data-page="review"] button[aria-label^="Period"]');
      await page.item('all').appears();
      taken.push(await driver.executeAsyncScript<number>(WATCH, count));
      await driver.get(`${server.address}/`);
      await page.loaded();
    }
    return [
      {
        what: `review page of ${count.toLocaleString('en')} round trips drawn, median of ${ROUNDS}`,
        value: ms(percentile(taken, 0.5)),
        baseline: `its figures alone ${ms(asked)}`,
        ratio: '',
        wanted: '≤ 400 ms',
      },
    ];
  } finally {
    await close();
    await server.stop();
    dropFolder(folder);
  }
}
