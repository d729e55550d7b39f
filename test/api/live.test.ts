import { expect } from 'chai';
import { Heard } from '../support/heard.ts';
import { Client, dropFolder, startServer, type Server } from '../support/server.ts';

const FIXED = [
  'GANET.HALM',
  'KELPA.HALM',
  'BRINE.HALM',
  'HALMF.HALM',
  'GANET.QUAY',
  'HALM40.HALM',
  'HALM40-JUN26.HALM',
  'HALM40M-JUN26.HALM',
  'SALMO-JUN26.HALM',
  'GANET-APR26-40C.HALM',
  'CARB-EUR.VSPR',
  'CARBI.VSPR',
];
/** Those that trade within seconds of an open. */
const BUSY = FIXED.slice(0, 4);

interface Items<T> {
  readonly items: readonly T[];
}

/** A market that runs by itself, as a trader has it: nothing here stands still for the test. */
describe('a live market', function () {
  this.timeout(60_000);
  let server: Server;
  let api: Client;
  const heard = new Heard();

  before(async () => {
    server = await startServer();
    api = await Client.signIn(server.address);
  });
  after(async () => {
    heard.close();
    await server.stop();
    dropFolder(server.folder);
  });

  const until = async (what: string, holds: () => boolean | Promise<boolean>): Promise<void> => {
    for (const from = Date.now(); Date.now() - from < 20_000; await new Promise((resolve) => setTimeout(resolve, 50))) if (await holds()) return;
    throw new Error(`never: ${what}`);
  };
  const got = async <T>(path: string): Promise<T> => (await api.get(path)).body;
  const made = async (path: string, body: object): Promise<void> => {
    const reply = await api.post(path, body);
    expect(reply.status, JSON.stringify(reply.body)).to.be.within(200, 201);
  };
  const last = async (id: string): Promise<number> => Number((await got<Items<{ last: string }>>(`/api/quotes?instruments=${id}`)).items[0]?.last);
  const lacking = (of: Map<string, unknown[]>, topics: readonly string[]): string[] => topics.filter((topic) => !of.has(topic));

  it('tells whatever a window begins to follow, also what is wanted bit by bit', async () => {
    const quotes = FIXED.map((id) => `quote:${id}`);
    // First what is awake already, then all the rest, as a workspace opens.
    await heard.follow(api, ['clock', 'orders']);
    await until('a stream', () => heard.streamId !== '');
    const more = ['depth:GANET.HALM', 'trades:BRINE.HALM', 'bars:KELPA.HALM:1m', 'news'];
    for (const topics of [
      ['clock', 'quote:GANET.HALM'],
      ['clock', ...quotes],
      ['clock', 'orders', ...quotes, ...more],
    ])
      expect((await api.call('PUT', `/api/stream/${heard.streamId}/topics`, { topics })).status).to.equal(200);
    await until('all snapshots', () => lacking(heard.snapshots, [...quotes, ...more]).length === 0).catch(() => undefined);
    expect(lacking(heard.snapshots, [...quotes, ...more])).to.deep.equal([]);
    const moving = [...BUSY.map((id) => `quote:${id}`), 'depth:GANET.HALM', 'trades:BRINE.HALM', 'bars:KELPA.HALM:1m', 'clock'];
    await until('changes', () => lacking(heard.changes, moving).length === 0).catch(() => undefined);
    expect(lacking(heard.changes, moving)).to.deep.equal([]);
  });

  it('goes on being told after it was advanced, and after its prices were cut off', async () => {
    const since = (): void => {
      heard.changes.clear();
      heard.snapshots.clear();
    };
    const moves = (): Promise<void> =>
      until(
        'changes of the busy ones',
        () =>
          lacking(
            heard.changes,
            BUSY.map((id) => `quote:${id}`),
          ).length === 0,
      );
    await made('/api/clock', { advanceTo: '2026-03-02T09:20:00.000Z' });
    since();
    await moves();
    await made('/api/link', { data: 'down' });
    await new Promise((resolve) => setTimeout(resolve, 300));
    since();
    await new Promise((resolve) => setTimeout(resolve, 700));
    expect([...heard.changes.keys()].filter((topic) => topic.startsWith('quote:'))).to.deep.equal([]);
    await made('/api/link', { data: 'up' });
    await moves();
  });

  it('fills, exits what is held here, fires alerts and keeps a scan while nobody moves its clock', async () => {
    await api.call('PUT', '/api/consents/held-here', { given: true });
    await made('/api/clock', { speed: 20 });
    const step = { share: '100', stop: { by: 'ticks', value: '3', order: 'market' }, target: { by: 'ticks', value: '3', order: 'market' } };
    const exitPlan = { name: 'near', heldBy: 'here', onSizeChange: 'follow', onMissedLevel: 'fire', steps: [step] };
    await made('/api/orders', { clientOrderId: 'live-1', account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'market', quantity: '10', exitPlan });
    const price = await last('BRINE.HALM');
    await made('/api/alerts', { kind: 'price', instrument: 'BRINE.HALM', price: price.toFixed(2), direction: 'either', fires: 'every', sound: null });
    await made('/api/scans', { name: 'kept', universe: { instruments: BUSY }, lines: [{ phrase: 'last > 0', on: true }], keep: true });
    await until('the exit', async () => {
      const { items } = await got<Items<{ instrument: string; quantity: string }>>('/api/positions');
      return items.some(({ instrument, quantity }) => instrument === 'GANET.HALM' && quantity === '0');
    });
    // The plan ends in the commit after its fill's.
    await until('the end of its plan', async () => (await got<Items<{ state: string }>>('/api/running-plans')).items.every(({ state }) => state === 'done'));
    expect((await got<Items<object>>('/api/running-plans')).items).to.have.length(1);
    await until('the alert', async () => (await got<Items<{ firings: unknown[] }>>('/api/alerts')).items.some(({ firings }) => firings.length > 0));
    await until('the scan', async () => (await got<Items<{ count: number }>>('/api/scans/kept/results')).items.some(({ count }) => count === BUSY.length));
  });
});
