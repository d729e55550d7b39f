import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Sequelize } from 'sequelize';
import { answerProblem } from '../test/support/answers.ts';
import { Client, dropFolder, newFolder, startServer, writeTape } from '../test/support/server.ts';
import { stalledIn, watchMachine } from './machine.ts';
import { ms, percentile, times, type Figure } from './table.ts';

const QUOTES_A_SECOND = 2000;
const SECONDS = 40;
const ORDERS = 800;

/** A tape that changes quotes 2,000 times a second, spread over its instruments. */
export function busyTape(seconds = SECONDS): string {
  const ids = ['GANET.HALM', 'BRINE.HALM', 'HALMF.HALM', 'GANET.QUAY'];
  const start = Date.parse('2026-03-02T09:00:00.000Z');
  const rows: string[] = [];
  for (const id of ids) rows.push(`${new Date(start).toISOString()},${id},level,bid,41.00,500,`, `${new Date(start).toISOString()},${id},level,ask,41.10,500,`);
  for (let i = 0; i < QUOTES_A_SECOND * seconds; i++) {
    const id = ids[i % ids.length] ?? '';
    rows.push(
      `${new Date(start + 1000 + (i * 1000) / QUOTES_A_SECOND).toISOString()},${id},level,${i % 2 ? 'bid,41.00' : 'ask,41.10'},${100 + (i % 90) * 10},`,
    );
  }
  return writeTape(rows);
}

/** Times one bare commit of an order's size in a database of its own; ends by closing it. */
async function bareCommits(folder: string): Promise<{ commit: () => Promise<number>; close: () => Promise<void> }> {
  const database = new Sequelize({ dialect: 'sqlite', storage: join(folder, 'bare.sqlite'), logging: false });
  await database.query('PRAGMA journal_mode = WAL');
  await database.query('PRAGMA synchronous = FULL');
  await database.query('CREATE TABLE t (id INTEGER PRIMARY KEY, text TEXT)');
  return {
    commit: async () => {
      const from = performance.now();
      await database.query('INSERT INTO t (text) VALUES (?)', { replacements: ['x'.repeat(1500)] });
      return performance.now() - from;
    },
    close: () => database.close(),
  };
}

/** Orders one after another with a pause between them, and in each pause a bare commit: both meet the same machine. */
export async function orderLatency(): Promise<Figure[]> {
  const folder = newFolder();
  const server = await startServer({ KAVIX_MARKET: `tape:${busyTape()}`, KAVIX_DATA: folder });
  const client = await Client.signIn(server.address);
  await client.get('/api/quotes?instruments=GANET.HALM,BRINE.HALM,HALMF.HALM,GANET.QUAY');
  const bareDatabase = await bareCommits(folder);
  const taken: number[] = [];
  const inServer: number[] = [];
  const bare: number[] = [];
  for (let i = 0; i < ORDERS; i++) {
    const from = performance.now();
    const reply = await client.post('/api/orders', {
      clientOrderId: `b-${i}`,
      account: 'MAIN',
      instrument: 'GANET.HALM',
      side: 'buy',
      type: 'limit',
      quantity: '1',
      limitPrice: '40.00',
    });
    if (reply.status !== 201) throw new Error(JSON.stringify(reply.body));
    if (i < 50) continue;
    taken.push(performance.now() - from);
    inServer.push(Number(/dur=([\d.]+)/.exec(reply.headers.get('server-timing') ?? '')?.[1]));
    await new Promise((done) => setTimeout(done, 10));
    bare.push(await bareDatabase.commit());
    await new Promise((done) => setTimeout(done, 10));
  }
  await bareDatabase.close();
  await server.stop();
  dropFolder(folder);
  const [median, p99, bareMedian, bareP99] = [percentile(inServer, 0.5), percentile(inServer, 0.99), percentile(bare, 0.5), percentile(bare, 0.99)];
  return [
    {
      what: 'order to 201 seen over HTTP, median',
      value: ms(percentile(taken, 0.5)),
      baseline: `${ms(median)} in the server`,
      ratio: times(percentile(taken, 0.5) / median),
      wanted: '',
    },
    {
      what: 'order to 201 in the server at 2,000 quotes/s, median',
      value: ms(median),
      baseline: `${ms(bareMedian)} bare commit`,
      ratio: times(median / bareMedian),
      wanted: '≤ 3×',
    },
    {
      what: 'order to 201 in the server at 2,000 quotes/s, p99',
      value: ms(p99),
      baseline: `${ms(bareP99)} bare commit`,
      ratio: times(p99 / bareP99),
      wanted: `≤ ${ms(2 * bareP99 + 5)}`,
    },
  ];
}

