import { Agent, request } from 'node:http';
import { expect } from 'chai';
import { authenticator } from 'otplib';
import { OPERATIONS } from '../../src/schemas/operations.ts';
import { Client, dropFolder, startServer, writeTape, type Reply, type Server } from '../support/server.ts';

const TAPE = [
  '2026-03-02T09:00:00.000Z,GANET.HALM,state,,,,open',
  '2026-03-02T09:00:00.000Z,GANET.HALM,level,bid,41.18,500,',
  '2026-03-02T09:00:00.000Z,GANET.HALM,level,ask,41.20,300,',
  '2026-03-02T09:00:01.000Z,GANET.HALM,trade,buy,41.20,100,',
  '2026-03-02T09:00:01.000Z,GANET.HALM,trade,buy,41.21,100,',
  '2026-03-02T09:00:02.000Z,,news,,,,"Storm, over the coast"',
  '2026-03-02T09:30:00.000Z,GANET.HALM,trade,sell,41.18,50,',
];

let asked = 0;
const order = (given: Record<string, unknown> = {}): Record<string, unknown> => ({
  clientOrderId: `a-${++asked}`,
  account: 'MAIN',
  instrument: 'GANET.HALM',
  side: 'buy',
  type: 'limit',
  quantity: '100',
  limitPrice: '41.10',
  ...given,
});

interface Problem {
  type: string;
  status: number;
  detail: string;
  errors?: { path: string; nearest?: string[] }[];
  suggestion?: unknown;
  state?: string;
}
const problemOf = (reply: Reply): string => {
  const { type, status, errors } = reply.body as Problem;
  expect(reply.headers.get('content-type')).to.equal('application/problem+json');
  expect(reply.status).to.equal(status);
  return `${status} ${type.replace('/problems/', '')}${errors ? ` ${errors.map((error) => error.path).join(' ')}` : ''}`;
};

