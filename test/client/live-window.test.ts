import { expect } from 'chai';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { presentInstrument } from '../../src/desk/present/index.ts';
import {
  $accounts,
  $activity,
  $alerts,
  $beat,
  $clock,
  $fills,
  $link,
  $plans,
  $positions,
  $ready,
  $refused,
  $risk,
  $screen,
  $session,
  begin,
  findInstruments,
  firingsAfter,
  follow,
  followPrints,
  hasOptions,
  instrumentOf,
  positionKey,
  request,
  requestRevised,
  withQuery,
} from '../../src/live/index.ts';
import type { FromStream, ToStream, TopicMessage } from '../../src/live/protocol.ts';

/** The worker that all windows share, as one window sees it. */
class Worker {
  static last: Worker;
  readonly told: ToStream[] = [];
  readonly port: { onmessage: ((message: { data: FromStream }) => void) | null; postMessage(message: ToStream): void };

  constructor() {
    this.port = { onmessage: null, postMessage: (message) => void this.told.push(message) };
    Worker.last = this;
  }

  say(message: FromStream): void {
    this.port.onmessage?.({ data: message });
  }

  tell(topic: string, data: unknown, snapshot = false): void {
    this.say({ kind: 'topics', messages: [{ topic, data, snapshot } satisfies TopicMessage], at: 0 });
  }
}

interface Asked {
  readonly method: string;
  readonly address: string;
  readonly headers: Record<string, string>;
  readonly body: unknown;
  readonly keepalive: boolean;
}

const asked: Asked[] = [];
/** What the server answers by method and path: the first that fits; 404 where nothing does. */
let answers: [start: string, status: number, body: unknown, headers?: Record<string, string>][] = [];

const fetchOf = (address: unknown, given: RequestInit = {}): Promise<Response> => {
  const method = given.method ?? 'GET';
  const body = typeof given.body === 'string' ? (JSON.parse(given.body) as unknown) : null;
  asked.push({ method, address: String(address), headers: given.headers as Record<string, string>, body, keepalive: given.keepalive ?? false });
  const found = answers.find(([start]) => `${method} ${String(address as string)}`.startsWith(start));
  if (!found) return Promise.resolve(new Response(JSON.stringify({ status: 404, detail: 'nothing there' }), { status: 404 }));
  const [, status, value, headers = {}] = found;
  if (status === 0) return Promise.reject(new TypeError('no connection'));
  return Promise.resolve(new Response(status === 204 ? null : JSON.stringify(value), { status, headers }));
};

const turn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));
const fill = (seq: number, time = '2026-03-02T09:00:00.000Z') => ({ id: `f${seq}`, seq, time }) as never;

