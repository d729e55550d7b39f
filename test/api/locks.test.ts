import { copyFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { NO_RULES, rulesText } from '../../src/core/risk/index.ts';
import { Client, dropFolder, newFolder, startServer, writeTape, type Server } from '../support/server.ts';

const G = 'GANET.HALM';
const START = Date.parse('2026-03-02T09:00:00.000Z');
const UNTIL = '2026-03-20T09:00:00.000Z';
const row = (event: string, side: string, price: string): string => `${new Date(START).toISOString()},${G},${event},${side},${price},100000,`;
const TAPE = writeTape([row('level', 'bid', '41.00'), row('level', 'ask', '41.02'), row('trade', 'buy', '41.02')]);
const NONE = rulesText(NO_RULES);
const STRICT = { ...NONE, dayLossLimit: '300.00', onDayLoss: 'close-out', maxOrderQuantity: '100', openRisk: 'warn' };

type Rules = Readonly<Record<string, unknown>> & { readonly version: number };

describe('a lock under attack', function () {
  this.timeout(180_000);
  let server: Server;
  let api: Client;
  const folder = newFolder();
  const settings = { KAVIX_MARKET: `tape:${TAPE}`, KAVIX_CLOCK: 'manual', KAVIX_DATA: folder };
  const begin = async (more: Record<string, string> = {}): Promise<void> => {
    server = await startServer({ ...settings, ...more });
    api = await Client.signIn(server.address);
  };
  const again = async (more: Record<string, string> = {}, between: () => void = () => undefined): Promise<void> => {
    await server.kill();
    between();
    await begin(more);
  };
  const rules = async (): Promise<Rules> => (await api.get('/api/risk/MAIN')).body;
  const order = (id: string, quantity: string) => ({
    clientOrderId: id,
    account: 'MAIN',
    instrument: G,
    side: 'buy',
    type: 'limit',
    quantity,
    limitPrice: '40.00',
  });
  let tries = 0;
  /** Whether the rules are as they were locked, can't be loosened, and are kept. */
  const stands = async (after: string): Promise<void> => {
    const { version, ...now } = await rules();
    expect(now, after).to.deep.equal(STRICT);
    expect(((await api.get('/api/risk/MAIN/state')).body as { lockedUntil: string }).lockedUntil, after).to.equal(UNTIL);
    const looser = await api.call('PUT', '/api/risk/MAIN', { ...STRICT, dayLossLimit: '301.00', version });
    expect([looser.status, (looser.body as { rule: string }).rule], after).to.deep.equal([423, 'dayLossLimit']);
    const large = await api.post('/api/orders', order(`a-${tries++}`, '101'));
    expect([large.status, (large.body as { rule: string }).rule], after).to.deep.equal([422, 'maxOrderQuantity']);
  };

  before(async () => {
    await begin();
    await api.post('/api/clock', { advanceBy: 1000 });
    const { version } = await rules();
    expect((await api.call('PUT', '/api/risk/MAIN', { ...STRICT, version })).status).to.equal(200);
    expect((await api.post('/api/risk/MAIN/lock', { until: UNTIL })).status).to.equal(201);
  });
  after(async () => {
    await server.stop();
    dropFolder(folder);
  });

  it('holds against every looser set of rules, by any session or token', async () => {
    const other = await Client.signIn(server.address);
    const { token } = (await api.post('/api/tokens', { name: 'script' })).body as { token: string };
    const { version } = await rules();
    const looser: object[] = [
      NONE,
      { ...STRICT, dayLossLimit: null, onDayLoss: null },
      { ...STRICT, onDayLoss: 'block' },
      { ...STRICT, maxOrderQuantity: '100.5' },
      { ...STRICT, maxOrderQuantity: null },
      { ...STRICT, openRisk: null },
      // One locked rule loosened among others that are tightened: refused whole.
      { ...STRICT, dayLossLimit: '100.00', maxOrderQuantity: '1000', coolDownMinutes: 10 },
    ];
    for (const set of looser) {
      expect((await api.call('PUT', '/api/risk/MAIN', { ...set, version })).status, JSON.stringify(set)).to.equal(423);
      expect((await other.call('PUT', '/api/risk/MAIN', { ...set, version })).status).to.equal(423);
      const scripted = await fetch(`${server.address}/api/risk/MAIN`, {
        method: 'PUT',
        headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
        body: JSON.stringify({ ...set, version }),
      });
      expect(scripted.status).to.equal(423);
    }
    await stands('looser sets');
  });

  it('can’t be shortened, deleted, or made again for another time or for fewer rules', async () => {
    for (const until of ['2026-03-02T09:00:02.000Z', '2026-03-10T09:00:00.000Z', '2020-01-01T00:00:00.000Z'])
      expect((await api.post('/api/risk/MAIN/lock', { until })).status, until).to.be.oneOf([422, 423]);
    expect((await api.post('/api/risk/MAIN/lock', { until: '2026-03-10T09:00:00.000Z', rules: ['dayLossLimit'] })).status).to.equal(423);
    for (const method of ['DELETE', 'PATCH', 'PUT']) expect((await api.call(method, '/api/risk/MAIN/lock', {})).status, method).to.equal(405);
    await stands('shorter locks');
  });

  it('is not another user’s to touch', async () => {
    const second = await Client.signIn(server.address, 'second', 'kavix-second');
    const { version } = await rules();
    expect((await second.call('PUT', '/api/risk/MAIN', { ...NONE, version })).status).to.equal(404);
    expect((await second.post('/api/risk/MAIN/lock', { until: '2026-03-03T00:00:00.000Z' })).status).to.equal(404);
    await stands('another user');
  });

  it('is in nothing that can be saved, imported or restored', async () => {
    const imports: readonly (readonly [method: string, path: string, body: object])[] = [
      ['PUT', '/api/settings', { dayLossLimit: '9000.00' }],
      ['PUT', '/api/settings', { risk: { MAIN: NONE } }],
      ['PUT', '/api/workspaces/attack', { risk: NONE }],
      ['PUT', '/api/bindings', { items: [], version: 0, risk: NONE }],
      ['POST', '/api/orders', { ...order('in-order', '1'), rules: NONE }],
    ];
    for (const [method, path, body] of imports) expect((await api.call(method, path, body)).status, path).to.be.oneOf([409, 422, 428]);
    // A template may be as loose as can be, and under any name: it is set nowhere by being kept.
    for (const name of ['MAIN', 'calm']) expect((await api.call('PUT', `/api/rule-templates/${name}`, NONE)).status).to.equal(201);
    await stands('imports and templates');
  });

  it('is measured on the market’s clock, which never goes back', async () => {
    expect((await api.post('/api/clock', { advanceTo: '2026-03-01T00:00:00.000Z' })).status).to.equal(422);
    expect((await api.post('/api/clock', { advanceBy: -86_400_000 })).status).to.equal(422);
    await stands('a clock set back');
  });

  it('holds over a restart in another time zone, and on a machine whose clock is years off', async () => {
    await again({ TZ: 'Pacific/Kiritimati' });
    await stands('another time zone');
    const late = join(folder, 'late.mjs');
    writeFileSync(late, `const now = Date.now; Date.now = () => now() + 3 * 365 * 86_400_000;\n`);
    await again({ NODE_OPTIONS: `--import=file://${late}` });
    await stands('a machine three years late');
    await again();
    await stands('the machine’s clock back again');
  });

  it('holds where the desk’s database is yesterday’s copy, or gone', async () => {
    const kept = newFolder();
    const isDesk = (file: string): boolean => file.includes('sqlite') && !file.includes('venue');
    const desk = (): string[] => readdirSync(folder).filter(isDesk);
    await server.kill();
    for (const file of desk()) copyFileSync(join(folder, file), join(kept, file));
    await begin();
    const replaced = (): void => {
      for (const file of desk()) rmSync(join(folder, file));
      for (const file of readdirSync(kept)) copyFileSync(join(kept, file), join(folder, file));
    };
    await again({}, replaced);
    await stands('a copy');
    await again({}, () => desk().forEach((file) => rmSync(join(folder, file))));
    await stands('no database');
    dropFolder(kept);
  });

  it('and all the while a position can be closed, tightened rules are taken, and a longer lock', async () => {
    const { version } = await rules();
    expect((await api.post('/api/orders', { ...order('hold', '100'), type: 'market', limitPrice: undefined })).status).to.equal(201);
    expect((await api.post('/api/positions/MAIN/GANET.HALM/close', {})).status).to.equal(201);
    expect((await api.call('PUT', '/api/risk/MAIN', { ...STRICT, dayLossLimit: '200.00', version })).status).to.equal(200);
    expect((await api.post('/api/risk/MAIN/lock', { until: '2026-03-21T09:00:00.000Z' })).status).to.be.oneOf([200, 201]);
  });
});
