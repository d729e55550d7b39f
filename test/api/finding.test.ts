import { expect } from 'chai';
import { Client, dropFolder, startServer } from '../support/server.ts';
import { TapeServer, at, played } from '../support/tape-server.ts';

const G = 'GANET.HALM';
const trade = (seconds: number, price: string, of = G): string => `${at(seconds)},${of},trade,buy,${price},10,`;
const level = (seconds: number, side: 'bid' | 'ask', price: string, quantity: number, of = G): string =>
  `${at(seconds)},${of},level,${side},${price},${quantity},`;

interface Alert {
  readonly id: string;
  readonly state: string;
  readonly firings: readonly { readonly time: string; readonly value: string | null; readonly text: string }[];
}
interface Waiting {
  readonly id: string;
  readonly state: string;
  readonly orderId: string | null;
  readonly reason: string | null;
}
interface Run {
  readonly at: string;
  readonly cause: string;
  readonly items: readonly { readonly instrument: string }[];
}

class Tape extends TapeServer {
  alert(fields: object): Promise<Alert> {
    return this.made('/api/alerts', { kind: 'condition', instrument: G, ...fields });
  }

  async fired(alert: Alert): Promise<string[]> {
    return (await this.got<Alert>(`/api/alerts/${alert.id}`)).firings.map(({ time }) => time);
  }

  wait(fields: object): Promise<Waiting> {
    return this.made('/api/conditional-orders', { instrument: G, until: null, ...fields });
  }
}

const onTape = (rows: readonly string[], scene: (tape: Tape) => Promise<void>): Promise<void> => played(new Tape(rows), scene);

const times = (...seconds: number[]): string[] => seconds.map(at);

describe('alerts on a phrase', function () {
  this.timeout(120_000);

  // True when they are made; it turns true at 30, 55, 70, 88 and 120.5.
  const turning = [
    [0, '41.30'],
    [20, '41.10'],
    [30, '41.25'],
    [50, '41.00'],
    [55, '41.40'],
    [65, '41.10'],
    [70, '41.21'],
    [80, '41.05'],
    [88, '41.50'],
    [100, '41.00'],
    [120.5, '41.30'],
  ].map(([seconds, price]) => trade(Number(seconds), String(price)));

  it('fire when it turns true, never for what was true when they were made, and none twice over a kill', () =>
    onTape(turning, async (tape) => {
      await tape.go(1);
      const phrase = 'last > 41.20';
      const once = await tape.alert({ phrase });
      const every = await tape.alert({ phrase, fires: 'every' });
      const paused = await tape.alert({ phrase, fires: 'every', pauseSeconds: 30 });
      const bar = await tape.alert({ phrase, fires: 'once-a-bar' });
      const until = await tape.alert({ phrase, fires: 'every', until: at(60) });
      await tape.go(25);
      expect(await tape.fired(once)).to.deep.equal([]);
      await tape.go(60);
      await tape.killed();
      await tape.go(130);
      expect(await tape.fired(once)).to.deep.equal(times(30));
      expect(await tape.fired(every)).to.deep.equal(times(30, 55, 70, 88, 120.5));
      expect(await tape.fired(paused)).to.deep.equal(times(30, 70, 120.5));
      expect(await tape.fired(bar)).to.deep.equal(times(30, 70, 120.5));
      expect(await tape.fired(until)).to.deep.equal(times(30, 55));
      expect((await tape.got<Alert>(`/api/alerts/${until.id}`)).state).to.equal('ended');
    }));

  it('sleep while they are snoozed, and are not woken by what is true already', () =>
    onTape(turning, async (tape) => {
      await tape.go(1);
      const alert = await tape.alert({ phrase: 'last > 41.20', fires: 'every' });
      await tape.go(31);
      const snoozed = await tape.api.call('PATCH', `/api/alerts/${alert.id}`, { snoozedUntil: at(60) });
      expect((snoozed.body as Alert).state).to.equal('snoozed');
      await tape.go(130);
      expect(await tape.fired(alert)).to.deep.equal(times(30, 70, 88, 120.5));
    }));

  it('are judged at the close of a bar though nothing is traded then', () =>
    onTape([trade(5, '41.00'), trade(65, '41.30'), trade(125, '41.10')], async (tape) => {
      await tape.go(6);
      const alert = await tape.alert({ phrase: 'close on 1m rises above 41.20', fires: 'every' });
      await tape.go(300);
      expect(await tape.fired(alert)).to.deep.equal(times(120));
    }));

  it('look at what the trader holds', () =>
    onTape([level(0, 'ask', '41.00', 1000), level(0, 'bid', '40.90', 1000), trade(0, '41.00'), trade(10, '41.00')], async (tape) => {
      await tape.go(1);
      const alert = await tape.alert({ phrase: 'held' });
      await tape.go(2);
      await tape.made('/api/orders', { clientOrderId: 'a', account: 'MAIN', instrument: G, side: 'buy', type: 'market', quantity: '10' });
      await tape.go(11);
      expect(await tape.fired(alert)).to.deep.equal(times(10));
    }));

  it('whose text would be longer than a phrase once it is written out are refused wherever one is kept', () =>
    onTape([trade(0, '41.00')], async (tape) => {
      const phrase = `last>1${'+1'.repeat(240)}`;
      const lines = [{ phrase, on: true }];
      const kept: [string, object][] = [
        ['/api/alerts', { kind: 'condition', instrument: G, phrase }],
        ['/api/scan', { universe: {}, lines }],
        ['/api/scans', { name: 'long', universe: {}, lines, join: 'all' }],
        ['/api/conditional-orders', { clientOrderId: 'long', account: 'MAIN', instrument: G, when: phrase, order: 'buy 1 at 41', until: null }],
      ];
      for (const [path, body] of kept) {
        const reply = await tape.api.post(path, body);
        expect([path, reply.status, JSON.stringify(reply.body).includes('at most 500 characters')]).to.deep.equal([path, 422, true]);
      }
    }));
});