/** Processor seconds and resident bytes of a process so far. */
export function usage(pid: number): { seconds: number; resident: number } {
  const stat = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
  const pages = Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]);
  return { seconds: (Number(stat[11]) + Number(stat[12])) / 100, resident: pages * 4096 };
}

const CONNECTIONS = 20;
const INSTRUMENTS = 100;
const FANOUT_SECONDS = 20;

export async function fanOut(): Promise<Figure[]> {
  const server = await startServer();
  const client = await Client.signIn(server.address);
  const { items } = (await client.get('/api/instruments?venue=HALM&kind=share&limit=100')).body as { items: { id: string }[] };
  const topics = items.slice(0, INSTRUMENTS).map((item) => `quote:${item.id}`);
  const { cookie } = client as unknown as { cookie: string };
  const abort = new AbortController();
  let writes = 0;
  let events = 0;
  let counting = false;
  for (let i = 0; i < CONNECTIONS; i++) {
    const response = await fetch(`${server.address}/api/stream?topics=${topics.join(',')}`, { headers: { cookie }, signal: abort.signal });
    const reader = response.body?.getReader();
    const read = async (): Promise<void> => {
      for (;;) {
        const chunk = await reader?.read().catch(() => null);
        if (!chunk || chunk.done) return;
        if (!counting) continue;
        writes++;
        events += Buffer.from(chunk.value).toString().split('event: change').length - 1;
      }
    };
    void read();
  }
  await client.post('/api/clock', { speed: 20 });
  await new Promise((done) => setTimeout(done, 4000));
  const pid = server.process.pid ?? 0;
  const before = usage(pid);
  counting = true;
  await new Promise((done) => setTimeout(done, FANOUT_SECONDS * 1000));
  counting = false;
  const after = usage(pid);
  abort.abort();
  await server.stop();
  dropFolder(server.folder);
  const core = ((after.seconds - before.seconds) / FANOUT_SECONDS) * 100;
  const changes = events / CONNECTIONS / FANOUT_SECONDS;
  return [
    {
      what: `fan-out, ${CONNECTIONS} × ${INSTRUMENTS}, server of one core (its venue thread included)`,
      value: `${core.toFixed(0)} %`,
      baseline: `${changes.toFixed(0)} changes/s told to each`,
      ratio: `${((core / changes) * 2000).toFixed(0)} % at 2,000`,
      wanted: '≤ 60 %',
    },
    {
      what: 'fan-out, writes a second to each connection',
      value: (writes / CONNECTIONS / FANOUT_SECONDS).toFixed(1),
      baseline: '60',
      ratio: times(writes / CONNECTIONS / FANOUT_SECONDS / 60),
      wanted: '≤ 1×',
    },
  ];
}

/** Follows the quotes of the first hundred shares as a window does, until it is let go. */
export async function watchHundred(client: Client): Promise<() => void> {
  const { items } = (await client.get('/api/instruments?venue=HALM&kind=share&limit=100')).body as { items: { id: string }[] };
  const { cookie } = client as unknown as { cookie: string };
  const abort = new AbortController();
  const topics = items.map((item) => `quote:${item.id}`).join(',');
  const response = await fetch(`${client.address}/api/stream?topics=${topics}`, { headers: { cookie }, signal: abort.signal });
  void response.body?.pipeTo(new WritableStream()).catch(() => undefined);
  return () => abort.abort();
}

/** A limit buy that rests far from the market. */
const resting = (id: string): object => ({
  clientOrderId: id,
  account: 'MAIN',
  instrument: 'GANET.HALM',
  side: 'buy',
  type: 'limit',
  quantity: '1',
  limitPrice: '37.00',
});

// The client holds answers against their schemas: the time to compile the first is not the server's.
answerProblem('POST', '/api/orders', 201, {});