describe('the API', function () {
  this.timeout(60_000);
  let server: Server;
  let client: Client;
  before(async () => {
    server = await startServer({ KAVIX_MARKET: `tape:${writeTape(TAPE)}`, KAVIX_CLOCK: 'manual' });
    client = await Client.signIn(server.address);
    await client.to('09:00:01.000');
  });
  after(async () => {
    expect(await server.stop()).to.equal(0);
    dropFolder(server.folder);
  });

  describe('on the way in', () => {
    it('answers health and its description without sign-in, and nothing else', async () => {
      const nobody = new Client(server.address);
      expect((await nobody.get('/api/health')).body).to.deep.equal({ ready: true });
      const described = (await nobody.get('/api/openapi.json')).body as { openapi: string; paths: Record<string, Record<string, unknown>> };
      expect(described.openapi).to.equal('3.1.0');
      for (const name of Object.keys(OPERATIONS)) {
        const [method = '', path = ''] = name.split(' ');
        expect(described.paths[path], name).to.have.property(method.toLowerCase());
        if (OPERATIONS[name as keyof typeof OPERATIONS] && 'open' in OPERATIONS[name as keyof typeof OPERATIONS]) continue;
        expect(problemOf(await nobody.call(method, path.replace(/\{\w+\}/g, 'x'), method === 'GET' ? undefined : {})), name).to.equal('401 unauthenticated');
      }
    });

    it('says the same for a wrong name and a wrong password, and stops after five failures', async () => {
      const nobody = new Client(server.address);
      const wrong = await nobody.post('/api/session', { user: 'second', password: 'wrong' });
      const unknown = await nobody.post('/api/session', { user: 'nobody', password: 'wrong' });
      expect(wrong.body).to.deep.equal(unknown.body);
      for (let i = 0; i < 4; i++) await nobody.post('/api/session', { user: 'nobody', password: 'wrong' });
      const limited = await nobody.post('/api/session', { user: 'nobody', password: 'wrong' });
      expect(problemOf(limited)).to.equal('429 rate-limited');
      expect(Number(limited.headers.get('retry-after'))).to.be.within(1, 300);
      expect((await nobody.post('/api/session', { user: 'second', password: 'kavix-second' })).status).to.equal(200);
    });

    it('does not believe a forwarded address', async () => {
      const nobody = new Client(server.address);
      const replies = [];
      for (let i = 0; i < 6; i++)
        replies.push(await nobody.call('POST', '/api/session', { user: 'ghost', password: 'x' }, { 'x-forwarded-for': `10.0.0.${i}` }));
      expect(replies.map((reply) => reply.status)).to.deep.equal([401, 401, 401, 401, 401, 429]);
    });

    it('takes changes by cookie only with the CSRF token, by bearer token without', async () => {
      expect(problemOf(await client.call('POST', '/api/orders', order(), { 'x-csrf-token': 'wrong' }))).to.equal('403 forbidden');
      const made = await client.post('/api/tokens', { name: 'script' });
      expect(made.status).to.equal(201);
      const { id, token } = made.body as { id: string; token: string };
      const script = new Client(server.address);
      const bearer = { authorization: `Bearer ${token}` };
      expect((await script.call('GET', '/api/session', undefined, bearer)).body).to.deep.include({ accounts: ['MAIN', 'EVAL', 'NIGHT'] });
      expect((await script.call('POST', '/api/orders/cancel', { account: 'MAIN' }, bearer)).status).to.equal(200);
      expect(JSON.stringify((await client.get('/api/tokens')).body)).to.not.contain(token);
      expect((await client.call('DELETE', `/api/tokens/${id}`)).status).to.equal(204);
      expect((await script.call('GET', '/api/session', undefined, bearer)).status).to.equal(401);
      expect(problemOf(await client.call('DELETE', `/api/tokens/${id}`))).to.equal('404 not-found');
    });

    it('asks for the code of a user with a second step', async () => {
      const second = await Client.signIn(server.address, 'second', 'kavix-second');
      const { secret } = (await second.post('/api/session/second-step', {})).body as { secret: string };
      expect((await second.post('/api/session/second-step', { code: '000000' })).status).to.equal(401);
      expect((await second.post('/api/session/second-step', { code: authenticator.generate(secret) })).status).to.equal(200);
      const without = await new Client(server.address).post('/api/session', { user: 'second', password: 'kavix-second' });
      expect([without.status, (without.body as { needs?: string }).needs]).to.deep.equal([401, 'code']);
      const full = await new Client(server.address).post('/api/session', { user: 'second', password: 'kavix-second', code: authenticator.generate(secret) });
      expect(full.body).to.deep.include({ user: { name: 'second', secondStep: true } });
      expect((await second.call('DELETE', '/api/session/second-step', { code: authenticator.generate(secret) })).status).to.equal(204);
    });

    it('lists where a user is signed in, and signs out there or everywhere, nobody else', async () => {
      const [here, there] = [await Client.signIn(server.address, 'second', 'kavix-second'), await Client.signIn(server.address, 'second', 'kavix-second')];
      const list = async (): Promise<{ id: string; current: boolean }[]> => ((await here.get('/api/sessions')).body as { items: never }).items;
      const before = await list();
      expect(before.filter(({ current }) => current)).to.have.length(1);
      const other = (await there.get('/api/sessions')).body as { items: { id: string; current: boolean }[] };
      const id = other.items.find(({ current }) => current)?.id ?? '';
      expect(problemOf(await client.call('DELETE', `/api/sessions/${id}`))).to.equal('404 not-found');
      expect((await here.call('DELETE', `/api/sessions/${id}`)).status).to.equal(204);
      expect((await there.get('/api/session')).status).to.equal(401);
      expect(await list()).to.have.length(before.length - 1);
      expect((await here.call('DELETE', '/api/sessions')).status).to.equal(204);
      expect((await here.get('/api/session')).status).to.equal(401);
      expect((await client.get('/api/session')).status).to.equal(200);
    });

    it('ends a session for good', async () => {
      const short = await Client.signIn(server.address, 'second', 'kavix-second');
      expect((await short.call('DELETE', '/api/session')).status).to.equal(204);
      expect((await short.get('/api/session')).status).to.equal(401);
    });
  });

  describe('with bad input', () => {
    const cases: [name: string, send: () => Promise<Reply>, expected: string][] = [
      ['that is no JSON', () => client.post('/api/orders', '{"a":'), '400 validation'],
      ['of another type', () => client.call('POST', '/api/orders', 'x', { 'content-type': 'text/plain' }), '415 validation'],
      ['over a mebibyte', () => client.post('/api/orders', { setup: 'x'.repeat(1_100_000) }), '413 validation'],
      ['by the wrong method', () => client.call('PUT', '/api/orders', {}), '405 validation'],
      ['to a path that is none', () => client.get('/api/nothing'), '404 not-found'],
      ['in a path that can’t be read', () => client.get('/api/orders/%E0%A4%A'), '404 not-found'],
      ['with a number for a decimal', () => client.post('/api/orders', order({ quantity: 100 })), '422 validation /quantity'],
      ['with an unknown field', () => client.post('/api/orders', order({ colour: 'red' })), '422 validation /colour'],
      [
        'with several things wrong',
        () => client.post('/api/orders', order({ side: 'long', quantity: '1e3', limitPrice: undefined, type: 'iceberg' })),
        '422 validation /side /type /quantity',
      ],
      ['with another’s account', () => client.post('/api/orders', order({ account: 'OTHER' })), '422 validation /account'],
      ['with no such instrument', () => client.post('/api/orders', order({ instrument: 'NOPE.HALM' })), '422 validation /instrument'],
      ['with an instrument the account can’t trade', () => client.post('/api/orders', order({ account: 'EVAL' })), '422 validation /instrument'],
      ['with a price off the grid', () => client.post('/api/orders', order({ limitPrice: '41.105' })), '422 validation /limitPrice'],
      [
        'with a stop on the wrong side',
        () => client.post('/api/orders', order({ type: 'stop', limitPrice: undefined, stopPrice: '41.00' })),
        '422 validation /stopPrice',
      ],
      ['with something held here before the consent', () => client.post('/api/orders', order({ heldBy: 'here' })), '409 conflict'],
      [
        'with a market order held here',
        () => client.post('/api/orders', order({ type: 'market', limitPrice: undefined, heldBy: 'here' })),
        '422 validation /heldBy',
      ],
      ['with an order of nobody', () => client.get('/api/orders/MAIN-9999'), '404 not-found'],
      ['with an empty change', () => client.call('PATCH', '/api/orders/MAIN-1', {}), '422 validation '],
      ['with an unknown query', () => client.get('/api/orders?colour=red'), '422 validation ?colour'],
      ['with a page too large', () => client.get('/api/fills?limit=1001'), '422 validation ?limit'],
      ['with a page that is no number', () => client.get('/api/activity?limit=many'), '422 validation ?limit'],
      ['with a cursor that is none', () => client.get('/api/trades/GANET.HALM?after=x'), '422 validation ?after'],
      ['with another’s account in the query', () => client.get('/api/positions?account=OTHER'), '422 validation ?account'],
      ['with no such state', () => client.get('/api/orders?state=asleep'), '422 validation ?state'],
      ['with quotes of nothing', () => client.get('/api/quotes'), '422 validation ?instruments'],
      ['with quotes of unknown ones', () => client.get('/api/quotes?instruments=GANET.HALM,NOPE.HALM'), '422 validation ?instruments'],
      ['with depth too deep', () => client.get('/api/depth/GANET.HALM?levels=101'), '422 validation ?levels'],
      ['with bars of no interval', () => client.get('/api/bars/GANET.HALM?interval=7m'), '422 validation ?interval'],
      ['with bars of a time that is none', () => client.get('/api/bars/GANET.HALM?interval=1m&from=yesterday'), '422 validation ?from'],
      ['with depth of nothing', () => client.get('/api/depth/NOPE.HALM'), '404 not-found'],
      ['with another’s account in the path', () => client.get('/api/accounts/OTHER'), '404 not-found'],
      ['with a topic that is none', () => client.get('/api/stream?topics=quote:GANET.HALM,gossip'), '422 validation ?topics'],
      ['with another’s topic', () => client.get('/api/stream?topics=orders:OTHER'), '422 validation ?topics'],
      ['with a stream that is none', () => client.call('PUT', '/api/stream/none/topics', { topics: [] }), '404 not-found'],
      ['with two ways to move the clock', () => client.post('/api/clock', { advanceBy: 1, speed: 1 }), '422 validation '],
      ['with a clock going back', () => client.post('/api/clock', { advanceTo: '2026-03-01T09:00:00.000Z' }), '422 validation /advanceTo'],
      ['with a clock going too far', () => client.post('/api/clock', { advanceBy: 401 * 86_400_000 }), '422 validation /advanceBy'],
      ['with a speed on a manual clock', () => client.post('/api/clock', { speed: 5 }), '409 conflict'],
      ['with a link in between', () => client.post('/api/link', { broker: 'wobbly' }), '422 validation /broker'],
      ['with no link at all', () => client.post('/api/link', {}), '422 validation '],
      ['with nothing to close', () => client.post('/api/positions/MAIN/KELPA.HALM/close', {}), '409 conflict'],
      ['with both a quantity and a percent', () => client.post('/api/positions/MAIN/GANET.HALM/close', { quantity: '1', percent: '50' }), '422 validation '],
      ['with a percent of more than all', () => client.post('/api/positions/MAIN/GANET.HALM/close', { percent: '101' }), '422 validation /percent'],
      ['with another’s account to flatten', () => client.post('/api/flatten', { account: 'OTHER' }), '422 validation /account'],
      ['with no account to cancel in', () => client.post('/api/orders/cancel', {}), '422 validation /account'],
      ['with a token that is past', () => client.post('/api/tokens', { name: 'x', expiresAt: '2020-01-01T00:00:00.000Z' }), '422 validation /expiresAt'],
      ['with a name that has blanks around it', () => client.post('/api/tokens', { name: ' x ' }), '422 validation /name'],
    ];
    for (const [name, send, expected] of cases) it(`${name}: ${expected}`, async () => expect(problemOf(await send())).to.equal(expected));

    it('never answers 5xx, whatever the body', async () => {
      const bodies = [null, 0, '', [], [1], { clientOrderId: {} }, { account: null }, 'x', { quantity: '9'.repeat(30) }, { limitPrice: '-1' }];
      for (const name of Object.keys(OPERATIONS)) {
        const [method = '', path = ''] = name.split(' ');
        if (method === 'GET' || name.endsWith('/api/session')) continue;
        for (const body of bodies) {
          const reply = await client.call(method, path.replace(/\{\w+\}/g, 'MAIN-1'), JSON.stringify(body));
          expect(reply.status, `${name} ${JSON.stringify(body)}`).to.be.below(500);
        }
      }
      client = await Client.signIn(server.address);
    });

    it('is a problem in JSON at every path, whatever stands in it', async () => {
      for (const path of [
        "/api/instruments/'%3B%20DROP%20TABLE%20orders%3B%20--",
        "/api/orders/a'b",
        '/api/orders/%00',
        '/api/positions/MAIN/%20%22',
        '/api/%E2%98%83',
        '/api/orders//',
        '/api//orders',
      ])
        for (const method of ['GET', 'POST']) {
          const reply = await client.call(method, path, method === 'POST' ? order() : undefined);
          expect([path, reply.status, reply.headers.get('content-type')]).to.deep.equal([path, 404, 'application/problem+json']);
        }
    });

    it('is a problem in JSON too where the request is longer than the server reads', async () => {
      const reply = await client.get(`/api/orders?account=${'x'.repeat(20_000)}`);
      expect([reply.status, reply.headers.get('content-type')]).to.deep.equal([431, 'application/problem+json']);
      expect(reply.body).to.include({ type: '/problems/validation', status: 431 });
    });

    it('leaves no order behind, only an activity entry, and the client order id free', async () => {
      const bad = order({ limitPrice: '41.105' });
      await client.post('/api/orders', bad);
      const { items } = (await client.get('/api/activity?limit=1')).body as { items: { kind: string }[] };
      expect(items[0]?.kind).to.equal('refused');
      expect((await client.post('/api/orders', { ...bad, limitPrice: '41.10' })).status).to.equal(201);
    });
  });

  describe('with more than it takes', () => {
    /** Statuses of requests one after another on one connection. */
    const onOneConnection = async (...bodies: readonly (string | readonly string[])[]): Promise<(number | string)[]> => {
      const agent = new Agent({ keepAlive: true, maxSockets: 1 });
      const told: (number | string)[] = [];
      for (const body of bodies)
        told.push(
          await new Promise<number | string>((resolve) => {
            const whole = typeof body === 'string';
            const { cookie, csrf } = client as unknown as { readonly cookie: string; readonly csrf: string };
            const headers = {
              'content-type': 'application/json',
              cookie,
              'x-csrf-token': csrf,
              ...(whole ? { 'content-length': Buffer.byteLength(body) } : {}),
            };
            const asked = request(`${server.address}/api/orders`, { method: 'POST', agent, headers, timeout: 5000 }, (reply) => {
              reply.resume().once('end', () => resolve(reply.statusCode ?? 0));
            });
            asked.once('error', (error) => resolve(error.message)).once('timeout', () => asked.destroy(new Error('no answer')));
            for (const part of whole ? [body] : body) asked.write(part);
            asked.end();
          }),
        );
      agent.destroy();
      return told;
    };
    const mebibytes = (count: number): string => 'x'.repeat(count * 1024 * 1024);

    it('says so, and the connection goes on, whether it was told how much comes or not', async () => {
      expect(await onOneConnection(mebibytes(3), '{')).to.deep.equal([413, 400]);
      expect(await onOneConnection([mebibytes(1), mebibytes(1), mebibytes(1)], '{')).to.deep.equal([413, 400]);
    });
  });

  describe('with orders', () => {
    it('places, reads, changes, cancels and tells the history', async () => {
      const made = await client.post('/api/orders', order({ clientOrderId: 'story', limitPrice: '41.10' }));
      expect(made.status).to.equal(201);
      const { id, sentence } = made.body as { id: string; sentence: string };
      expect(made.headers.get('location')).to.equal(`/api/orders/${id}`);
      for (const word of ['Buy', '100', 'GANET.HALM', '41.10']) expect(sentence).to.contain(word);
      expect((await client.post('/api/orders', order({ clientOrderId: 'story', limitPrice: '41.1' }))).status).to.equal(200);
      expect(problemOf(await client.post('/api/orders', order({ clientOrderId: 'story', limitPrice: '41.11' })))).to.equal('409 conflict');
      const changed = await client.call('PATCH', `/api/orders/${id}`, { limitPrice: '41.12', version: 1, clientOrderId: 'story-2' });
      expect([changed.status, (changed.body as { version: number }).version]).to.deep.equal([200, 2]);
      expect((await client.call('PATCH', `/api/orders/${id}`, { limitPrice: '41.12', version: 1, clientOrderId: 'story-2' })).status).to.equal(200);
      expect(problemOf(await client.call('PATCH', `/api/orders/${id}`, { limitPrice: '41.13', version: 1 }))).to.equal('409 conflict');
      expect(((await client.call('DELETE', `/api/orders/${id}`)).body as { state: string }).state).to.equal('canceled');
      const late = await client.call('DELETE', `/api/orders/${id}`);
      expect([problemOf(late), (late.body as Problem).state]).to.deep.equal(['409 conflict', 'canceled']);
      const { items } = (await client.get(`/api/orders/${id}/history`)).body as { items: { execType: string }[] };
      expect(items.map((line) => line.execType)).to.deep.equal(['pending-new', 'new', 'pending-replace', 'replaced', 'pending-cancel', 'canceled']);
    });

    it('previews cost and fills and sends nothing', async () => {
      const before = ((await client.get('/api/orders')).body as { items: unknown[] }).items.length;
      const reply = await client.post('/api/orders/preview', order({ clientOrderId: undefined, type: 'market', limitPrice: undefined, quantity: '400' }));
      expect(reply.body).to.deep.include({ ok: true });
      const { estimate } = reply.body as { estimate: { fills: unknown[]; unfilledQuantity: string; averagePrice: string } };
      expect(estimate).to.deep.include({ fills: [{ price: '41.20', quantity: '300' }], unfilledQuantity: '100', averagePrice: '41.20' });
      const poor = await client.post('/api/orders/preview', order({ quantity: '90000' }));
      expect([poor.status, (poor.body as { ok: boolean }).ok]).to.deep.equal([200, false]);
      expect(((await client.get('/api/orders')).body as { items: unknown[] }).items.length).to.equal(before);
    });

    it('pages lists by cursors, oldest first', async () => {
      const { items: all } = (await client.get('/api/orders?limit=1000')).body as { items: { id: string }[] };
      const newest = (await client.get('/api/orders?limit=1')).body as { items: { id: string }[]; before: string; after: string };
      expect(newest.items.map((one) => one.id)).to.deep.equal(all.slice(-1).map((one) => one.id));
      const older = (await client.get(`/api/orders?limit=1&before=${newest.before}`)).body as typeof newest;
      expect(older.items.map((one) => one.id)).to.deep.equal(all.slice(-2, -1).map((one) => one.id));
      const on = (await client.get(`/api/orders?after=${newest.after}`)).body as typeof newest;
      expect([on.items, on.after]).to.deep.equal([[], newest.after]);
    });

    it('exports fills as CSV and as FIX', async () => {
      await client.post('/api/orders', order({ limitPrice: '41.20', quantity: '10' }));
      const csv = await client.get('/api/fills?format=csv');
      expect(csv.headers.get('content-type')).to.contain('text/csv');
      expect(String(csv.body).split('\r\n')[0]).to.match(/^id,seq,time,orderId/);
      expect(String((await client.get('/api/fills?format=fix')).body)).to.match(/^8=FIX\.4\.4\x019=\d+\x0135=8\x01/);
    });

    it('keeps users apart', async () => {
      const other = await Client.signIn(server.address, 'second', 'kavix-second');
      expect(((await other.get('/api/accounts')).body as { items: { id: string }[] }).items.map((one) => one.id)).to.deep.equal(['OTHER']);
      expect(((await other.get('/api/orders')).body as { items: unknown[] }).items).to.deep.equal([]);
      expect(problemOf(await other.get('/api/orders/MAIN-1'))).to.equal('404 not-found');
      expect(problemOf(await other.call('DELETE', '/api/orders/MAIN-1'))).to.equal('404 not-found');
      expect(problemOf(await other.post('/api/positions/MAIN/GANET.HALM/close', {}))).to.equal('404 not-found');
      const { items } = (await other.get('/api/activity?limit=1000')).body as { items: { account: string | null }[] };
      expect(items.every((entry) => entry.account === null || entry.account === 'OTHER')).to.equal(true);
    });
  });

  describe('with market data', () => {
    it('tells quote, depth, prints, bars and news of the tape', async () => {
      const { items: quotes } = (await client.get('/api/quotes?instruments=GANET.HALM')).body as { items: Record<string, unknown>[] };
      expect(quotes[0]).to.deep.include({
        state: 'open',
        bid: '41.18',
        ask: '41.20',
        last: '41.21',
        open: '41.20',
        high: '41.21',
        volume: '200',
        vwap: '41.205',
        change: null,
        mark: '41.21',
      });
      expect((await client.get('/api/depth/GANET.HALM')).body).to.deep.include({ bids: [{ price: '41.18', quantity: '500', orders: null, total: '500' }] });
      const { items: prints } = (await client.get('/api/trades/GANET.HALM')).body as { items: { price: string }[] };
      expect(prints.map((print) => print.price)).to.deep.equal(['41.20', '41.21']);
      expect((await client.get('/api/bars/GANET.HALM?interval=5m')).body).to.deep.include({
        items: [{ time: '2026-03-02T09:00:00.000Z', open: '41.20', high: '41.21', low: '41.20', close: '41.21', volume: '200' }],
      });
      await client.to('09:00:02.000');
      const { items: news } = (await client.get('/api/news')).body as { items: { text: string }[] };
      expect(news.map((one) => one.text)).to.deep.equal(['Storm, over the coast']);
      expect((await client.get('/api/instruments/KELPA.HALM')).body).to.deep.include({
        tickBands: [
          { from: '0.000', tick: '0.005' },
          { from: '10.000', tick: '0.010' },
        ],
        quantityStep: '1',
        multiplier: '1',
      });
      expect((await client.get('/api/instruments/CARBI.VSPR')).body).to.deep.include({
        multiplier: null,
        inverse: true,
        venueOrderTypes: ['market', 'limit', 'stop-limit'],
        session: null,
      });
    });

    it('streams snapshots, then changes, and account events in order with their numbers', async () => {
      const response = await fetch(`${server.address}/api/stream?topics=orders,quote:GANET.HALM,trades:GANET.HALM`, {
        headers: { cookie: (client as unknown as { cookie: string }).cookie },
      });
      const reader = response.body?.getReader();
      if (!reader) throw new Error('no stream');
      let text = '';
      const until = async (what: RegExp): Promise<void> => {
        while (!what.test(text)) {
          const { value, done } = await reader.read();
          if (done) throw new Error(`the stream ended before ${what}`);
          text += new TextDecoder().decode(value);
        }
      };
      await until(/event: snapshot\ndata: \{"topic":"orders"/);
      await until(/event: beat/);
      const made = await client.post('/api/orders', order({ limitPrice: '41.05' }));
      const { id } = made.body as { id: string };
      await until(new RegExp(`event: change\\ndata: \\{"topic":"orders".*"id":"${id}".*"state":"new"`));
      const ids = [...text.matchAll(/^id: (\d+)$/gm)].map((match) => Number(match[1]));
      expect(ids.length).to.be.at.least(2);
      expect([...ids].sort((a, b) => a - b)).to.deep.equal(ids);
      const streamId = /"streamId":"([^"]+)"/.exec(text)?.[1] ?? '';
      expect((await client.call('PUT', `/api/stream/${streamId}/topics`, { topics: ['fills', 'gossip'] })).status).to.equal(422);
      expect((await client.call('PUT', `/api/stream/${streamId}/topics`, { topics: ['fills'] })).body).to.deep.equal({ topics: ['fills'] });
      await until(/"topic":"fills"/);
      await reader.cancel();
      // A window that comes back hears what it missed.
      const missed = await fetch(`${server.address}/api/stream?topics=orders`, {
        headers: { cookie: (client as unknown as { cookie: string }).cookie, 'last-event-id': String(ids[0]) },
      });
      const again = missed.body?.getReader();
      let said = '';
      while (again && !said.includes(`id: ${ids[1]}`)) said += new TextDecoder().decode((await again.read()).value);
      await again?.cancel();
    });
  });

  it('sends its safety headers with every page', async () => {
    const reply = await new Client(server.address).get('/sign-in');
    const policy = reply.headers.get('content-security-policy') ?? '';
    expect(policy).to.contain("default-src 'self'").and.not.contain('unsafe');
    expect(reply.headers.get('x-content-type-options')).to.equal('nosniff');
    expect((await new Client(server.address).get('/')).headers.get('location')).to.equal('/sign-in');
  });
});