describe('scans that are kept running', function () {
  this.timeout(120_000);

  it('tell each change once, at most once a second, and go on after a kill', () =>
    onTape([trade(0, '41.00'), trade(10, '41.30'), trade(10.2, '41.00'), trade(10.4, '41.40'), trade(20, '41.00'), trade(30, '41.50')], async (tape) => {
      await tape.go(1);
      const lines = [{ phrase: 'last > 41.20', on: true }];
      await tape.made('/api/scans', { name: 'risers', universe: { instruments: [G] }, lines, keep: true });
      await tape.go(15);
      await tape.killed();
      await tape.go(40);
      const { items } = await tape.got<{ items: Run[] }>('/api/scans/risers/results');
      expect(items.map((run) => [run.at, run.cause, run.items.length])).to.deep.equal([
        [at(1), 'keep', 0],
        [at(10), 'keep', 1],
        [at(20), 'keep', 0],
        [at(30), 'keep', 1],
      ]);
    }));

  it('look at what came within a second when it is over, and at the first row after a quiet one, in one go or in many', async () => {
    const rows = [
      trade(0, '41.00'),
      trade(10, '41.00'),
      trade(10.3, '41.30'),
      level(10.6, 'bid', '41.28', 500),
      trade(14.25, '41.00'),
      trade(14.5, '41.30'),
      trade(14.9, '41.10'),
      trade(15.5, '41.40'),
      trade(20, '41.40', 'BRINE.HALM'),
      trade(25.125, '41.10'),
    ];
    const found = (stops: readonly number[]): Promise<string[]> =>
      new Promise((resolve, reject) => {
        void onTape(rows, async (tape) => {
          await tape.go(1);
          const lines = [{ phrase: 'last > 41.20', on: true }];
          await tape.made('/api/scans', { name: 'risers', universe: { instruments: [G] }, lines, keep: true });
          for (const stop of stops) await tape.go(stop);
          const { items } = await tape.got<{ items: Run[] }>('/api/scans/risers/results');
          resolve(items.map((run) => `${run.at} ${run.items.length}`));
        }).catch(reject);
      });
    const expected = [`${at(1)} 0`, `${at(11)} 1`, `${at(14.25)} 0`, `${at(16.25)} 1`, `${at(25.125)} 0`];
    expect(await found([40])).to.deep.equal(expected);
    expect(await found([2, 10.1, 10.35, 10.9, 11, 11.5, 14.3, 14.95, 15, 15.25, 15.6, 17, 21, 30, 40])).to.deep.equal(expected);
  });
});

