import { expect } from 'chai';
import { Client, dropFolder, startServer, writeTape, type Server } from '../support/server.ts';

const day = '2026-03-02T';
const TAPE = [
  `${day}09:00:00.000Z,GANET.HALM,state,,,,open`,
  `${day}09:00:00.000Z,GANET.HALM,level,bid,41.00,500,`,
  `${day}09:00:00.000Z,GANET.HALM,level,ask,41.02,500,`,
  `${day}09:00:10.000Z,GANET.HALM,trade,buy,41.02,100,`,
  `${day}09:01:10.000Z,GANET.HALM,trade,buy,41.05,200,`,
  `${day}09:01:20.000Z,,news,,,,Before`,
  `${day}09:01:40.000Z,GANET.HALM,trade,sell,40.90,300,`,
  `${day}09:01:40.000Z,GANET.HALM,level,bid,40.90,700,`,
  `${day}09:01:41.000Z,,news,,,,After`,
  `${day}09:06:00.000Z,GANET.HALM,trade,sell,40.80,400,`,
];

describe('prices that are cut off', function () {
  this.timeout(30_000);
  let server: Server;
  let api: Client;
  let settings: Record<string, string>;

  before(async () => {
    settings = { KAVIX_MARKET: `tape:${writeTape(TAPE)}`, KAVIX_CLOCK: 'manual' };
    server = await startServer(settings);
    api = await Client.signIn(server.address);
  });
  after(async () => {
    await server.stop();
    dropFolder(server.folder);
  });

  /** All that can be asked of the market. */
  const seen = async (): Promise<object> => {
    const paths = [
      '/api/quotes?instruments=GANET.HALM',
      '/api/depth/GANET.HALM',
      '/api/trades/GANET.HALM',
      '/api/news',
      ...['1m', '5m', '1d', '1w'].map((interval) => `/api/bars/GANET.HALM?interval=${interval}`),
    ];
    return Object.fromEntries(await Promise.all(paths.map(async (path): Promise<[string, unknown]> => [path, (await api.get(path)).body])));
  };

  it('stand still for all who ask, while the market’s time and the orders at the venue go on', async () => {
    await api.to('09:01:30.000');
    const order = { clientOrderId: 'goes-on', account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', quantity: '10', limitPrice: '40.95' };
    expect((await api.post('/api/orders', order)).status).to.equal(201);
    const before = await seen();
    expect((await api.post('/api/link', { data: 'down' })).status).to.equal(200);
    expect(await seen()).to.deep.equal(before);
    await api.to('09:06:30.000');
    expect(await seen()).to.deep.equal(before);
    expect((await api.get('/api/clock')).body).to.include({ time: `${day}09:06:30.000Z` });
    const { items } = (await api.get('/api/fills')).body as { items: { price: string; quantity: string }[] };
    expect(items.map(({ price, quantity }) => [price, quantity])).to.deep.equal([['40.95', '10']]);
  });

  it('stay cut off over a restart, and are all there when they are back', async () => {
    await server.stop();
    server = await startServer({ ...settings, KAVIX_DATA: server.folder });
    api = await Client.signIn(server.address);
    expect(((await api.get('/api/trades/GANET.HALM')).body as { items: unknown[] }).items).to.have.length(2);
    expect((await api.get('/api/link')).body).to.include({ data: 'down', dataSince: `${day}09:01:30.000Z` });
    expect((await api.post('/api/link', { data: 'up' })).status).to.equal(200);
    const now = (await seen()) as Record<string, { items: Record<string, unknown>[] }>;
    expect(now['/api/quotes?instruments=GANET.HALM']?.items[0]).to.include({ last: '40.80', low: '40.80', volume: '1000' });
    expect(now['/api/trades/GANET.HALM']?.items).to.have.length(4);
    expect(now['/api/news']?.items.map(({ text }) => text)).to.deep.equal(['Before', 'After']);
    expect(now['/api/bars/GANET.HALM?interval=5m']?.items.map(({ close, volume }) => [close, volume])).to.deep.equal([
      ['40.90', '600'],
      ['40.80', '400'],
    ]);
  });
});
