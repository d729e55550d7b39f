import { expect } from 'chai';
import { Client } from '../support/server.ts';
import { TapeServer, at, played } from '../support/tape-server.ts';

const G = 'GANET.HALM';
const B = 'BRINE.HALM';
const row = (time: number, id: string, event: string, side: string, price: string, quantity: number): string =>
  `${at(time)},${id},${event},${side},${price},${quantity},`;
const TAPE = [
  ...[G, B].flatMap((id) => [row(0, id, 'level', 'bid', '40.98', 5000), row(0, id, 'level', 'ask', '41.00', 5000), row(0, id, 'trade', 'buy', '41.00', 10)]),
  row(20, B, 'trade', 'sell', '40.50', 5000),
];

const asked = (id: string, more: object = {}) => ({ id, account: 'MAIN', instrument: G, side: 'buy', type: 'market', quantity: '100', ...more });

interface Run {
  readonly id: string;
  readonly state: string;
  readonly rows: readonly {
    readonly id: string;
    readonly instrument: string;
    readonly state: string;
    readonly filled: string;
    readonly averagePrice: string | null;
  }[];
  readonly progress: { readonly units: { readonly filled: string; readonly asked: string } };
}
interface Refused {
  readonly errors?: readonly { readonly path: string; readonly message: string; readonly from?: number }[];
}

const errorsOf = async (tape: TapeServer, rows: readonly object[]): Promise<string[]> => {
  const reply = await tape.api.call('POST', '/api/baskets', { name: 'wrong', rows });
  expect(reply.status).to.equal(422);
  return ((reply.body as Refused).errors ?? []).map(({ path }) => path);
};

describe('baskets', function () {
  this.timeout(120_000);

  it('are refused whole where a row can’t be, each field named, and nothing is kept', () =>
    played(new TapeServer(TAPE), async (tape) => {
      await tape.go(1);
      expect(await errorsOf(tape, [asked('a'), asked('b', { type: 'limit' })])).to.deep.equal(['/rows/1/limitPrice']);
      expect(await errorsOf(tape, [asked('a', { type: 'limit', limitPrice: '41.005' }), asked('b', { instrument: 'NOPE.HALM' })])).to.deep.equal([
        '/rows/0/limitPrice',
        '/rows/1/instrument',
      ]);
      expect(await errorsOf(tape, [asked('a', { account: 'OTHER' })])).to.deep.equal(['/rows/0/account']);
      expect(await errorsOf(tape, [asked('a'), asked('a')])).to.deep.equal(['/rows/1/id']);
      expect(await errorsOf(tape, [asked('a', { type: 'limit', limitPhrase: 'somewhere' })])).to.deep.equal(['/rows/0/limitPhrase']);
      expect(await errorsOf(tape, [])).to.deep.equal(['/rows']);
      expect(await tape.got('/api/baskets')).to.deep.equal({ items: [] });
    }));

  it('are changed by their version alone, hidden from others, and gone once they are deleted', () =>
    played(new TapeServer(TAPE), async (tape) => {
      await tape.go(1);
      await tape.made('/api/baskets', { name: 'a / b', rows: [asked('a', { type: 'limit', limitPhrase: 'bid  -  2   tick' })] });
      const path = `/api/baskets/${encodeURIComponent('a / b')}`;
      expect((await tape.got<{ rows: { limitPhrase: string }[] }>(path)).rows[0]?.limitPhrase).to.equal('bid - 2 ticks');
      expect((await tape.api.call('POST', '/api/baskets', { name: 'a / b', rows: [asked('a')] })).status).to.equal(409);
      expect((await tape.api.call('PUT', path, { rows: [asked('a')], version: 3 })).status).to.equal(409);
      expect((await tape.api.call('PUT', path, { rows: [asked('a')], version: 1 })).status).to.equal(200);
      const second = await Client.signIn(tape.address, 'second', 'kavix-second');
      expect((await second.call('GET', path)).status).to.equal(404);
      expect((await tape.api.call('DELETE', path)).status).to.equal(204);
      expect((await tape.api.call('POST', `${path}/send`, { pace: 'at-once', clientRunId: 'x' })).status).to.equal(404);
    }));

  it('are checked as a whole: what earlier rows take later ones lack, and nothing is sent', () =>
    played(new TapeServer(TAPE), async (tape) => {
      await tape.go(1);
      await tape.made('/api/baskets', {
        name: 'big',
        rows: [asked('a', { quantity: '4000' }), asked('b', { quantity: '4000', instrument: B }), asked('c', { quantity: '10' })],
      });
      const check = await tape.made<{ ok: boolean; rows: { ok: boolean; error: Refused | null }[]; total: { buyingPowerAfter: Record<string, string> } }>(
        '/api/baskets/big/check',
        {},
      );
      expect([check.ok, check.rows.map(({ ok }) => ok)]).to.deep.equal([false, [true, false, true]]);
      expect(check.rows[1]?.error).to.include({ status: 422, rule: 'buyingPower' });
      expect(Number(check.total.buyingPowerAfter['MAIN'])).to.be.within(0, 20_000);
      expect((await tape.api.call('POST', '/api/baskets/big/check', { percent: '0' })).status).to.equal(422);
      expect((await tape.api.call('POST', '/api/baskets/big/check', { percent: '100.1' })).status).to.equal(422);
      expect(await tape.got('/api/basket-runs')).to.deep.equal({ items: [] });
      expect((await tape.got<{ items: unknown[] }>('/api/orders')).items).to.deep.equal([]);
    }));

  it('go on by themselves over a kill, send nothing twice, and can be read after their basket is gone', () =>
    played(new TapeServer(TAPE), async (tape) => {
      await tape.go(1);
      await tape.made('/api/baskets', { name: 'two', rows: [asked('a', { instrument: B, type: 'limit', limitPrice: '40.60' }), asked('b')] });
      const { id } = await tape.made<Run>('/api/baskets/two/send', { pace: 'one-by-one', clientRunId: 'once' });
      await tape.killed();
      expect((await tape.made<Run>('/api/baskets/two/send', { pace: 'one-by-one', clientRunId: 'once' })).id).to.equal(id);
      expect((await tape.got<Run>(`/api/basket-runs/${id}`)).rows.map(({ state }) => state)).to.deep.equal(['new', 'waiting']);
      await tape.go(21);
      const done = await tape.got<Run>(`/api/basket-runs/${id}`);
      expect(done.rows.map(({ instrument, state, filled, averagePrice }) => [instrument, state, filled, averagePrice])).to.deep.equal([
        [B, 'filled', '100', '40.60'],
        [G, 'filled', '100', '41.00'],
      ]);
      expect([done.state, done.progress.units]).to.deep.equal(['done', { filled: '200', asked: '200' }]);
      expect((await tape.got<{ items: unknown[] }>('/api/orders')).items).to.have.length(2);
      expect((await tape.api.call('POST', `/api/basket-runs/${id}/cancel`)).status).to.equal(409);
      await tape.api.call('DELETE', '/api/baskets/two');
      expect((await tape.got<Run>(`/api/basket-runs/${id}`)).state).to.equal('done');
    }));
});

