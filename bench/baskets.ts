import { Baskets } from '../src/desk/baskets/baskets.ts';
import type { BasketRow, Run } from '../src/desk/baskets/things.ts';
import { openDatabase } from '../src/store/database.ts';
import { BasketStore } from '../src/store/desk/basket-store.ts';
import { DESK_MIGRATIONS } from '../src/store/desk/migrations.ts';
import { DiskDeskStore, endDisks } from '../test/support/disk-store.ts';
import { Client, dropFolder, newFolder, startServer, tapeMarket, writeTape } from '../test/support/server.ts';
import { endWorlds, marketWorld } from '../test/support/scenes.ts';
import { ms, percentile, times, type Figure } from './table.ts';

const ROWS = 200;
/** Baskets that are sent, each once. */
const SENDS = 60;
const ROUNDS = 20;
const IDS = ['GANET.HALM', 'BRINE.HALM'];
const TAPE = [...tapeMarket('GANET.HALM', 41.2), ...tapeMarket('BRINE.HALM', 27.3)].sort();

/** A basket of 200 rows: checked as a whole, and sent at once; beside one order of it by itself. */
export async function baskets(): Promise<Figure[]> {
  const folder = newFolder();
  const tape = writeTape(TAPE);
  const server = await startServer({ KAVIX_MARKET: `tape:${tape}`, KAVIX_DATA: folder });
  const client = await Client.signIn(server.address);
  await client.get(`/api/quotes?instruments=${IDS.join(',')}`);
  const row = (i: number): object => ({
    id: `r${i}`,
    account: 'MAIN',
    instrument: IDS[i % IDS.length],
    side: 'buy',
    type: 'limit',
    quantity: '1',
    limitPrice: i % IDS.length === 0 ? '38.00' : '25.00',
  });
  const rows = Array.from({ length: ROWS }, (_, i) => row(i));
  await client.post('/api/baskets', { name: 'bench', rows });
  const inServer = async (path: string, body: object): Promise<number> => {
    const reply = await client.post(path, body);
    if (reply.status >= 300) throw new Error(JSON.stringify(reply.body));
    return Number(/dur=([\d.]+)/.exec(reply.headers.get('server-timing') ?? '')?.[1]);
  };
  const checked: number[] = [];
  for (let i = 0; i < ROUNDS; i++) checked.push(await inServer('/api/baskets/bench/check', {}));
  const single: number[] = [];
  for (let i = 0; i < ROWS; i++) {
    const { id: _id, ...order } = row(i) as { id: string };
    single.push(await inServer('/api/orders', { clientOrderId: `s${i}`, ...order }));
  }
  await server.stop();
  dropFolder(folder);
  const one = percentile(single, 0.5);
  const committed = await committedAtOnce(rows.map((one) => ({ ...one, instrument: IDS[0], limitPrice: '38.00' }) as BasketRow));
  return [
    {
      what: 'a basket of 200 rows checked, in the server, median',
      value: ms(percentile(checked, 0.5)),
      baseline: `${ms(one)} one order placed`,
      ratio: times(percentile(checked, 0.5) / one),
      wanted: '≤ 60 ms',
    },
    {
      what: '200 rows sent at once: all intents committed, from the wish to the log on the disk, median',
      value: `${ms(percentile(committed, 0.5))}, the first ${ms(committed[0] ?? NaN)}`,
      baseline: `${ms(one * ROWS)} one after another`,
      ratio: times(percentile(committed, 0.5) / (one * ROWS)),
      wanted: '≤ 40 ms',
    },
  ];
}

/** Milliseconds from the wish to send a basket until the log on the disk has the order of each row: the program's own parts, without HTTP. */
async function committedAtOnce(rows: readonly BasketRow[]): Promise<number[]> {
  const store = await DiskDeskStore.open();
  const world = await marketWorld([], '09:00:01.000', { desk: store });
  const folder = newFolder();
  const database = await openDatabase(folder, 'runs.sqlite', DESK_MIGRATIONS);
  const baskets = new Baskets({ desk: world.desk, store: new BasketStore<Run>(database), planOf: () => () => Promise.resolve(null) });
  await baskets.open();
  let inLog = 0;
  const append = store.append.bind(store);
  store.append = async (entries) => {
    await append(entries);
    if (entries.length >= rows.length) inLog = performance.now();
  };
  const taken: number[] = [];
  for (let i = 0; i < SENDS; i++) {
    const name = `bench-${i}`;
    const from = performance.now();
    const sent = await baskets.send('demo', { name, rows, version: 1, key: name }, '100', 'at-once', name);
    if (!sent.ok || inLog < from) throw new Error(`${name} was not sent whole`);
    taken.push(inLog - from);
    await world.desk.quiet();
    await world.desk.ask('MAIN', { kind: 'cancel-many', instrument: null, side: null });
    await world.desk.quiet();
  }
  await endWorlds();
  await database.close();
  await endDisks();
  dropFolder(folder);
  return taken;
}
