import { Client, dropFolder, newFolder, startServer, tapeMarket, writeTape } from '../test/support/server.ts';
import { ms, percentile, times, type Figure } from './table.ts';

const ROWS = 200;
/** Baskets that are sent, each once. */
const SENDS = 9;
const GIVE_UP_MS = 10_000;
const ROUNDS = 20;

/** A basket of 200 rows: checked as a whole, and sent at once; beside one order of it by itself. */
export async function baskets(): Promise<Figure[]> {
  const ids = ['GANET.HALM', 'BRINE.HALM'];
  const folder = newFolder();
  const tape = writeTape([...tapeMarket('GANET.HALM', 41.2), ...tapeMarket('BRINE.HALM', 27.3)].sort());
  const server = await startServer({ KAVIX_MARKET: `tape:${tape}`, KAVIX_DATA: folder });
  const client = await Client.signIn(server.address);
  await client.get(`/api/quotes?instruments=${ids.join(',')}`);
  const row = (i: number): object => ({
    id: `r${i}`,
    account: 'MAIN',
    instrument: ids[i % ids.length],
    side: 'buy',
    type: 'limit',
    quantity: '1',
    limitPrice: i % ids.length === 0 ? '38.00' : '25.00',
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
  await client.post('/api/orders/cancel', { account: 'MAIN' });
  const committed: number[] = [];
  for (let i = 0; i < SENDS; i++) committed.push(await sentAtOnce(client, `bench-${i}`, rows));
  await server.stop();
  dropFolder(folder);
  const one = percentile(single, 0.5);
  return [
    {
      what: 'a basket of 200 rows checked, in the server, median',
      value: ms(percentile(checked, 0.5)),
      baseline: `${ms(one)} one order placed`,
      ratio: times(percentile(checked, 0.5) / one),
      wanted: '≤ 60 ms',
    },
    {
      what: '200 rows sent at once: all intents committed, heard over the stream, median',
      value: `${ms(percentile(committed, 0.5))}, the first ${ms(committed[0] ?? NaN)}`,
      baseline: `${ms(one * ROWS)} one after another`,
      ratio: times(percentile(committed, 0.5) / (one * ROWS)),
      wanted: '≤ 40 ms',
    },
  ];
}

/** Milliseconds until each row of a new basket has its order in the log, as whoever follows the orders hears it. */
async function sentAtOnce(client: Client, name: string, rows: readonly object[]): Promise<number> {
  await client.post('/api/baskets', { name, rows });
  const closing = new AbortController();
  const { body } = await fetch(`${client.address}/api/stream?topics=orders`, { headers: client.credentials, signal: closing.signal });
  if (!body) throw new Error('no stream');
  const orders = new Set<string>();
  let [open, committed] = [false, 0];
  const heard = (async () => {
    const decoder = new TextDecoder();
    let text = '';
    const reader = body.getReader();
    for (let next = await reader.read(); !next.done; next = await reader.read()) {
      text += decoder.decode(next.value, { stream: true });
      const frames = text.split('\n\n');
      text = frames.pop() ?? '';
      for (const frame of frames) {
        const [, event = '', data = ''] = /event: (\w+)\ndata: (.*)/.exec(frame) ?? [];
        if (event === 'snapshot') open = true;
        if (event !== 'change') continue;
        const { state, id } = (JSON.parse(data) as { data: { state: string; id: string } }).data;
        if (state === 'pending-new') orders.add(id);
      }
      if (orders.size >= rows.length && committed === 0) committed = performance.now();
    }
  })().catch(() => undefined);
  while (!open) await new Promise((resolve) => setTimeout(resolve, 5));
  const from = performance.now();
  await client.post(`/api/baskets/${name}/send`, { percent: '100', pace: 'at-once', clientRunId: name });
  while (committed === 0) {
    if (performance.now() - from > GIVE_UP_MS) throw new Error(`${name} was not sent whole`);
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  closing.abort();
  await heard;
  await client.post('/api/orders/cancel', { account: 'MAIN' });
  return committed - from;
}
