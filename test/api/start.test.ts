import { expect } from 'chai';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Client, dropFolder, newFolder, startServer, writeTape } from '../support/server.ts';

describe('the start', function () {
  this.timeout(60_000);

  const failing = async (settings: Record<string, string>): Promise<{ code: number | null; output: string }> => {
    const server = await startServer(settings);
    const code = server.process.exitCode;
    if (code === null) await server.stop();
    return { code, output: server.output() };
  };

  it('says who uses the port, and ends with 1', async () => {
    const first = await startServer();
    const second = await failing({ PORT: String(first.port) });
    expect(second.code).to.equal(1);
    expect(second.output).to.match(/^Port \d+ on 127.0.0.1 is in use\. .*PORT\.\n$/);
    await first.stop();
    dropFolder(first.folder);
  });

  it('refuses a folder that another server uses', async () => {
    const first = await startServer();
    expect(Number(readFileSync(join(first.folder, 'kavix.pid'), 'utf8'))).to.equal(first.process.pid);
    const second = await failing({ KAVIX_DATA: first.folder });
    expect([second.code, /Another Kavix \(process \d+\) uses/.test(second.output)]).to.deep.equal([1, true]);
    expect(await first.stop()).to.equal(0);
    expect(existsSync(join(first.folder, 'kavix.pid'))).to.equal(false);
    dropFolder(first.folder);
  });

  it('refuses a folder that can’t be written', async () => {
    const folder = newFolder();
    writeFileSync(join(folder, 'file'), 'x');
    const found = await failing({ KAVIX_DATA: join(folder, 'file') });
    expect([found.code, found.output.includes("can't be written")]).to.deep.equal([1, true]);
    dropFolder(folder);
  });

  it('records its market in a new file, which is a tape to start with, and never over a file that is there', async () => {
    const folder = newFolder();
    mkdirSync(folder, { recursive: true });
    const tape = join(folder, 'recorded.csv');
    const live = await startServer({ KAVIX_CLOCK: 'manual', KAVIX_RECORD: tape });
    const there = await Client.signIn(live.address);
    const timeOf = async (of: Client): Promise<string> => ((await of.get('/api/clock')).body as { time: string }).time;
    await there.post('/api/clock', { advanceBy: 10 * 60_000 });
    const begun = await timeOf(there);
    const { bid } = (await there.get('/api/quotes?instruments=GANET.HALM')).body['items'][0] as { bid: string };
    const orders = async (of: Client): Promise<void> => {
      const order = (clientOrderId: string, more: object) => ({
        clientOrderId,
        account: 'MAIN',
        instrument: 'GANET.HALM',
        side: 'buy',
        quantity: '300',
        ...more,
      });
      for (const one of [order('now', { type: 'market' }), order('rests', { type: 'limit', limitPrice: bid })])
        expect((await of.post('/api/orders', one)).status).to.equal(201);
    };
    const fills = async (of: Client): Promise<unknown> =>
      ((await of.get('/api/fills')).body['items'] as Record<string, unknown>[]).map(({ clientOrderId, time, price, quantity }) => ({
        clientOrderId,
        time,
        price,
        quantity,
      }));
    await orders(there);
    await there.post('/api/clock', { advanceBy: 5 * 60_000 });
    const time = await timeOf(there);
    const filled = await fills(there);
    expect(JSON.stringify(filled)).to.contain('"now"').and.contain('"rests"');
    const quote = async (of: Client): Promise<unknown> => {
      const { bid, ask, bidQuantity, askQuantity, state } = (await of.get('/api/quotes?instruments=GANET.HALM')).body['items'][0] as Record<string, unknown>;
      return { bid, ask, bidQuantity, askQuantity, state };
    };
    const shown = await quote(there);
    expect(await live.stop()).to.equal(0);
    const replayed = await startServer({ KAVIX_CLOCK: 'manual', KAVIX_MARKET: `tape:${tape}` });
    const again = await Client.signIn(replayed.address);
    await again.post('/api/clock', { advanceTo: begun });
    await orders(again);
    expect((await again.post('/api/clock', { advanceTo: time })).status).to.equal(200);
    expect(await fills(again)).to.deep.equal(filled);
    expect(await quote(again)).to.deep.equal(shown);
    await replayed.stop();
    const found = await failing({ KAVIX_RECORD: tape, KAVIX_CLOCK: 'manual' });
    expect([found.code, found.output.includes('is there already; a recording needs a new file')]).to.deep.equal([1, true]);
    for (const one of [folder, live.folder, replayed.folder]) dropFolder(one);
  });

  for (const file of ['desk.sqlite', 'venue.sqlite'])
    it(`leaves a damaged ${file} as it is`, async () => {
      const folder = newFolder();
      mkdirSync(folder, { recursive: true });
      const rubbish = 'this is no database, though it was one once'.repeat(200);
      writeFileSync(join(folder, file), rubbish);
      const found = await failing({ KAVIX_DATA: folder });
      expect([found.code, found.output.includes('is damaged')]).to.deep.equal([1, true]);
      expect(readFileSync(join(folder, file), 'utf8')).to.equal(rubbish);
      dropFolder(folder);
    });

  for (const [name, settings, words] of [
    ['a port', { PORT: 'many' }, 'PORT must be a whole number'],
    ['a clock', { KAVIX_CLOCK: 'sundial' }, 'KAVIX_CLOCK must be live or manual'],
    ['a market', { KAVIX_MARKET: 'fish' }, 'KAVIX_MARKET must be demo or tape:'],
    ['a tape', { KAVIX_MARKET: 'tape:/nowhere.csv' }, "can't be read"],
    ['a row of a tape', { KAVIX_MARKET: `tape:${writeTape(['2026-03-02T09:00:00.000Z,GANET.HALM,trade,buy,41.205,5,'])}` }, 'line 2, column 5'],
  ] as [string, Record<string, string>, string][])
    it(`names ${name} that can’t be used`, async () => {
      const found = await failing(settings);
      expect([found.code, found.output.includes(words)], found.output).to.deep.equal([1, true]);
    });
});
