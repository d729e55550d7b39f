import { expect } from 'chai';
import { RULE_NAMES } from '../../src/core/risk/index.ts';
import { Client, dropFolder, startServer, type Reply, type Server } from '../support/server.ts';

interface Problem {
  readonly type: string;
  readonly errors?: readonly { readonly path: string; readonly message: string }[];
}
const errorsOf = (reply: Reply): string => `${reply.status} ${((reply.body as Problem).errors ?? []).map((error) => error.path).join(' ')}`.trim();

const pane = (given: Record<string, unknown> = {}): Record<string, unknown> => ({
  kind: 'Chart',
  letter: 'A',
  intervalLetter: null,
  instrument: null,
  account: 'MAIN',
  settings: { interval: '5m' },
  ...given,
});
const workspace = (given: Record<string, unknown> = {}): Record<string, unknown> => ({
  format: 1,
  panes: { c1: pane(), c2: pane() },
  letters: { A: { instrument: 'GANET.HALM', account: 'MAIN', interval: '7min' } },
  layout: { split: [{ stack: ['c1'], active: 'c1', size: 1 }, { stack: ['c2'], active: 'c2', size: 1 }], size: 0 },
  direction: 'row',
  windows: [],
  ...given,
}); // prettier-ignore
const NO_RULES = Object.fromEntries(RULE_NAMES.map((name) => [name, null]));
const study = { id: 's1', study: 'sma', parameters: { period: 20 }, colour: 'moss', width: 1.3, stroke: 'solid' };
const drawing = {
  id: 'd1',
  kind: 'trend line',
  points: [{ time: 1, price: 41.2 }, { time: 2, price: 41.3 }],
  colour: '#99c163',
  width: 1,
  stroke: 'dashed',
  text: '',
  locked: false,
  interval: null,
}; // prettier-ignore

