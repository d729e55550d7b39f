import { Client, dropFolder, startServer } from '../test/support/server.ts';
import { STUDIED } from './finding.ts';
import { busyTape, usage, watchHundred } from './server.ts';
import { ms, percentile, times, type Figure } from './table.ts';

const LINES = STUDIED.map((phrase) => ({ phrase, on: true }));
const BODY = { universe: {}, join: 'all', lines: LINES };

const SETTLED_MS = 10_000;

async function timedScan(client: Client, run: string): Promise<number> {
  const from = performance.now();
  const reply = await client.post(`/api/scan?progress=${run}`, BODY);
  if (reply.status !== 200) throw new Error(JSON.stringify(reply.body));
  return performance.now() - from;
}

/** A scan of the whole demo market over HTTP: the first time its history is made, with progress; then it is there. */
async function firstScan(): Promise<Figure[]> {
  const server = await startServer();
  const client = await Client.signIn(server.address);
  // What the server looks through by itself after its start is not the scan's.
  await new Promise((after) => setTimeout(after, SETTLED_MS));
  let told = 0;
  let done = false;
  const watch = (async (): Promise<void> => {
    for (; !done; await new Promise((after) => setTimeout(after, 50))) if ((await client.get('/api/scan-progress/first')).status === 200) told++;
  })();
  const first = await timedScan(client, 'first');
  done = true;
  await watch;
  const warm = Math.min(await timedScan(client, 'second'), await timedScan(client, 'third'));
  await server.stop();
  dropFolder(server.folder);
  return [
    {
      what: 'the demo’s market × 10 lines over HTTP, first time, history made',
      value: ms(first),
      baseline: `${ms(warm)} with it, progress seen ${told} times`,
      ratio: times(first / warm),
      wanted: '≤ 4,000 ms',
    },
  ];
}

const SECONDS = 5;
const ORDERS = 100;
const TURNS = 12;
const FIRST_RUN_MS = 2500;

interface Stretch {
  readonly core: number;
  readonly order: number;
}

/** How much of a core the server takes, and how long an order, over some seconds. */
async function stretch(client: Client, pid: number, name: string): Promise<Stretch> {
  const from = performance.now();
  const before = usage(pid);
  const taken: number[] = [];
  for (let i = 0; i < ORDERS; i++) {
    const order = { clientOrderId: `${name}-${i}`, account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', quantity: '1', limitPrice: '40.00' };
    const reply = await client.post('/api/orders', order);
    taken.push(Number(/dur=([\d.]+)/.exec(reply.headers.get('server-timing') ?? '')?.[1]));
    await new Promise((after) => setTimeout(after, Math.max(0, from + ((i + 1) * SECONDS * 1000) / ORDERS - performance.now())));
  }
  return { core: ((usage(pid).seconds - before.seconds) / ((performance.now() - from) / 1000)) * 100, order: percentile(taken, 0.5) };
}

/**
 * What a scan that is kept running costs, over the demo's market beside a hundred instruments that are watched or on a
 * tape with 2,000 quotes a second, and what it does to orders: short stretches turn about, of which the middle ones count, for other load comes and goes.
 */
async function keptScan(market: 'demo' | 'tape'): Promise<Figure[]> {
  const onTape = market === 'tape';
  const server = await startServer(onTape ? { KAVIX_MARKET: `tape:${busyTape((TURNS + 3) * (SECONDS + 4))}` } : {});
  const client = await Client.signIn(server.address);
  const leave = onTape ? () => undefined : await watchHundred(client);
  const pid = server.process.pid ?? 0;
  const scan = { name: 'kept', notes: '', ...BODY, keep: false, schedule: null };
  if ((await client.post('/api/scans', scan)).status !== 201) throw new Error('the scan was not saved');
  await stretch(client, pid, 'warm');
  const without: Stretch[] = [];
  const beside: Stretch[] = [];
  for (let turn = 0; turn < TURNS; turn++) {
    const keep = turn % 2 === 1;
    const { name, ...rest } = scan;
    const { version } = (await client.get(`/api/scans/${name}`)).body as { version: number };
    if ((await client.call('PUT', `/api/scans/${name}`, { ...rest, keep, version })).status !== 200) throw new Error('the scan was not changed');
    // Its first run looks through everything; what is kept running is what comes after it.
    await new Promise((after) => setTimeout(after, FIRST_RUN_MS));
    (keep ? beside : without).push(await stretch(client, pid, `turn-${turn}`));
  }
  const runs = ((await client.get('/api/scans/kept/results')).body as { items: object[] }).items.length;
  leave();
  await server.stop();
  dropFolder(server.folder);
  const middle = (of: readonly Stretch[], what: keyof Stretch): number =>
    percentile(
      of.map((one) => one[what]),
      0.5,
    );
  const [core, bare] = [middle(beside, 'core'), middle(without, 'core')];
  const [order, alone] = [middle(beside, 'order'), middle(without, 'order')];
  return [
    {
      what: onTape
        ? '10 lines kept running on a tape with 2,000 quotes a second, of one core'
        : 'the demo’s market × 10 lines kept running, 100 instruments watched, of one core',
      value: `${(core - bare).toFixed(1)} %`,
      baseline: `${bare.toFixed(1)} % without it, ${runs} results`,
      ratio: times(core / bare),
      wanted: '≤ 8 %',
    },
    { what: 'order to 201 beside it, median', value: ms(order), baseline: `${ms(alone)} without it`, ratio: times(order / alone), wanted: '≤ 1.1×' },
  ];
}

/** Scans as a server runs them. */
export const scans = async (): Promise<Figure[]> => [...(await firstScan()), ...(await keptScan('demo')), ...(await keptScan('tape'))];