describe('the recap of a day', function () {
  this.timeout(120_000);

  it('asks about what was traded, tells what rules stopped, and what was missed', () =>
    played(new TapeServer([...TAPE, row(100, G, 'trade', 'sell', '40.00', 10)]), async (tape) => {
      await tape.go(1);
      const order = (more: object) => tape.api.call('POST', '/api/orders', { account: 'MAIN', instrument: G, type: 'market', quantity: '100', ...more });
      for (const n of [1, 2]) {
        await order({ clientOrderId: `b${n}`, side: 'buy', setup: 'Dip' });
        await order({ clientOrderId: `s${n}`, side: 'sell' });
      }
      expect((await order({ clientOrderId: 'm', side: 'buy', type: 'limit', limitPrice: '39.00', setup: 'Dip' })).status).to.equal(201);
      const { version, ...rules } = await tape.got<Record<string, unknown>>('/api/risk/MAIN');
      expect((await tape.api.call('PUT', '/api/risk/MAIN', { ...rules, maxOrderQuantity: '50', version })).status).to.equal(200);
      expect((await order({ clientOrderId: 'no', side: 'buy' })).status).to.equal(422);
      await tape.api.call('POST', '/api/orders/cancel', { account: 'MAIN' });
      await tape.go(101);
      const { day, week } = await tape.got<{ day: Recap; week: Recap }>('/api/review/recap?day=2026-03-02');
      expect(day.question).to.equal('Two of two losers were in the first 10 minutes. What will you change?');
      expect(day.stopped.map(({ account, text }) => [account, /50/.test(text)])).to.deep.equal([['MAIN', true]]);
      expect(day.missed).to.deep.equal({ count: 1, toClose: '100.00' });
      expect([day.near, week.near], 'no limit was near').to.deep.equal([[], []]);
      const { version: newer, ...now } = await tape.got<Record<string, unknown>>('/api/risk/MAIN');
      const all = await tape.got<{ all: { net: string } }>('/api/review/figures?from=2026-03-02&to=2026-03-02');
      const lost = -Number(all.all.net);
      const limit = (lost / 0.8).toFixed(2);
      expect((await tape.api.call('PUT', '/api/risk/MAIN', { ...now, dayLossLimit: limit, version: newer })).status).to.equal(200);
      const after = await tape.got<{ day: Recap; week: Recap }>('/api/review/recap?day=2026-03-02');
      expect(after.day.near).to.deep.equal([{ account: 'MAIN', day: '2026-03-02', low: all.all.net, limit }]);
      expect(after.week.near).to.deep.equal(after.day.near);
      expect(week.question).to.equal(day.question);
      const empty = await tape.got<{ day: Recap }>('/api/review/recap?day=2026-02-27');
      expect(empty.day).to.deep.include({ question: null, stopped: [], near: [], missed: { count: 0, toClose: null } });
    }));
});

interface Recap {
  readonly question: string | null;
  readonly stopped: readonly { readonly account: string; readonly text: string }[];
  readonly near: readonly object[];
  readonly missed: { readonly count: number; readonly toClose: string | null };
}