describe('what a user saves', function () {
  this.timeout(60_000);
  let server: Server;
  let client: Client;
  let other: Client;
  before(async () => {
    server = await startServer({ KAVIX_CLOCK: 'manual' });
    client = await Client.signIn(server.address);
    other = await Client.signIn(server.address, 'second', 'kavix-second');
  });
  after(async () => {
    await server.stop();
    dropFolder(server.folder);
  });
  const put = (path: string, body: unknown): Promise<Reply> => client.call('PUT', path, body);

  it('is set up by one document to a user, field by field as it is described', async () => {
    const first = await client.get('/api/settings');
    expect([first.status, first.body]).to.deep.equal([200, {}]);
    const settings = { theme: 'day', scale: 110, againMs: 0, sounds: ['fill'], sizeKeys: { share: ['25', '50'] } };
    const put_ = (body: unknown, revision: string): Promise<Reply> => client.call('PUT', '/api/settings', body, { 'if-match': revision });
    const done = await put_(settings, first.headers.get('etag') ?? '');
    expect([done.status, done.body]).to.deep.equal([200, settings]);
    expect((await put_({}, first.headers.get('etag') ?? '')).status, 'an old revision').to.equal(409);
    expect((await other.get('/api/settings')).body).to.deep.equal({});
    for (const [wrong, path] of [
      [{ theme: 'dusk' }, '/theme'],
      [{ scale: 151 }, '/scale'],
      [{ againMs: 1.5 }, '/againMs'],
      [{ sounds: ['gong'] }, '/sounds/0'],
      [{ sizeKeys: { share: Array.from({ length: 10 }, (_, i) => String(i + 1)) } }, '/sizeKeys/share'],
      [{ sizeKeys: { share: ['one'] } }, '/sizeKeys/share/0'],
      [{ colour: 'red' }, ''],
    ] as const)
      expect(errorsOf(await client.call('PUT', '/api/settings', wrong))).to.match(new RegExp(`^422 ${path}`));
    expect((await client.get('/api/settings')).body).to.deep.equal(settings);
  });

  for (const [path, document] of [
    ['/api/workspaces', workspace()],
    ['/api/watchlists', { rows: [{ section: 'Ships' }, { instrument: 'GANET.HALM', note: 'slow', mark: 'K' }, { instrument: 'KELPA.HALM' }] }],
    ['/api/study-sets', { studies: [study] }],
    ['/api/rule-templates', { ...NO_RULES, dayLossLimit: '300.00', onDayLoss: 'close-out', noTradeWindows: [{ from: '09:00', to: '09:05', days: ['mon'] }] }],
  ] as const)
    it(`is made, read, listed, changed and deleted by its name: ${path}`, async () => {
      const name = encodeURIComponent('Night & day / 1 %');
      const made = await put(`${path}/${name}`, document);
      expect([made.status, made.headers.get('location')]).to.deep.equal([201, `${path}/${name}`]);
      expect((await client.get(`${path}/${name}`)).body).to.deep.equal(document);
      expect((await put(`${path}/${name}`, document)).status).to.equal(200);
      const names = (await client.get(path)).body as { items: { name: string; updatedAt: string }[] };
      expect(names.items.map((one) => one.name)).to.deep.equal(['Night & day / 1 %']);
      expect((await client.call('DELETE', `${path}/${name}`)).status).to.equal(204);
      for (const method of ['GET', 'DELETE']) expect((await client.call(method, `${path}/${name}`)).status).to.equal(404);
      expect((await client.get(path)).body).to.deep.equal({ items: [] });
    });

  it('is nobody else’s', async () => {
    await put('/api/watchlists/Mine', { rows: [] });
    expect((await other.get('/api/watchlists/Mine')).status).to.equal(404);
    expect((await other.get('/api/watchlists')).body).to.deep.equal({ items: [] });
    expect((await other.call('DELETE', '/api/watchlists/Mine')).status).to.equal(404);
    expect((await client.get('/api/watchlists/Mine')).status).to.equal(200);
  });

  it('says what it was made from: over something else it is 409, and nothing is lost', async () => {
    const path = '/api/watchlists/mine';
    const send = (body: unknown, headers: Record<string, string>): Promise<Reply> => client.call('PUT', path, body, headers);
    const rows = (...ids: string[]) => ({ rows: ids.map((instrument) => ({ instrument })) });
    const made = await send(rows('GANET.HALM'), { 'if-none-match': '*' });
    const first = made.headers.get('etag') ?? '';
    expect([made.status, first, (await client.get(path)).headers.get('etag')]).to.deep.equal([201, first, first]);
    expect((await send(rows('KELPA.HALM'), { 'if-none-match': '*' })).status).to.equal(409);
    const second = (await send(rows('BRINE.HALM'), { 'if-match': first })).headers.get('etag') ?? '';
    expect(second).to.not.equal(first);
    const late = await send(rows('KELPA.HALM'), { 'if-match': first });
    expect([late.status, (late.body as Problem).type, late.headers.get('etag')]).to.deep.equal([409, '/problems/conflict', second]);
    expect((await client.get(path)).body).to.deep.equal(rows('BRINE.HALM'));
    // Of two at once that were made from the same, one is saved.
    const both = await Promise.all(['GANET.HALM', 'KELPA.HALM'].map((id) => send(rows(id), { 'if-match': second })));
    expect(both.map(({ status }) => status).sort()).to.deep.equal([200, 409]);
    await client.call('DELETE', path);
    expect((await send(rows('KELPA.HALM'), { 'if-match': second })).status).to.equal(409);
  });
  it('keeps drawings by instrument', async () => {
    expect((await client.get('/api/drawings/GANET.HALM')).body).to.deep.equal({ items: [] });
    expect((await put('/api/drawings/GANET.HALM', { items: [drawing] })).status).to.equal(200);
    expect((await client.get('/api/drawings/GANET.HALM')).body).to.deep.equal({ items: [drawing] });
    expect((await other.get('/api/drawings/GANET.HALM')).body).to.deep.equal({ items: [] });
    expect((await client.get('/api/drawings/NOPE.HALM')).status).to.equal(404);
    expect((await put('/api/drawings/NOPE.HALM', { items: [] })).status).to.equal(404);
  });

  for (const [what, path, body, wanted] of [
    ['a newer format', '/api/workspaces/x', workspace({ format: 2 }), '422 /format'],
    ['a pane of no kind', '/api/workspaces/x', workspace({ panes: { c1: pane({ kind: 'Oracle' }), c2: pane() } }), '422 /panes/c1/kind'],
    ['an unknown instrument', '/api/workspaces/x', workspace({ panes: { c1: pane({ instrument: 'NOPE.HALM' }), c2: pane() } }), '422 /panes/c1/instrument'],
    ['another’s account', '/api/workspaces/x', workspace({ panes: { c1: pane({ account: 'OTHER' }), c2: pane() } }), '422 /panes/c1/account'],
    ['a pane that is not there', '/api/workspaces/x', workspace({ layout: { stack: ['c1', 'c9'], active: 'c1', size: 1 } }), '422 /layout/stack/1 /panes/c2'],
    ['a pane placed twice', '/api/workspaces/x', workspace({ windows: ['c2'] }), '422 /windows/0'],
    ['a stack without its active pane', '/api/workspaces/x', workspace({ layout: { stack: ['c1', 'c2'], active: 'c3', size: 1 } }), '422 /layout/active'],
    [
      'an interval of no length',
      '/api/workspaces/x',
      workspace({ letters: { A: { instrument: 'GANET.HALM', account: 'MAIN', interval: '0min' } } }),
      '422 /letters/A/interval',
    ],
    ['a field too many', '/api/workspaces/x', workspace({ colour: 'red' }), '422 /colour'],
    ['a name with a blank at its end', '/api/workspaces/x%20', workspace(), '422 /name'],
    ['a name that is too long', `/api/watchlists/${'x'.repeat(65)}`, { rows: [] }, '422 /name'],
    ['an unknown symbol', '/api/watchlists/x', { rows: [{ instrument: 'GANET.HALM' }, { instrument: 'NOPE' }] }, '422 /rows/1/instrument'],
    ['a study of no name', '/api/study-sets/x', { studies: [{ ...study, study: 'SMA 20' }] }, '422 /studies/0/study'],
    ['a limit below nothing', '/api/rule-templates/x', { ...NO_RULES, dayLossLimit: '-300.00' }, '422 /dayLossLimit'],
    [
      'a window that is none',
      '/api/rule-templates/x',
      { ...NO_RULES, noTradeWindows: [{ from: '9', to: '10' }] },
      '422 /noTradeWindows/0/from /noTradeWindows/0/to',
    ],
    [
      'rules with one left out',
      '/api/rule-templates/x',
      { dayLossLimit: '300.00' },
      `422 ${RULE_NAMES.slice(1)
        .map((name) => `/${name}`)
        .join(' ')}`,
    ],
    ['a colour that is none', '/api/drawings/GANET.HALM', { items: [{ ...drawing, colour: 'rgb(1,2,3)' }] }, '422 /items/0/colour'],
    ['a drawing without points', '/api/drawings/GANET.HALM', { items: [{ ...drawing, points: [] }] }, '422 /items/0/points'],
  ] as const)
    it(`refuses ${what}, names it and changes nothing`, async () => {
      expect(errorsOf(await put(path, body))).to.equal(wanted);
      if (path.endsWith('/x')) expect((await client.get(path)).status).to.equal(404);
    });

  it('refuses a layout nested without end, and a pane named like what every object has', async () => {
    const deep = (levels: number): string => `${'{"size":1,"split":['.repeat(levels)}{"stack":["c1"],"active":"c1","size":1}${']}'.repeat(levels)}`;
    const text = JSON.stringify(workspace({ layout: 'HERE' }));
    for (const levels of [40, 2000, 40_000]) {
      const reply = await put('/api/workspaces/deep', text.replace('"HERE"', deep(levels)));
      expect(reply.status, `${levels} levels`).to.equal(422);
    }
    const odd = workspace({ layout: { stack: ['c1', 'c2', 'constructor'], active: 'c1', size: 1 } });
    expect(errorsOf(await put('/api/workspaces/odd', odd))).to.equal('422 /layout/stack/2');
  });

  it('is there again after a restart', async () => {
    await put('/api/workspaces/Kept', workspace());
    await server.stop();
    server = await startServer({ KAVIX_CLOCK: 'manual', KAVIX_DATA: server.folder });
    client = await Client.signIn(server.address);
    other = await Client.signIn(server.address, 'second', 'kavix-second');
    expect((await client.get('/api/workspaces/Kept')).body).to.deep.equal(workspace());
  });
});

