import { readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { Client } from '../support/server.ts';
import { START, TapeServer, played } from '../support/tape-server.ts';

const G = 'GANET.HALM';
const level = (side: string, price: string): string => `${new Date(START).toISOString()},${G},level,${side},${price},1000000,`;
const TAPE = [level('bid', '40.99'), level('ask', '41.00')];

const onTape = (rows: readonly string[], scene: (tape: TapeServer) => Promise<void>): Promise<void> => played(new TapeServer(rows), scene);

interface CashRequest {
  readonly id: string;
  readonly state: string;
  readonly paidAt: string | null;
}
interface Note {
  readonly side: string;
  readonly quantity: string;
  readonly value: string;
  readonly fees: string;
  readonly amount: string;
  readonly settlesOn: string | null;
  readonly fills: readonly { readonly quantity: string }[];
}
interface Trip {
  readonly id: string;
  readonly setup: string | null;
  readonly note: string | null;
}

const cash = async (tape: TapeServer): Promise<string> => (await tape.got<{ cash: string }>('/api/accounts/MAIN')).cash;
const ask = (tape: TapeServer, fields: object) =>
  tape.api.call('POST', '/api/cash-requests', { account: 'MAIN', kind: 'withdrawal', amount: '1000.00', ...fields });
const order = (side: string, more: object = {}) => ({
  clientOrderId: `${side}1`,
  account: 'MAIN',
  instrument: G,
  side,
  type: 'market',
  quantity: '10',
  ...more,
});

describe('money in and out', function () {
  this.timeout(120_000);

  it('a request named again is the same request, over a kill; another content is a conflict', () =>
    onTape(TAPE, async (tape) => {
      const first = await ask(tape, { clientRequestId: 'once' });
      expect([first.status, await cash(tape)]).to.deep.equal([201, '99000.00']);
      await tape.killed();
      const again = await ask(tape, { clientRequestId: 'once' });
      expect([again.status, (again.body as CashRequest).id, await cash(tape)]).to.deep.equal([200, (first.body as CashRequest).id, '99000.00']);
      expect((await ask(tape, { clientRequestId: 'once', amount: '5.00' })).status).to.equal(409);
      expect(await cash(tape)).to.equal('99000.00');
    }));

  it('is refused while the broker can’t be reached, and nothing is kept', () =>
    onTape(TAPE, async (tape) => {
      await tape.made('/api/link', { broker: 'down' });
      expect((await ask(tape, {})).status).to.equal(503);
      await tape.made('/api/link', { broker: 'up' });
      expect([await cash(tape), (await tape.got<{ items: unknown[] }>('/api/cash-requests')).items.length]).to.deep.equal(['100000.00', 0]);
    }));

  it('what is wrong is named', () =>
    onTape(TAPE, async (tape) => {
      for (const [fields, path] of [
        [{ amount: '1.001' }, '/amount'],
        [{ amount: '100000.01' }, '/amount'],
        [{ account: 'NIGHT' }, '/account'],
        [{ kind: 'loan' }, '/kind'],
      ] as const) {
        // prettier-ignore
        const refused = await ask(tape, fields);
        expect([refused.status, (refused.body as { errors: { path: string }[] }).errors[0]?.path]).to.deep.equal([422, path]);
      }
      for (const path of [
        '/api/statements/MAIN?from=2026-02-30',
        '/api/statements/MAIN?from=2026-03-03&to=2026-03-02',
        '/api/statements/MAIN?purpose=spot',
        '/api/reports/realised/MAIN?method=lifo',
        '/api/review/figures?by=moon',
        '/api/review/round-trips?account=OTHER',
        '/api/review/round-trips?kind=boat',
        '/api/review/round-trips?hour=9',
        '/api/review/round-trips?hour=24',
        '/api/contract-notes/MAIN?from=2026-03-03&to=2026-03-02',
        '/api/contract-notes/MAIN?from=soon',
        '/api/review/missed?instrument=NOPE',
        '/api/review/recap?day=soon',
        '/api/notes/soon',
      ])
        // prettier-ignore
        expect((await tape.api.call('GET', path)).status, path).to.equal(422);
      expect((await tape.api.call('GET', '/api/review/recap')).status).to.equal(422);
      expect((await tape.api.call('DELETE', '/api/cash-requests/none')).status).to.equal(404);
    }));
});

describe('contract notes', function () {
  this.timeout(60_000);

  it('say what was done of each order on a day, and sum to what the statement moved', () =>
    onTape(TAPE, async (tape) => {
      await tape.go(1);
      await tape.made('/api/orders', order('buy'));
      await tape.made('/api/orders', order('sell'));
      const { items } = await tape.got<{ items: Note[] }>('/api/contract-notes/MAIN');
      expect(items.map(({ side }) => side)).to.deep.equal(['buy', 'sell']);
      const [bought] = items;
      expect(bought?.fills.reduce((sum, { quantity }) => sum + Number(quantity), 0)).to.equal(Number(bought?.quantity));
      expect(Number(bought?.amount)).to.be.closeTo(-Number(bought?.value) - Number(bought?.fees), 1e-9);
      expect(bought?.settlesOn).to.equal('2026-03-04');
      const { days } = await tape.got<{ days: { movements: { amount: string }[] }[] }>('/api/statements/MAIN');
      const moved = days.flatMap(({ movements }) => movements).reduce((sum, { amount }) => sum + Number(amount), 0);
      expect(items.reduce((sum, { amount }) => sum + Number(amount), 0)).to.be.closeTo(moved, 1e-9);
      expect((await tape.got<{ items: Note[] }>('/api/contract-notes/MAIN?from=2026-02-27&to=2026-02-27')).items).to.deep.equal([]);
      expect((await tape.api.call('GET', '/api/contract-notes/OTHER')).status).to.equal(404);
      const hours = await Promise.all(['09', '10'].map((hour) => tape.got<{ items: Trip[] }>(`/api/review/round-trips?hour=${hour}`)));
      expect(hours.map(({ items: trips }) => trips.length)).to.deep.equal([1, 0]);
      const csv = (await tape.api.call('GET', '/api/contract-notes/MAIN?format=csv')).body as unknown as string;
      expect(csv.trim().split('\r\n').length).to.equal(3);
    }));
});

describe('what is said of a round trip afterwards', function () {
  this.timeout(120_000);

  it('is kept over a kill; the order keeps its own setup; others see nothing', () =>
    onTape(TAPE, async (tape) => {
      await tape.go(1);
      await tape.made('/api/orders', order('buy', { setup: 'dip' }));
      await tape.made('/api/orders', order('sell'));
      const one = async (): Promise<Trip> => (await tape.got<{ items: Trip[] }>('/api/review/round-trips')).items[0] as Trip;
      const { id } = await one();
      expect((await tape.api.call('PATCH', `/api/review/round-trips/${id}`, { setup: 'range', note: 'late' })).status).to.equal(200);
      await tape.killed();
      expect(await one()).to.include({ id, setup: 'range', note: 'late' });
      expect((await tape.api.call('PATCH', `/api/review/round-trips/${id}`, { setup: null })).status).to.equal(200);
      expect(await one()).to.include({ setup: null, note: 'late' });
      expect((await tape.got<{ items: { setup: string }[] }>('/api/orders')).items.map(({ setup }) => setup)).to.include('dip');
      for (const body of [{}, { setup: '(none)' }, { setup: '' }, { colour: 'red' }])
        expect((await tape.api.call('PATCH', `/api/review/round-trips/${id}`, body)).status, JSON.stringify(body)).to.equal(422);
      const other = await Client.signIn(tape.address, 'second', 'kavix-second');
      expect((await other.call('PATCH', `/api/review/round-trips/${id}`, { note: 'mine' })).status).to.equal(404);
      expect(((await other.call('GET', '/api/review/round-trips')).body as { items: Trip[] }).items).to.deep.equal([]);
      expect((await other.call('GET', `/api/review/round-trips/${id}/course`)).status).to.equal(404);
    }));

  it('can be said while it goes on, of the position; a plan tags entries that name none', () =>
    onTape(TAPE, async (tape) => {
      await tape.go(1);
      const path = '/api/positions/MAIN/GANET.HALM/setup';
      expect((await tape.api.get(path)).status).to.equal(404);
      const plan = {
        heldBy: 'venue',
        onSizeChange: 'follow',
        onMissedLevel: 'fire',
        steps: [{ share: '100', stop: { by: 'ticks', value: '10', order: 'market' } }],
      };
      await tape.made('/api/exit-plans', { name: 'tagging', ...plan, setup: 'Dip' });
      expect((await tape.got<{ setup?: string }>('/api/exit-plans/tagging')).setup).to.equal('Dip');
      await tape.made('/api/exit-plans', { name: 'bare', ...plan });
      expect(await tape.got('/api/exit-plans/bare')).to.not.have.property('setup');
      await tape.made('/api/orders', order('buy', { exitPlan: 'tagging' }));
      await tape.made('/api/orders', order('buy', { clientOrderId: 'own1', exitPlan: 'tagging', setup: 'Own' }));
      const setups = (await tape.got<{ items: { setup: string | null; role: string }[] }>('/api/orders')).items;
      expect(setups.filter(({ role }) => role === 'entry').map(({ setup }) => setup)).to.deep.equal(['Dip', 'Own']);
      expect(await tape.got(path)).to.deep.equal({ account: 'MAIN', instrument: 'GANET.HALM', setup: 'Dip' });
      const put = (body: object) => tape.api.call('PUT', path, body);
      for (const body of [{}, { setup: '' }, { setup: '(none)' }, { setup: 'x', note: 'y' }])
        expect((await put(body)).status, JSON.stringify(body)).to.equal(422);
      expect((await put({ setup: 'Breakout' })).body).to.include({ setup: 'Breakout' });
      const other = await Client.signIn(tape.address, 'second', 'kavix-second');
      expect((await other.call('PUT', path, { setup: 'mine' })).status).to.equal(404);
      await tape.killed();
      expect((await tape.got<{ setup: string }>(path)).setup).to.equal('Breakout');
      await tape.made('/api/flatten', { account: 'MAIN' });
      expect((await tape.api.get(path)).status).to.equal(404);
      expect((await tape.got<{ items: Trip[] }>('/api/review/round-trips')).items).to.have.length(1);
      expect((await tape.got<{ items: Trip[] }>('/api/review/round-trips?setup=Breakout')).items).to.have.length(1);
    }));

  it('has a course: its fills, where its exits stood, what was asked and answered', () =>
    onTape(TAPE, async (tape) => {
      await tape.go(1);
      const exitPlan = {
        heldBy: 'venue',
        onSizeChange: 'follow',
        onMissedLevel: 'fire',
        steps: [{ share: '100', stop: { by: 'ticks', value: '10', order: 'market' } }],
      };
      await tape.made('/api/orders', order('buy', { exitPlan }));
      await tape.go(2);
      await tape.made('/api/flatten', { account: 'MAIN' });
      const [trip] = (await tape.got<{ items: Trip[] }>('/api/review/round-trips')).items;
      const course = await tape.got<{
        fills: { side: string; enters: boolean }[];
        levels: { kind: string; from: string; to: string }[];
        entries: { kind: string; orderId: string }[];
      }>(`/api/review/round-trips/${trip?.id ?? ''}/course`);
      expect(course.fills.map(({ side, enters }) => [side, enters])).to.deep.equal([
        ['buy', true],
        ['sell', false],
      ]);
      expect(course.levels.map(({ kind }) => kind)).to.deep.equal(['stop']);
      expect(course.levels[0]?.from).to.equal((trip as unknown as { openedAt: string }).openedAt);
      expect(course.entries.filter(({ kind }) => kind === 'order-requested').length).to.equal(3);
      expect((await tape.api.get('/api/review/round-trips/none/course')).status).to.equal(404);
    }));
});

describe('commission', function () {
  this.timeout(120_000);

  interface Line {
    readonly kind: string;
    readonly rate: string;
    readonly from: string;
  }
  const URL = '/api/accounts/MAIN/commission';
  const line = (more: object = {}) => ({ kind: 'share', basis: 'per-order', rate: '3.00', from: '2026-03-03', ...more });
  const lines = async (tape: TapeServer): Promise<string[]> =>
    (await tape.got<{ commission: Line[] }>('/api/accounts/MAIN')).commission.map(({ kind, rate, from }) => `${kind} ${rate} ${from}`);
  const fees = async (tape: TapeServer): Promise<string[]> => (await tape.got<{ items: { fee: string }[] }>('/api/fills')).items.map(({ fee }) => fee);

  it('that is agreed is charged from its day on, over a kill, and estimates say the same', () =>
    onTape(TAPE, async (tape) => {
      expect((await tape.api.post(URL, line())).status).to.equal(201);
      expect(await lines(tape)).to.include('share 3.00 2026-03-03');
      await tape.made('/api/clock', { advanceBy: 1000 });
      await tape.made('/api/orders', order('buy', { quantity: '1000' }));
      expect(await fees(tape), 'today as before').to.deep.equal(['40.00']);
      await tape.killed();
      await tape.made('/api/clock', { advanceTo: '2026-03-03T09:00:00.000Z' });
      const share = (await lines(tape)).filter((one) => one.startsWith('share'));
      expect(share).to.deep.equal(['share 3.00 2026-03-03']);
      const preview = await tape.made<{ estimate: { fees: string } }>('/api/orders/preview', order('sell', { quantity: '500' }));
      expect(preview.estimate.fees).to.equal('3.00');
      await tape.made('/api/orders', order('sell', { quantity: '500' }));
      expect(await fees(tape)).to.deep.equal(['40.00', '3.00']);
    }));

  it('stands where the desk’s own database is gone: the broker knows it', () =>
    onTape(TAPE, async (tape) => {
      await tape.api.post(URL, line());
      await tape.killed((folder) => {
        for (const file of readdirSync(folder)) if (/sqlite/.test(file) && !file.includes('venue')) rmSync(join(folder, file));
      });
      expect(await lines(tape)).to.include('share 3.00 2026-03-03');
    }));

  it('is told as an entry, and another line for the same day takes its place', () =>
    onTape(TAPE, async (tape) => {
      await tape.api.post(URL, line());
      await tape.api.post(URL, line({ rate: '2.50' }));
      expect((await lines(tape)).filter((one) => one.endsWith('2026-03-03'))).to.deep.equal(['share 2.50 2026-03-03']);
      const { items } = await tape.got<{ items: { kind: string }[] }>('/api/activity?account=MAIN');
      expect(items.filter(({ kind }) => kind === 'commission-agreed')).to.have.length(2);
    }));

  const WRONG: readonly (readonly [what: object, path: string])[] = [
    [{ kind: 'spot' }, '/kind'],
    [{ basis: 'per-contract' }, '/basis'],
    [{ from: '2026-03-02' }, '/from'],
    [{ from: 'soon' }, '/from'],
    [{ from: '2026-02-31' }, '/from'],
    [{ from: '2027-02-30' }, '/from'],
    [{ rate: '0.123456789' }, '/rate'],
    [{ minimum: '0.000000001' }, '/minimum'],
    [{ rate: '-1' }, '/rate'],
    [{ basis: 'percent', rate: '101' }, '/rate'],
    [{ minimum: '5.00', maximum: '4.00' }, '/maximum'],
    [{ rate: 3 }, '/rate'],
    [{ unknown: '1' }, '/unknown'],
  ];
  it('that can’t be is refused at what is wrong, and of another’s account nothing is known', () =>
    onTape(TAPE, async (tape) => {
      for (const [what, path] of WRONG) {
        const reply = await tape.api.post(URL, line(what));
        expect([reply.status, (reply.body as { errors: { path: string }[] }).errors[0]?.path]).to.deep.equal([422, path]);
      }
      expect((await tape.api.post('/api/accounts/OTHER/commission', line())).status).to.equal(404);
      await tape.made('/api/link', { broker: 'down' });
      expect((await tape.api.post(URL, line())).status).to.equal(503);
    }));
});