async function rest(client: Client, id: string): Promise<number> {
  const from = performance.now();
  const reply = await client.post('/api/orders', resting(id));
  if (reply.status !== 201) throw new Error(JSON.stringify(reply.body));
  return performance.now() - from;
}

const FIRST_ORDERS = 1000;

/** Orders one after another, begun 2 s after a start with 100 instruments watched: whether anything holds the server up. */
export async function firstOrders(): Promise<Figure[]> {
  const server = await startServer();
  const started = performance.now();
  const client = await Client.signIn(server.address);
  const letGo = await watchHundred(client);
  await new Promise((done) => setTimeout(done, Math.max(0, 2000 - (performance.now() - started))));
  const machine = watchMachine();
  const calls: { readonly from: number; readonly took: number }[] = [];
  for (let i = 0; i < FIRST_ORDERS; i++) {
    const from = performance.now();
    calls.push({ from, took: await rest(client, `f-${i}`) });
  }
  const stalls = await machine.end();
  letGo();
  await server.stop();
  dropFolder(server.folder);
  const taken = calls.map(({ took }) => took);
  // What the trace shows as the machine's own is not the server's.
  const own = calls.map(({ from, took }) => took - stalledIn(stalls, from, from + took));
  const slow = (of: readonly number[]): number => of.filter((one) => one > 50).length;
  return [
    {
      what: '1,000 orders over HTTP begun 2 s after a start, the slowest, without what the machine took for itself',
      value: ms(Math.max(...own)),
      baseline: `${ms(percentile(taken, 0.5))} median; with it ${ms(Math.max(...taken))}, ${slow(taken)} over 50 ms`,
      ratio: times(Math.max(...own) / percentile(taken, 0.5)),
      wanted: '≤ 50 ms',
    },
  ];
}

/** A start with a long log and many working orders behind it. */
export async function restart(): Promise<Figure[]> {
  const folder = newFolder();
  const first = await startServer({ KAVIX_DATA: folder });
  const before = await Client.signIn(first.address);
  // Each of these leaves four entries: asked, accepted, asked to be cancelled, cancelled. The last 500 go on working.
  for (let round = 0; round < 50; round++) {
    if (round > 0) await before.post('/api/orders/cancel', { account: 'MAIN' });
    for (let i = 0; i < 500; i += 25) await Promise.all(Array.from({ length: 25 }, (_, k) => rest(before, `r-${round}-${i + k}`)));
  }
  await first.stop();
  const from = performance.now();
  const second = await startServer({ KAVIX_DATA: folder });
  const ready = performance.now() - from;
  const client = await Client.signIn(second.address);
  const order = await rest(client, 'after');
  await second.stop();
  const empty = newFolder();
  const fresh = performance.now();
  const third = await startServer({ KAVIX_DATA: empty });
  const bare = performance.now() - fresh;
  await third.stop();
  for (const one of [folder, empty]) dropFolder(one);
  return [
    {
      what: 'start with 100,000 entries and 500 working orders, to ready',
      value: ms(ready),
      baseline: `${ms(bare)} for a new world`,
      ratio: times(ready / bare),
      wanted: '≤ 2000 ms',
    },
    { what: 'the first order after it', value: ms(order), baseline: '60 ms', ratio: times(order / 60), wanted: '≤ 1×' },
  ];
}

export async function memory(minutes: number): Promise<Figure[]> {
  const server = await startServer();
  const client = await Client.signIn(server.address);
  const letGo = await watchHundred(client);
  await new Promise((done) => setTimeout(done, 2000));
  const first = usage(server.process.pid ?? 0).resident;
  for (let i = 0; i < 300; i++) await rest(client, `m-${i}`);
  await new Promise((done) => setTimeout(done, minutes * 60_000));
  const { resident } = usage(server.process.pid ?? 0);
  letGo();
  await server.stop();
  dropFolder(server.folder);
  const mb = (bytes: number): string => `${Math.round(bytes / 2 ** 20)} MB`;
  return [
    {
      what: `resident after 300 orders and ${minutes} min at 1×, 100 watched`,
      value: mb(resident),
      baseline: `${mb(first)} after 2 s`,
      ratio: times(resident / first),
      wanted: '≤ 350 MB (after 10 min)',
    },
  ];
}
