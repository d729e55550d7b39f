import { expect } from 'chai';
import { Client, dropFolder, newFolder, startServer } from '../support/server.ts';

interface Trips {
  readonly items: readonly {
    readonly mae: string;
    readonly mfe: string;
    readonly closedAt: string;
    readonly setup: string | null;
    readonly instrument: string;
  }[];
}
interface Figures {
  readonly all: object;
  readonly curve: readonly object[];
}

describe('a new demo world with a past', () => {
  it('agrees with its broker, is told by review and statements, and is the same after a kill', async function () {
    this.timeout(120_000);
    const folder = newFolder();
    const settings = { KAVIX_DATA: folder, KAVIX_PAST: 'demo', KAVIX_CLOCK: 'manual' };
    let server = await startServer(settings);
    const seen = async (): Promise<unknown> => {
      const client = await Client.signIn(server.address);
      const activity = (await client.get('/api/activity?limit=1000')).body as { items: { kind: string; time: string }[] };
      expect(activity.items.filter(({ kind }) => kind === 'difference' || kind === 'resent' || kind === 'report-unplaced')).to.deep.equal([]);
      const { items } = (await client.get('/api/review/round-trips')).body as Trips;
      expect(items.length).to.be.above(100);
      // Their excursions are of the market of that time, also of the oldest.
      expect(items.filter(({ mae, mfe }) => Number(mae) < 0 && Number(mfe) > 0).length).to.be.above(items.length / 2);
      const accounts = (await client.get('/api/accounts')).body as { items: { id: string; cash: string; wallets: { asset: string; total: string }[] }[] };
      expect(accounts.items.map(({ id, cash, wallets }) => [id, cash, wallets.map(({ asset, total }) => `${asset} ${total}`).join()])).to.deep.equal([
        ['MAIN', '100000.00', ''],
        ['EVAL', '25000.00', ''],
        ['NIGHT', '0.00', 'EUR 20000.00,CARB 0.00000000,CARB 50.00000000'],
      ]);
      const orders = (await client.get('/api/orders?state=working')).body as { items: unknown[] };
      expect(orders.items).to.deep.equal([]);
      const risk = (await client.get('/api/risk/EVAL/state')).body as { netToday: string; blocked: unknown[]; lockedUntil: string | null };
      expect([risk.netToday, risk.blocked, risk.lockedUntil]).to.deep.equal(['0.00', [], null]);
      return [items, await client.get('/api/statements/MAIN?from=2026-02-01&to=2026-03-02').then(({ body }) => body as unknown)];
    };
    const first = await seen();
    const client = await Client.signIn(server.address);
    const { items } = (await client.get('/api/review/round-trips?account=MAIN')).body as Trips;
    expect((await client.get('/api/review/round-trips?account=MAIN&newest=7')).body, 'the newest alone').to.deep.equal({ items: items.slice(-7) });
    const figures = async (more: string): Promise<Figures> => (await client.get(`/api/review/figures?account=MAIN${more}`)).body;
    const [whole, drawn] = [await figures(''), await figures('&points=12')];
    expect([whole.curve.length, drawn.all], 'a curve that is drawn').to.deep.equal([items.length, whole.all]);
    expect(drawn.curve.length).to.be.within(4, 12);
    expect(whole.curve).to.deep.include.members(drawn.curve.slice());
    expect(drawn.curve.at(-1)).to.deep.equal(whole.curve.at(-1));
    const named = (field: 'setup' | 'instrument'): string[] => [...new Set(items.map((one) => one[field] ?? '(none)'))].sort();
    expect((await client.get('/api/review/choices?account=MAIN')).body).to.deep.equal({
      setups: named('setup'),
      instruments: named('instrument'),
      newest: items.at(-1)?.closedAt,
    });
    for (const [path, wrong] of [
      ['round-trips?newest=0', '?newest'],
      ['figures?points=3', '?points'],
      ['choices?account=OTHER', '?account'],
    ] as const) {
      const refused = await client.get(`/api/review/${path}`);
      expect([refused.status, (refused.body as { errors: { path: string }[] }).errors[0]?.path]).to.deep.equal([422, wrong]);
    }
    await server.kill();
    server = await startServer(settings);
    expect(await seen()).to.deep.equal(first);
    await server.stop();
    dropFolder(folder);
  });
});