describe('alerts on a scan', function () {
  this.timeout(120_000);

  it('tell of each that newly passes, in the commit of the run that found it, and none twice over a kill', () =>
    onTape([trade(0, '41.00'), trade(0, '12.00', 'BRINE.HALM'), trade(10, '41.30'), trade(20, '41.00'), trade(30, '41.50')], async (tape) => {
      await tape.go(1);
      const lines = [{ phrase: 'last > 41.20', on: true }];
      await tape.made('/api/scans', { name: 'risers', universe: { instruments: [G, 'BRINE.HALM'] }, lines, keep: true });
      const every = await tape.alert({ kind: 'scan', instrument: null, scan: 'risers', fires: 'every' });
      const once = await tape.alert({ kind: 'scan', instrument: null, scan: 'risers' });
      await tape.go(15);
      await tape.killed();
      await tape.go(40);
      expect(await tape.fired(every)).to.deep.equal(times(10, 30));
      const { firings, state } = await tape.got<Alert>(`/api/alerts/${once.id}`);
      expect([state, firings.map(({ text }) => text)]).to.deep.equal(['ended', ['risers: GANET.HALM passes now.']]);
    }));

  it('tell what a scan found at one of its times that it had not found at the one before', () =>
    onTape([trade(0, '41.00'), trade(70, '41.30')], async (tape) => {
      await tape.go(1);
      const schedule = { times: ['09:01', '09:02', '09:03'] };
      await tape.made('/api/scans', { name: 'timed', universe: { instruments: [G] }, lines: [{ phrase: 'last > 41.20', on: true }], schedule });
      const alert = await tape.alert({ kind: 'scan', instrument: null, scan: 'timed', fires: 'every' });
      await tape.go(200);
      expect(await tape.fired(alert)).to.deep.equal(times(120));
    }));

  it('need a scan that runs by itself', () =>
    onTape([trade(0, '41.00')], async (tape) => {
      await tape.made('/api/scans', { name: 'asked', universe: { instruments: [G] }, lines: [{ phrase: 'last > 41.20', on: true }] });
      const refused = async (body: object): Promise<string[]> =>
        ((await tape.api.post('/api/alerts', body)).body as { errors: { path: string }[] }).errors.map(({ path }) => path);
      expect(await refused({ kind: 'scan', scan: 'asked' })).to.deep.equal(['/scan']);
      expect(await refused({ kind: 'scan', scan: 'nowhere' })).to.deep.equal(['/scan']);
      expect(await refused({ kind: 'scan' })).to.deep.equal(['/scan']);
      expect(await refused({ kind: 'news', words: ['a'], scan: 'asked' })).to.deep.equal(['/scan']);
    }));
});

describe('a scan that makes history', function () {
  this.timeout(120_000);

  it('says how far it is, hears others meanwhile, and is stopped by whoever runs it', async () => {
    const server = await startServer({ KAVIX_CLOCK: 'manual' });
    try {
      const api = await Client.signIn(server.address);
      const other = await Client.signIn(server.address, 'second', 'kavix-second');
      const body = { universe: { kinds: ['share'] }, join: 'all', lines: [{ phrase: 'rsi(14) on 5m < 30', on: true }] };
      const run = (name: string): { ended: () => boolean; done: Promise<{ status: number }> } => {
        let over = false;
        const done = api.post(`/api/scan?progress=${name}`, body).finally(() => (over = true));
        return { ended: () => over, done };
      };
      const told = async (name: string): Promise<{ done: number; of: number } | null> => {
        const reply = await api.get(`/api/scan-progress/${name}`);
        return reply.status === 200 ? reply.body : null;
      };
      const first = run('one');
      let seen: { done: number; of: number } | null = null;
      while (!first.ended() && (seen?.done ?? 0) === 0) seen = (await told('one')) ?? seen;
      expect(seen?.of).to.be.above(700);
      expect(seen?.done).to.be.within(1, (seen?.of ?? 0) - 1);
      // A condition is read in between, and who does not run it knows nothing of it.
      expect((await api.post('/api/phrases/condition', { phrase: 'last > 1', instrument: 'GANET.HALM' })).status).to.equal(200);
      expect(first.ended()).to.equal(false);
      expect((await other.get('/api/scan-progress/one')).status).to.equal(404);
      expect((await other.call('DELETE', '/api/scan-progress/one')).status).to.equal(404);
      expect((await api.call('DELETE', '/api/scan-progress/one')).status).to.equal(204);
      expect((await first.done).status).to.equal(409);
      expect(await told('one')).to.equal(null);
      // What was made is kept: the next run goes on from there, and is answered.
      expect((await run('two').done).status).to.equal(200);
      expect((await api.post('/api/scan?progress=no%20name', body)).status).to.equal(422);
    } finally {
      await server.kill();
      dropFolder(server.folder);
    }
  });
});

describe('alerts on a line', function () {
  this.timeout(120_000);
  const line = (from: [number, string], to: [number, string]): object => ({
    line: { from: { time: at(from[0]), price: from[1] }, to: { time: at(to[0]), price: to[1] } },
  });

  it('fire at the trade that crosses it where it stands by then, once over a kill', () =>
    onTape([trade(0, '41.00'), trade(10, '41.10'), trade(20, '41.19'), trade(30, '41.30'), trade(40, '41.39'), trade(50, '41.60')], async (tape) => {
      await tape.go(1);
      // A cent a second: 41.21 at 20, 41.31 at 30, 41.51 at 50, on beyond its second point.
      const rising = await tape.alert({ kind: 'price', ...line([0, '41.01'], [10, '41.11']), fires: 'every' });
      const down = await tape.alert({ kind: 'price', ...line([0, '41.01'], [10, '41.11']), direction: 'down', fires: 'every' });
      await tape.go(25);
      await tape.killed();
      await tape.go(60);
      expect(await tape.fired(rising)).to.deep.equal(times(50));
      expect(await tape.fired(down)).to.deep.equal([]);
    }));

  it('are refused where they say two things, or nothing', () =>
    onTape([trade(0, '41.00')], async (tape) => {
      const refused = async (body: object): Promise<string[]> =>
        ((await tape.api.post('/api/alerts', { kind: 'price', instrument: G, ...body })).body as { errors: { path: string }[] }).errors.map(({ path }) => path);
      expect(await refused({})).to.deep.equal(['/price']);
      expect(await refused({ price: '41', ...line([0, '41'], [10, '42']) })).to.deep.equal(['/line']);
      expect(await refused(line([10, '41'], [10, '42']))).to.deep.equal(['/line/to/time']);
      expect(await refused(line([0, '0'], [10, '42']))).to.deep.equal(['/line/from/price']);
      expect(await refused({ line: { from: { time: at(0), price: '41' } } })).to.include('/line/to');
    }));
});