interface LiveRow {
  readonly instrument: string;
  readonly changePercent: string;
  readonly live: boolean;
  readonly measure: string;
}

describe('the lists over the whole universe', function () {
  this.timeout(60_000);
  let server: Server;
  let client: Client;
  before(async () => {
    server = await startServer({ KAVIX_CLOCK: 'manual' });
    client = await Client.signIn(server.address);
    await client.to('11:00:00.000');
  });
  after(async () => {
    await server.stop();
    dropFolder(server.folder);
  });
  const list = async (path: string): Promise<{ counted: number; items: LiveRow[] }> => (await client.get(`/api/live-lists/${path}`)).body;

  it('count every instrument, best first', async () => {
    const { counted, items } = await list('risers?kind=share&limit=20');
    expect(counted).to.be.greaterThan(1150);
    const percents = items.map((row) => Number(row.changePercent));
    expect(percents).to.deep.equal([...percents].sort((a, b) => b - a));
    expect(percents[0]).to.be.greaterThan(0);
    expect(items).to.have.length(20);
  });

  it('say what nobody watches, and agree with the quotes of what somebody does', async () => {
    const before = (await list('risers?kind=share&limit=1')).items[0] as LiveRow;
    expect(before.live).to.equal(false);
    const quote = ((await client.get(`/api/quotes?instruments=${before.instrument}`)).body as { items: { changePercent: string }[] }).items[0];
    const after = (await list('risers?kind=share&limit=1')).items[0] as LiveRow;
    expect(after).to.deep.include({ instrument: before.instrument, live: true, changePercent: quote?.changePercent });
  });

  it('refuse a list there is not and a filter that is none', async () => {
    expect((await client.get('/api/live-lists/winners')).status).to.equal(404);
    expect(errorsOf(await client.get('/api/live-lists/risers?venue=MOON'))).to.equal('422 ?venue');
    expect(errorsOf(await client.get('/api/live-lists/risers?leastPrice=cheap'))).to.equal('422 ?leastPrice');
    expect(errorsOf(await client.get('/api/live-lists/risers?colour=red'))).to.equal('422 ?colour');
  });

  it('carry fundamentals on the card of shares and funds alone', async () => {
    const card = async (id: string): Promise<unknown> => ((await client.get(`/api/instruments/${id}`)).body as { fundamentals: unknown }).fundamentals;
    expect(await card('GANET.HALM')).to.have.all.keys('sharesOutstanding', 'earningsPerShare', 'dividendPerShare');
    expect(await card('GANET.QUAY')).to.deep.equal(await card('GANET.HALM'));
    expect(await card('CARBI.VSPR')).to.equal(null);
  });

  it('bars of own minutes equal the minutes joined', async () => {
    const bars = async (interval: string): Promise<{ time: string; high: string; volume: string }[]> =>
      (
        (await client.get(`/api/bars/GANET.HALM?interval=${interval}&from=2026-03-02T09:00:00.000Z&limit=1000`)).body as {
          items: { time: string; high: string; volume: string }[];
        }
      ).items;
    const minutes = await bars('1m');
    for (const bar of await bars('7min')) {
      const from = Date.parse(bar.time);
      const own = minutes.filter((one) => Date.parse(one.time) >= from && Date.parse(one.time) < from + 7 * 60_000);
      expect(own.reduce((sum, one) => sum + Number(one.volume), 0)).to.equal(Number(bar.volume));
      expect(Math.max(...own.map((one) => Number(one.high)))).to.equal(Number(bar.high));
    }
    expect(errorsOf(await client.get('/api/bars/GANET.HALM?interval=7m'))).to.equal('422 ?interval');
  });
});
