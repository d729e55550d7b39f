import { expect } from 'chai';
import { Client, dropFolder, newFolder, startServer, type Server } from '../support/server.ts';

interface Issue {
  readonly id: string;
  readonly low: string;
  readonly high: string;
  readonly lot: number;
  readonly mostLots: number;
  readonly state: string;
  readonly closesAt: string;
  readonly allottedAt: string;
  readonly listsOn: string;
  readonly price: string | null;
}
interface Application {
  readonly id: string;
  readonly lots: number;
  readonly price: string;
  readonly amount: string;
  readonly state: string;
  readonly allottedLots: number | null;
  readonly issuePrice: string | null;
}
interface Account {
  readonly cash: string;
  readonly equity: string;
  readonly buyingPower: string;
  readonly holdings: readonly { readonly instrument: string; readonly quantity: string; readonly unsettled: readonly { readonly settlesOn: string }[] }[];
}
interface Statement {
  readonly days: readonly {
    readonly opening: string;
    readonly closing: string;
    readonly movements: readonly { readonly kind: string; readonly amount: string }[];
  }[];
}

const cents = (text: string): number => Math.round(Number(text) * 100);

describe('new issues', function () {
  this.timeout(180_000);
  let folder: string;
  let server: Server;
  let api: Client;

  const begin = async (): Promise<void> => {
    server = await startServer({ KAVIX_DATA: folder, KAVIX_CLOCK: 'manual' });
    api = await Client.signIn(server.address);
  };
  const got = async <T>(path: string): Promise<T> => (await api.get(path)).body;
  const main = (): Promise<Account> => got<Account>('/api/accounts/MAIN');
  const issues = async (): Promise<readonly Issue[]> => (await got<{ items: Issue[] }>('/api/new-issues')).items;
  const first = async (): Promise<Issue> => (await issues())[0] as Issue;
  const apply = (fields: object) => api.post('/api/applications', { account: 'MAIN', clientRequestId: 'once', ...fields });
  const mine = async (id: string): Promise<Application> =>
    (await got<{ items: Application[] }>('/api/applications?account=MAIN')).items.find((one) => one.id === id) as Application;

  beforeEach(async () => {
    folder = newFolder();
    await begin();
  });
  afterEach(async () => {
    await server.stop();
    dropFolder(folder);
  });

  it('are offered in a range until a day, tie up cash, and come free again when taken back', async () => {
    const issue = await first();
    expect([issue.state, issue.price]).to.deep.equal(['open', null]);
    const before = await main();
    const reply = await apply({ issue: issue.id, lots: 3, price: issue.high });
    expect(reply.status).to.equal(201);
    const { id, amount } = reply.body as Application;
    expect(cents(amount)).to.equal(3 * issue.lot * cents(issue.high));
    const tied = await main();
    expect([tied.cash, tied.buyingPower].map(cents)).to.deep.equal([before.cash, before.buyingPower].map((text) => cents(text) - cents(amount)));
    expect(tied.equity, 'what is tied up is still owned').to.equal(before.equity);

    expect((await apply({ issue: issue.id, lots: 3, price: issue.high })).status, 'the same once more').to.equal(200);
    expect((await apply({ issue: issue.id, lots: 4, price: issue.high })).status).to.equal(409);
    expect((await apply({ clientRequestId: 'two', issue: issue.id, lots: 1, price: issue.high })).status, 'one for each issue').to.equal(409);

    const changed = await api.call('PATCH', `/api/applications/${id}`, { lots: 5, price: issue.low });
    expect(cents((changed.body as Application).amount)).to.equal(5 * issue.lot * cents(issue.low));
    expect(cents((await main()).cash)).to.equal(cents(before.cash) - 5 * issue.lot * cents(issue.low));
    expect((await apply({ issue: issue.id, lots: 3, price: issue.high })).status, 'the first asking once more').to.equal(200);
    expect((await apply({ issue: issue.id, lots: 5, price: issue.low })).status, 'what it became is not what was asked').to.equal(409);

    expect(((await api.call('DELETE', `/api/applications/${id}`)).body as Application).state).to.equal('canceled');
    expect((await api.call('DELETE', `/api/applications/${id}`)).status, 'again is the same').to.equal(200);
    expect((await main()).cash).to.equal(before.cash);
    expect((await api.call('PATCH', `/api/applications/${id}`, { lots: 1 })).status).to.equal(409);
  });

  it('say what is wrong with an application, and keep nothing of it', async () => {
    const issue = await first();
    const before = await main();
    const wrong = async (fields: object): Promise<[number, string]> => {
      const { status, body } = await apply({ issue: issue.id, lots: 1, price: issue.high, ...fields });
      return [status, (body as { errors?: { path: string }[] }).errors?.[0]?.path ?? ''];
    };
    expect(await wrong({ issue: 'GANET.HALM' })).to.deep.equal([422, '/issue']);
    expect(await wrong({ lots: issue.mostLots + 1 })).to.deep.equal([422, '/lots']);
    expect(await wrong({ lots: 0 })).to.deep.equal([422, '/lots']);
    expect(await wrong({ price: '0.01' })).to.deep.equal([422, '/price']);
    expect(await wrong({ price: `${issue.low}1` })).to.deep.equal([422, '/price']);
    expect(await wrong({ account: 'EVAL' })).to.deep.equal([422, '/account']);
    expect(await wrong({ account: 'OTHER' })).to.deep.equal([422, '/account']);
    expect(await wrong({ more: 1 })).to.deep.equal([422, '/more']);
    expect((await api.call('DELETE', '/api/applications/MAIN-n99')).status).to.equal(404);
    expect(await main()).to.deep.equal(before);
  });

  it('get a share by lot at the issue price, which settles when the instrument is listed; a kill changes nothing', async () => {
    const issue = await first();
    const { id } = (await apply({ issue: issue.id, lots: issue.mostLots, price: issue.high })).body as Application;
    const low = (await api.post('/api/orders', { clientOrderId: 'early', account: 'MAIN', instrument: issue.id, side: 'buy', type: 'market', quantity: '1' }))
      .body as { errors: { path: string; message: string }[] };
    expect(low.errors[0]?.message).to.contain(`listed from ${issue.listsOn}`);
    await server.kill();
    await begin();
    expect((await mine(id)).state).to.equal('requested');
    await api.to(issue.closesAt);
    expect((await api.call('DELETE', `/api/applications/${id}`)).status, 'too late').to.equal(409);
    await api.to(issue.allottedAt);
    const told = (await issues()).find((one) => one.id === issue.id) as Issue;
    const decided = await mine(id);
    expect([told.state, decided.issuePrice]).to.deep.equal(['allotted', told.price]);
    expect(decided.state).to.equal('allotted');
    const shares = (decided.allottedLots ?? 0) * issue.lot;
    const unsettled = (await main()).holdings.find(({ instrument }) => instrument === issue.id);
    expect(unsettled?.unsettled.map(({ settlesOn }) => settlesOn)).to.deep.equal([issue.listsOn]);

    await api.to(`${issue.listsOn}T00:00:00.000Z`);
    const account = await main();
    expect(cents(account.cash)).to.equal(10_000_000 - shares * cents(told.price ?? ''));
    const held = account.holdings.find(({ instrument }) => instrument === issue.id);
    expect([held?.quantity, held?.unsettled]).to.deep.equal([String(shares), []]);
    const { days } = await got<Statement>(`/api/statements/MAIN?from=2026-03-02&to=${issue.listsOn}`);
    expect(days.flatMap(({ movements }) => movements.map(({ kind }) => kind))).to.deep.equal(['application', 'application', 'fill']);
    for (const [i, { opening, closing, movements }] of days.entries()) {
      expect(cents(opening) + movements.reduce((sum, { amount }) => sum + cents(amount), 0)).to.equal(cents(closing));
      if (i > 0) expect(opening).to.equal(days[i - 1]?.closing);
    }
    expect(days[days.length - 1]?.closing).to.equal(account.cash);

    await api.to(`${issue.listsOn}T09:30:00.000Z`);
    const quote = (await got<{ items: { last: string | null; previousSettlement: string | null }[] }>(`/api/quotes?instruments=${issue.id}`)).items[0];
    expect(quote?.last).to.not.equal(null);
    expect(quote?.previousSettlement, 'it has no day before').to.equal(null);
    const sold = await api.post('/api/orders', {
      clientOrderId: 'out',
      account: 'MAIN',
      instrument: issue.id,
      side: 'sell',
      type: 'market',
      quantity: String(shares),
    });
    expect([sold.status, (sold.body as { state: string }).state]).to.deep.equal([201, 'filled']);
    const trips = await got<{ items: { instrument: string; averageEntry: string; quantity: string }[] }>('/api/review/round-trips?account=MAIN');
    expect(trips.items.map(({ instrument, quantity }) => [instrument, quantity])).to.deep.equal([[issue.id, String(shares)]]);
    expect(cents(trips.items[0]?.averageEntry ?? '')).to.equal(cents(told.price ?? ''));
  });
});