describe('orders that wait for a condition', function () {
  this.timeout(120_000);

  const rows = [
    level(0, 'bid', '41.05', 500),
    level(0, 'ask', '41.12', 500),
    trade(0, '41.10'),
    level(8, 'bid', '41.20', 500),
    level(8, 'ask', '41.25', 500),
    trade(10, '41.22'),
    trade(20, '41.00'),
    trade(30, '41.30'),
    trade(50, '41.10'),
    trade(60, '41.40'),
  ];

  it('need the consent; go once, at the row that turns it true, as they read then', () =>
    onTape(rows, async (tape) => {
      await tape.go(1);
      const body = { clientOrderId: 'one', when: 'last > 41.20', instrument: G, order: 'buy 10 at bid, account MAIN' };
      expect((await tape.api.call('POST', '/api/conditional-orders', body)).status).to.equal(409);
      await tape.api.call('PUT', '/api/consents/held-here', { given: true });
      const order = await tape.wait(body);
      expect(order.state).to.equal('waiting');
      expect((await tape.wait(body)).id).to.equal(order.id);
      expect((await tape.api.call('POST', '/api/conditional-orders', { ...body, when: 'last > 42' })).status).to.equal(409);
      const late = await tape.wait({ ...body, clientOrderId: 'late', when: 'last > 50', until: at(40) });
      const refused = await tape.wait({ ...body, clientOrderId: 'much', order: 'buy 900000 at 41.00, account MAIN' });
      const dropped = await tape.wait({ ...body, clientOrderId: 'dropped' });
      expect(((await tape.api.call('DELETE', `/api/conditional-orders/${dropped.id}`)).body as Waiting).state).to.equal('canceled');
      await tape.go(45);
      const fired = await tape.got<Waiting>(`/api/conditional-orders/${order.id}`);
      expect(fired.state).to.equal('fired');
      const placed = await tape.got<{ createdAt: string; limitPrice: string }>(`/api/orders/${fired.orderId ?? ''}`);
      expect([placed.createdAt, placed.limitPrice]).to.deep.equal([at(10), '41.20']);
      expect((await tape.got<Waiting>(`/api/conditional-orders/${late.id}`)).state).to.equal('expired');
      const much = await tape.got<Waiting>(`/api/conditional-orders/${refused.id}`);
      expect([much.state, much.orderId]).to.deep.equal(['rejected', null]);
      expect(much.reason).to.match(/^buyingPower: /);
      expect((await tape.got<{ items: unknown[] }>('/api/orders?account=MAIN')).items).to.have.length(1);
    }));

  it('are suspended while the broker is cut off, and go when it is back if it is true then', () =>
    onTape(rows, async (tape) => {
      await tape.go(1);
      await tape.api.call('PUT', '/api/consents/held-here', { given: true });
      const order = await tape.wait({ clientOrderId: 'one', when: 'last > 41.20', instrument: G, order: 'buy 10 at 41.00, account MAIN' });
      await tape.api.call('POST', '/api/link', { broker: 'down' });
      expect((await tape.got<Waiting>(`/api/conditional-orders/${order.id}`)).state).to.equal('suspended');
      await tape.go(25);
      await tape.api.call('POST', '/api/link', { broker: 'up' });
      expect((await tape.got<Waiting>(`/api/conditional-orders/${order.id}`)).state).to.equal('waiting');
      await tape.api.call('POST', '/api/link', { broker: 'down' });
      await tape.go(35);
      await tape.killed();
      expect((await tape.got<Waiting>(`/api/conditional-orders/${order.id}`)).state).to.equal('suspended');
      await tape.api.call('POST', '/api/link', { broker: 'up' });
      const fired = await tape.got<Waiting>(`/api/conditional-orders/${order.id}`);
      expect(fired.state).to.equal('fired');
      expect((await tape.got<{ createdAt: string }>(`/api/orders/${fired.orderId ?? ''}`)).createdAt).to.equal(at(35));
    }));
});