describe('a window that follows its books', () => {
  const GLOBALS = ['fetch', 'SharedWorker', 'sessionStorage', 'localStorage', 'window'] as const;
  const there = globalThis as Record<string, unknown>;
  const real = Object.fromEntries(GLOBALS.map((name) => [name, there[name]]));
  const stored = new Map<string, string>();
  let gone: string | null = null;
  before(async () => {
    const store = { getItem: (key: string) => stored.get(key) ?? null, setItem: (key: string, value: string) => void stored.set(key, value) };
    Object.assign(there, {
      fetch: fetchOf,
      SharedWorker: Worker,
      sessionStorage: store,
      localStorage: store,
      window: { addEventListener: () => undefined, location: { assign: (to: string) => (gone = to) } },
    });
    answers = [
      ['GET /api/session', 200, { user: 'demo', csrf: 'token-1' }],
      ['GET /api/instruments', 200, { items: FIXED_INSTRUMENTS.map(presentInstrument) }],
      ['GET /api/accounts', 200, { items: [{ id: 'MAIN', equity: '100000.00' }] }],
      ['GET /api/fills', 200, { items: [] }],
    ];
    expect(await begin()).to.equal(true);
    await turn();
  });
  after(() => {
    for (const one of [$session, $clock, $link, $beat, $refused, $alerts]) one.set(null);
    for (const one of [$accounts, $positions, $plans, $risk]) one.set({});
    for (const one of [$fills, $activity]) one.set([]);
    $ready.set(false);
    for (const name of GLOBALS)
      if (real[name] === undefined) delete there[name];
      else there[name] = real[name];
  });

  const worker = (): Worker => Worker.last;

  it('begins with its session, its accounts and every instrument, then follows all of its own', () => {
    expect([$session.get()?.user, $ready.get(), Object.keys($accounts.get())]).to.deep.equal(['demo', true, ['MAIN']]);
    const first = worker().told.find((message) => message.kind === 'topics');
    expect(first).to.deep.include({ kind: 'topics', csrf: 'token-1' });
    expect(first && 'topics' in first && [...first.topics].sort()).to.deep.equal([
      'accounts',
      'alerts',
      'clock',
      'fills',
      'link',
      'orders',
      'plans',
      'positions',
      'risk',
    ]);
    for (const instrument of FIXED_INSTRUMENTS)
      expect(instrumentOf(instrument.id), instrument.id).to.deep.equal({ ...instrument, listsOn: instrument.listsOn });
    expect([hasOptions('GANET.HALM'), hasOptions('BRINE.HALM')]).to.deep.equal([true, false]);
    expect(findInstruments('gannet')[0]?.instrument.ticker).to.equal('GANET');
  });

  it('is sent to sign in where it is signed out, and does not begin where it is not signed in', async () => {
    worker().say({ kind: 'signed-out' });
    expect(gone).to.equal('/sign-in');
    const kept = answers;
    answers = [['GET /api/session', 401, { status: 401, detail: 'sign in' }]];
    expect(await begin()).to.equal(false);
    answers = kept;
  });

  it('holds positions, plans, risk, clock and link as they are told', () => {
    const position = (instrument: string, quantity: string) => ({ account: 'MAIN', instrument, quantity });
    worker().tell('positions', [position('GANET.HALM', '100'), position('BRINE.HALM', '5')], true);
    worker().tell('positions', position('GANET.HALM', '40'));
    expect($positions.get()[positionKey('MAIN', 'GANET.HALM')]?.quantity).to.equal('40');
    expect(Object.keys($positions.get()).length).to.equal(2);
    worker().tell('positions', [position('BRINE.HALM', '6')], true);
    expect(Object.values($positions.get()).map(({ quantity }) => quantity)).to.deep.equal(['6']);
    worker().tell('plans', [{ id: 'p1', state: 'armed' }], true);
    worker().tell('plans', { id: 'p1', state: 'done' });
    worker().tell('risk', [{ account: 'MAIN', netToday: '1.00' }], true);
    worker().tell('risk', { account: 'MAIN', netToday: '2.00' });
    worker().tell('clock', { time: '2026-03-02T09:30:00.000Z' }, true);
    worker().tell('link', { broker: 'down' }, true);
    expect([$plans.get()['p1']?.state, $risk.get()['MAIN']?.netToday, $clock.get()?.time, $link.get()?.broker]).to.deep.equal([
      'done',
      '2.00',
      '2026-03-02T09:30:00.000Z',
      'down',
    ]);
  });

  it('has each fill once and in order, however they come, and reads the day’s from before the snapshot', async () => {
    const pages = [{ items: [fill(3), fill(4)] }, { items: [fill(2, '2026-03-01T15:00:00.000Z')] }];
    const kept = answers;
    answers = [
      ['GET /api/accounts', 200, { items: [] }],
      ['GET /api/fills?before=5', 200, pages[0]],
      ['GET /api/fills?before=3', 200, pages[1]],
    ];
    worker().tell('fills', [fill(5), fill(6)], true);
    for (let i = 0; i < 6; i++) await turn();
    expect($fills.get().map(({ seq }) => seq)).to.deep.equal([2, 3, 4, 5, 6]);
    // The day before is reached: nothing older is asked for.
    expect(asked.filter(({ address }) => address.startsWith('/api/fills')).map(({ address }) => address)).to.deep.equal([
      '/api/fills?before=5&limit=1000',
      '/api/fills?before=3&limit=1000',
    ]);
    for (const seq of [7, 9, 8, 9]) worker().tell('fills', fill(seq));
    expect($fills.get().map(({ seq }) => seq)).to.deep.equal([2, 3, 4, 5, 6, 7, 8, 9]);
    answers = kept;
  });

  it('hears what is said of the connection', () => {
    worker().say({ kind: 'status', open: true, since: 5 });
    expect($screen.get()).to.deep.include({ open: true, since: 5 });
    worker().say({ kind: 'beat', beat: { now: 'n', venues: {}, broker: 'b' }, at: 77 });
    expect([$beat.get()?.at, $screen.get().heardAt]).to.deep.equal([77, 77]);
    worker().say({ kind: 'status', open: false, since: 90 });
    expect($screen.get()).to.deep.equal({ open: false, since: 90, heardAt: 77 });
    worker().say({ kind: 'refused', topics: ['quote:X'], words: 'unknown' });
    expect($refused.get()?.words).to.equal('unknown');
  });

  it('tells the worker what it follows, once for all that begin together, and what it follows no more', async () => {
    const heard: unknown[] = [];
    const { told } = worker();
    const at = told.length;
    const stops = [follow('quote:A', (data) => heard.push(data)), follow('quote:A', (data) => heard.push(data)), follow('quote:B', () => undefined)];
    await turn();
    expect(told.length).to.equal(at + 1);
    expect(told[at]).to.deep.include({ anew: ['quote:A', 'quote:B'] });
    worker().tell('quote:A', 1, true);
    expect(heard).to.deep.equal([1, 1]);
    // Whoever comes later has at once what is known.
    const late: unknown[] = [];
    stops.push(follow('quote:A', (data, snapshot) => late.push([data, snapshot])));
    expect(late).to.deep.equal([[1, true]]);
    for (const stop of stops) stop();
    await turn();
    const last = told.at(-1);
    expect(last && 'topics' in last && last.topics.filter((topic) => topic.startsWith('quote:'))).to.deep.equal([]);
    worker().tell('quote:A', 2);
    expect(heard).to.deep.equal([1, 1]);
  });

  it('gives prints once each and in order; after a gap it begins anew', () => {
    const heard: string[] = [];
    const stop = followPrints('A', (prints, anew) => heard.push(`${anew ? 'anew ' : ''}${prints.map(({ seq }) => seq).join(' ')}`));
    const print = (seq: number) => ({ seq, time: '2026-03-02T09:00:00.000Z', side: 'buy', price: '1', quantity: '1' });
    const tell = (seqs: number[], snapshot = false): void => worker().tell('trades:A', seqs.map(print), snapshot);
    tell([1, 2, 3], true);
    tell([4]);
    tell([3, 4, 5]);
    tell([4, 5]);
    tell([5, 6, 7], true);
    tell([12, 13], true);
    tell([1, 2], true);
    worker().tell('trades:A', null, true);
    stop();
    expect(heard).to.deep.equal(['anew 1 2 3', '4', '5', '6 7', 'anew 12 13', 'anew 1 2']);
  });

  it('keeps activity while somebody looks: a snapshot, then what is newer', () => {
    const stop = $activity.listen(() => undefined);
    worker().tell('activity', [{ seq: 1 }, { seq: 2 }], true);
    worker().tell('activity', [{ seq: 2 }, { seq: 3 }]);
    worker().tell('activity', { seq: 4 });
    expect($activity.get().map(({ seq }) => seq)).to.deep.equal([1, 2, 3, 4]);
    stop();
  });

  it('knows alerts as they are made, fire and are dropped', () => {
    const alert = (id: string, ...seqs: number[]) => ({ id, firings: seqs.map((seq) => ({ seq, time: `t${seq}`, value: null, text: '' })) });
    worker().tell('alerts', [alert('a', 1), alert('b')], true);
    worker().tell('alerts', alert('b', 5));
    worker().tell('alerts', alert('c', 3));
    expect(firingsAfter($alerts.get(), 1).map(({ seq, alert: { id } }) => `${id}${seq}`)).to.deep.equal(['b5', 'c3']);
    worker().tell('alerts', { id: 'b', dropped: true });
    expect(Object.keys($alerts.get() ?? {})).to.deep.equal(['a', 'c']);
    expect(firingsAfter(null, 0)).to.deep.equal([]);
  });
});

