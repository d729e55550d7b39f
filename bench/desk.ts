import { writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { ACCOUNTS } from '../demo/accounts.ts';
import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import type { OrderState } from '../src/core/orders/index.ts';
import { FIRST_HASH, rowHash } from '../src/desk/journal.ts';
import type { LogRow } from '../src/desk/store.ts';
import { startVenue } from '../src/start/venue-link.ts';
import { openDatabase } from '../src/store/database.ts';
import { DeskStore } from '../src/store/desk/desk-store.ts';
import { DESK_MIGRATIONS, TABLE_MIGRATIONS } from '../src/store/desk/migrations.ts';
import { World, at } from '../test/support/world.ts';
import { dropFolder, newFolder, startServer, Client } from '../test/support/server.ts';
import { MARKET } from '../test/support/scenes.ts';
import { ms, percentile, times, type Figure } from './table.ts';

const ROWS = 400_000;

/** A tape of level changes in one instrument, a row a millisecond. */
function longTape(folder: string): { file: string; end: number } {
  const start = at('09:00:00.000');
  const rows = Array.from(
    { length: ROWS },
    (_, i) => `${new Date(start + i).toISOString()},GANET.HALM,level,${i % 2 ? 'bid,41.1' : 'ask,41.2'}${i % 7},${100 + (i % 90)},`,
  );
  const file = join(folder, 'long.csv');
  writeFileSync(file, `time,instrument,event,side,price,quantity,text\n${rows.join('\n')}\n`);
  return { file, end: start + ROWS };
}

/** Rows of a tape a second through the venue's thread: with nothing armed, and with each row answered by the desk's side first. */
export async function tapeRows(): Promise<Figure[]> {
  const figures: Figure[] = [];
  for (const armed of [false, true]) {
    const folder = newFolder();
    const { file, end } = longTape(folder);
    const settings = { dataFolder: folder, market: { kind: 'tape', file } as const, seed: 1, clock: 'manual' as const, latencyMs: 0, notBefore: 0 };
    const worker = new Worker(new URL(`file://${resolve('dist/start/venue.mjs')}`));
    const { link } = await startVenue(
      worker,
      {
        settings,
        record: null,
        demo: { profiles: [], sectors: [], companyNews: [], coastNews: [], issues: [] },
        fixed: FIXED_INSTRUMENTS,
        accounts: ACCOUNTS,
        held: [],
      },
      (message) => {
        throw new Error(message);
      },
    );
    link.broker.listen({ stream: () => Promise.resolve(), alive: () => undefined });
    link.prices.listen({ market: () => undefined, beat: () => undefined });
    if (armed) await link.broker.arm({ instruments: ['GANET.HALM'], wakeAt: null });
    const rows = armed ? ROWS / 10 : ROWS;
    const from = performance.now();
    await link.demo.advance(armed ? end - ROWS + rows : end);
    const rate = rows / ((performance.now() - from) / 1000);
    const wanted = armed ? 8000 : 100_000;
    figures.push({
      what: armed ? 'tape rows a second, each row armed and answered' : 'tape rows a second, nothing armed',
      value: Math.round(rate).toLocaleString('en'),
      baseline: wanted.toLocaleString('en'),
      ratio: times(rate / wanted),
      wanted: '≥ 1×',
    });
    await link.stop();
    dropFolder(folder);
  }
  return figures;
}

/** What placing costs beside so many working orders, in the desk and the venue, with stores in memory. */
async function placingBeside(working: number): Promise<number> {
  const world = await World.open(MARKET);
  await world.to('09:00:01.000');
  for (let i = 0; i < working; i++) await world.place({ quantity: '1', limitPrice: (20 + (i % 2000) / 100).toFixed(2), account: 'MAIN' });
  const taken: number[] = [];
  for (let i = 0; i < 300; i++) {
    const from = performance.now();
    await world.place({ quantity: '1', limitPrice: '19.00' });
    taken.push(performance.now() - from);
  }
  await world.close();
  return percentile(taken, 0.5);
}

export async function placing(): Promise<Figure[]> {
  const few = await placingBeside(100);
  const many = await placingBeside(10_000);
  return [{ what: 'placing beside 10,000 working orders', value: ms(many), baseline: `${ms(few)} beside 100`, ratio: times(many / few), wanted: '≤ 1.5×' }];
}

const ENTRIES = 1_000_000;

/** The first page of a long activity, filtered by an instrument that is seldom in it. */
export async function activity(): Promise<Figure[]> {
  const folder = newFolder();
  const database = await openDatabase(folder, 'desk.sqlite', DESK_MIGRATIONS);
  const tables = await openDatabase(folder, 'tables.sqlite', TABLE_MIGRATIONS, 'NORMAL');
  const store = new DeskStore<OrderState>(database, tables);
  let hash = FIRST_HASH;
  for (let from = 1; from <= ENTRIES; from += 2000) {
    const rows: LogRow[] = [];
    for (let seq = from; seq < from + 2000; seq++) {
      const instrument = seq % 997 === 0 ? 'BRINE.HALM' : 'GANET.HALM';
      const row = {
        seq,
        time: seq,
        account: 'MAIN',
        by: 'user',
        kind: 'note',
        instrument,
        orderId: `MAIN-${seq}`,
        causedBy: null,
        text: 'x'.repeat(80),
        data: '{"kind":"note","what":"x"}',
        history: null,
        version: 2,
      };
      hash = rowHash(hash, row);
      rows.push({ ...row, hash });
    }
    await store.append(rows);
  }
  const taken: number[] = [];
  for (let i = 0; i < 15; i++) {
    const from = performance.now();
    await store.entries({ accounts: ['MAIN', 'EVAL'], instrument: 'BRINE.HALM', limit: 101 });
    taken.push(performance.now() - from);
  }
  await Promise.all([database.close(), tables.close()]);
  dropFolder(folder);
  return [
    {
      what: 'activity of 1,000,000 entries: filtered by instrument, first page',
      value: ms(percentile(taken, 0.5)),
      baseline: '150 ms',
      ratio: times(percentile(taken, 0.5) / 150),
      wanted: '≤ 1×',
    },
  ];
}

/** Ten days of market with ten instruments watched: how large the program gets, and how long another call waits meanwhile. */
export async function tenDays(): Promise<Figure[]> {
  const server = await startServer({ KAVIX_CLOCK: 'manual' });
  const client = await Client.signIn(server.address);
  const { items } = (await client.get('/api/instruments?venue=HALM&kind=share&limit=10')).body as { items: { id: string }[] };
  await client.get(`/api/quotes?instruments=${items.map(({ id }) => id).join(',')}`);
  const waits: number[] = [];
  let largest = 0;
  const { readFileSync } = await import('node:fs');
  const resident = (): number => (Number(readFileSync(`/proc/${server.process.pid}/statm`, 'utf8').split(' ')[1]) * 4096) / 2 ** 20;
  const advancing = client.post('/api/clock', { advanceBy: 10 * 86_400_000 });
  let done = false;
  void advancing.finally(() => (done = true)).catch(() => undefined);
  while (!done) {
    const from = performance.now();
    await client.get(`/api/quotes?instruments=${items[0]?.id}`);
    waits.push(performance.now() - from);
    largest = Math.max(largest, resident());
    await new Promise((next) => setTimeout(next, 100));
  }
  await advancing;
  await server.stop();
  dropFolder(server.folder);
  return [
    {
      what: '10 days advanced, 10 instruments watched: largest resident size',
      value: `${largest.toFixed(0)} MB`,
      baseline: '450 MB',
      ratio: times(largest / 450),
      wanted: '≤ 1×',
    },
    {
      what: '10 days advanced: longest wait of another call',
      value: ms(Math.max(...waits)),
      baseline: '250 ms',
      ratio: times(Math.max(...waits) / 250),
      wanted: '≤ 1×',
    },
  ];
}