describe('a call of the API', () => {
  const real = globalThis.fetch;
  beforeEach(() => {
    globalThis.fetch = fetchOf;
    asked.length = 0;
  });
  after(() => (globalThis.fetch = real));

  it('has its names in the path and the rest in the query, each written so that it arrives', async () => {
    answers = [['', 200, {}]];
    await request('GET /api/workspaces/{name}', { path: { name: 'a/b ü%' } });
    await request('GET /api/fills', { query: { account: 'MAIN', instrument: undefined, limit: 5 } });
    expect(asked.map(({ address }) => address)).to.deep.equal(['/api/workspaces/a%2Fb%20%C3%BC%25', '/api/fills?account=MAIN&limit=5']);
    expect(withQuery('/x', { a: ['1', '2'], b: 'c d' })).to.equal('/x?a=1&a=2&b=c+d');
    expect(withQuery('/x', { a: undefined })).to.equal('/x');
  });

  it('carries the token with whatever changes something, and goes on while the window closes where it is small', async () => {
    answers = [['', 200, {}]];
    await request('GET /api/settings');
    await request('PUT /api/settings', { body: { theme: 'day' } });
    await request('PUT /api/settings', { body: { long: 'x'.repeat(70_000) } });
    expect(asked.map(({ headers, keepalive }) => ['x-csrf-token' in headers, headers['content-type'] ?? null, keepalive])).to.deep.equal([
      [false, null, false],
      [true, 'application/json', true],
      [true, 'application/json', false],
    ]);
  });

  it('tells a success, a refusal and no answer apart, and never throws', async () => {
    answers = [
      ['GET /api/clock', 200, { time: 'now' }],
      ['DELETE /api/tokens', 204, null],
      ['GET /api/link', 503, { status: 503, detail: 'no link' }],
      ['GET /api/session', 0, null],
    ];
    expect(await request('GET /api/clock')).to.deep.equal({ ok: true, status: 200, value: { time: 'now' } });
    expect(await request('DELETE /api/tokens/{id}', { path: { id: 't' } })).to.deep.equal({ ok: true, status: 204, value: null });
    expect(await request('GET /api/link')).to.deep.equal({ ok: false, problem: { status: 503, detail: 'no link' } });
    const lost = await request('GET /api/session');
    expect(!lost.ok && lost.problem.status).to.equal(0);
  });

  it('of what has revisions says which it was made from, and takes the new one along', async () => {
    answers = [['', 200, { theme: 'day' }, { etag: '"7"' }]];
    const { revision } = await requestRevised('PUT /api/settings', { body: {}, base: '"6"' });
    await requestRevised('PUT /api/settings', { body: {}, base: null });
    await requestRevised('GET /api/settings', {});
    expect(revision).to.equal('"7"');
    expect(asked.map(({ headers }) => [headers['if-match'] ?? null, headers['if-none-match'] ?? null])).to.deep.equal([
      ['"6"', null],
      [null, '*'],
      [null, null],
    ]);
  });
});
