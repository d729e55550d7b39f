import { expect } from 'chai';
import { NO_RULES, rulesText } from '../../src/core/risk/index.ts';
import { Heard } from '../support/heard.ts';
import { START, TapeServer, played } from '../support/tape-server.ts';

const G = 'GANET.HALM';
const row = (seconds: number, event: string, side: string, price: string, quantity: number): string =>
  `${new Date(START + seconds * 1000).toISOString()},${G},${event},${side},${price},${quantity},`;
/** 41.00 bid and 41.02 offered; trades at 40.80 within the second minute and at 41.30 within the third. */
const TAPE = [
  row(0, 'level', 'bid', '41.00', 100_000),
  row(0, 'level', 'ask', '41.02', 100_000),
  row(1, 'trade', 'buy', '41.02', 10),
  row(70, 'trade', 'sell', '40.80', 10),
  row(130, 'trade', 'buy', '41.30', 10),
  row(131, 'level', 'bid', '41.25', 100_000),
];

interface Moment {
  readonly time: string;
  readonly net: string;
}
interface Day {
  readonly points: readonly Moment[];
  readonly low: Moment;
  readonly high: Moment;
}
interface PastDay {
  readonly day: string;
  readonly net: string;
  readonly low: string;
  readonly limit: string | null;
  readonly reached: boolean;
  readonly near: boolean;
  readonly uses: readonly { readonly rule: string; readonly of: string | null; readonly used: string; readonly most: string }[];
  readonly rules: readonly { readonly rule: string; readonly refused: number; readonly began: number }[];
}

interface State {
  readonly netToday: string;
  readonly nextWindow: string | null;
  readonly blocked: readonly { readonly rule: string }[];
}
const statesOf = (heard: Heard): State[] => (heard.changes.get('risk:MAIN') ?? []) as State[];
const soon = async (so: () => boolean): Promise<void> => {
  for (let tries = 0; !so(); tries++) {
    if (tries > 60) throw new Error('it was not told');
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
};

const order = (id: string, side: string, more: object = {}) => ({
  clientOrderId: id,
  account: 'MAIN',
  instrument: G,
  side,
  type: 'market',
  quantity: '100',
  ...more,
});
const rules = (more: object) => ({ ...rulesText(NO_RULES), ...more });
const onTape = (scene: (tape: TapeServer) => Promise<void>): Promise<void> => played(new TapeServer(TAPE), scene);
const until = (tape: TapeServer, seconds: number): Promise<unknown> => tape.made('/api/clock', { advanceTo: new Date(START + seconds * 1000).toISOString() });
const setRules = async (tape: TapeServer, more: object): Promise<void> => {
  const { version } = await tape.got<{ version: number }>('/api/risk/MAIN');
  expect((await tape.api.call('PUT', '/api/risk/MAIN', { ...rules(more), version })).status).to.equal(200);
};

describe('the days of an account against its rules', function () {
  this.timeout(120_000);

  it('today is told at each fill and each minute, with its low and high, and ends where the risk state stands', () =>
    onTape(async (tape) => {
      await until(tape, 5);
      await tape.made('/api/orders', order('b', 'buy'));
      await until(tape, 200);
      const day = await tape.got<Day>('/api/risk/MAIN/day');
      // 100 bought at 41.02, fee 4.10. By the minute: 41.02, then 40.80, then 41.30.
      expect(day.points.slice(0, -1).map(({ net }) => net)).to.deep.equal(['-4.10', '-4.10', '-26.10', '23.90']);
      expect([day.low.net, day.high.net]).to.deep.equal(['-26.10', '23.90']);
      expect(day.low.time).to.equal(new Date(START + 120_000).toISOString());
      const { netToday } = await tape.got<{ netToday: string }>('/api/risk/MAIN/state');
      expect(day.points.at(-1)?.net).to.equal(netToday);
    }));

  it('what was carried counts from the settlement, and what was filled yesterday no more', () =>
    onTape(async (tape) => {
      await until(tape, 5);
      await tape.made('/api/orders', order('b', 'buy'));
      await until(tape, 24 * 3600 + 10);
      const day = await tape.got<Day>('/api/risk/MAIN/day');
      const { netToday } = await tape.got<{ netToday: string }>('/api/risk/MAIN/state');
      // No trade yet today: the mid of 41.25 and 41.02 against the settlement of 41.30, on 100.
      expect([day.points.at(-1)?.net, netToday]).to.deep.equal(['-16.50', '-16.50']);
    }));

  it('a day begins at its first price: what is filled in its first minute finds what was carried at that', () =>
    played(new TapeServer([...TAPE, row(24 * 3600 + 12, 'trade', 'buy', '42.30', 10)]), async (tape) => {
      await until(tape, 5);
      await tape.made('/api/orders', order('b', 'buy'));
      await until(tape, 24 * 3600 + 20);
      await tape.made('/api/orders', order('c', 'sell', { quantity: '50' }));
      const day = await tape.got<Day>('/api/risk/MAIN/day');
      // 100 carried from the settlement of 41.30 to 42.30: 100.00; then 50 sold at 41.25 with a fee, the rest at that price.
      expect(day.points[0]?.net).to.equal('100.00');
      expect(day.high.net).to.equal('100.00');
    }));

  it('past days tell their net, how low it ran, the limit of that day, near misses, breaches and refusals', () =>
    onTape(async (tape) => {
      await setRules(tape, { dayLossLimit: '12.00', onDayLoss: 'block' });
      await until(tape, 5);
      await tape.made('/api/orders', order('b', 'buy'));
      // Sold at 41.00: −2.00 less 8.20 of fees, 85 % of the limit.
      await tape.made('/api/orders', order('s', 'sell'));
      const [near] = (await tape.got<{ items: PastDay[] }>('/api/risk/MAIN/days?limit=1')).items;
      expect(near).to.deep.equal({
        day: '2026-03-02',
        net: '-10.20',
        low: '-10.20',
        limit: '12.00',
        reached: false,
        near: true,
        uses: [{ rule: 'dayLossLimit', of: null, used: '10.20', most: '12.00' }],
        rules: [],
      });
      await tape.made('/api/orders', order('b2', 'buy'));
      expect((await tape.api.post('/api/orders', order('b3', 'buy'))).status, 'its fee reached the limit').to.equal(422);
      await tape.made('/api/flatten', { account: 'MAIN' });
      await until(tape, 26 * 3600);
      await setRules(tape, { dayLossLimit: '500.00', onDayLoss: 'block' });
      const days = (await tape.got<{ items: PastDay[] }>('/api/risk/MAIN/days?limit=2')).items;
      expect(days.map(({ day, limit, reached, near: close }) => [day, limit, reached, close])).to.deep.equal([
        ['2026-03-02', '12.00', true, false],
        ['2026-03-03', '500.00', false, false],
      ]);
      expect(days[0]?.rules).to.deep.equal([{ rule: 'dayLossLimit', refused: 1, began: 1 }]);
    }));

  it('each opening order that was taken or changed tells what it used of the limits of one order; refused and closing ones do not', () =>
    onTape(async (tape) => {
      const limits = {
        maxOrderQuantity: '500',
        maxOrderValue: '30000',
        maxDistancePercent: '3',
        maxOrdersPerMinute: 5,
        openRisk: 'refuse',
        dayLossLimit: '400.00',
      };
      await setRules(tape, limits);
      await until(tape, 5);
      const plan = (value: string) => ({
        heldBy: 'venue',
        onSizeChange: 'follow',
        onMissedLevel: 'fire',
        steps: [{ share: '100', target: null, stop: { by: 'ticks', value, order: 'market' } }],
      });
      const uses = async (): Promise<Record<string, string>> => {
        const [{ uses: all }] = (await tape.got<{ items: [PastDay] }>('/api/risk/MAIN/days?limit=1')).items;
        return Object.fromEntries(all.map(({ rule, of, used, most }) => [rule, `${used} of ${most}${of === null ? '' : ` in ${of}`}`]));
      };
      expect(await uses(), 'before the first order').to.deep.equal({ dayLossLimit: '0.00 of 400.00' });
      const limit = (id: string, limitPrice: string, quantity: string, distance: string) =>
        order(id, 'buy', { type: 'limit', limitPrice, quantity, exitPlan: plan(distance) });
      // Its mark is the last, 41.02: 40.61 lies 0.9995 % from it. At its stop 1.00 lower 200 lose 200.00 and a fee of 7.92.
      const { id, version } = await tape.made<{ id: string; version: number }>('/api/orders', limit('one', '40.61', '200', '100'));
      expect(await uses()).to.deep.equal({
        dayLossLimit: '0.00 of 400.00',
        maxOrderQuantity: `200 of 500 in ${G}`,
        maxOrderValue: `8122.00 of 30000.00 in ${G}`,
        maxDistancePercent: `0.99 of 3.00 in ${G}`,
        maxOrdersPerMinute: '1 of 5',
        openRisk: `207.92 of 400.00 in ${G}`,
      });
      expect((await tape.api.post('/api/orders', limit('far', '39.00', '100', '50'))).status, 'too far from the market').to.equal(422);
      await tape.made('/api/orders', limit('two', '41.00', '100', '50'));
      expect((await tape.api.call('PATCH', `/api/orders/${id}`, { limitPrice: '40.20', version })).status).to.equal(200);
      await tape.made('/api/flatten', { account: 'MAIN' });
      // The second raised what stops could lose by 54.05; the change moved the first further from the market.
      expect(await uses()).to.deep.equal({
        dayLossLimit: '0.00 of 400.00',
        maxOrderQuantity: `200 of 500 in ${G}`,
        maxOrderValue: `8122.00 of 30000.00 in ${G}`,
        maxDistancePercent: `1.99 of 3.00 in ${G}`,
        maxOrdersPerMinute: '2 of 5',
        openRisk: `261.97 of 400.00 in ${G}`,
      });
      await until(tape, 26 * 3600);
      const [before, today] = (await tape.got<{ items: PastDay[] }>('/api/risk/MAIN/days?limit=2')).items;
      expect([before?.uses.length, today?.uses.map(({ rule }) => rule)], 'a new day begins with none').to.deep.equal([6, ['dayLossLimit']]);
    }));

  it('a lock that is over is told with its time, until another one is on', () =>
    onTape(async (tape) => {
      const over = async (): Promise<{ from: string; until: string } | null> =>
        (await tape.got<{ lockOver: { from: string; until: string } | null }>('/api/risk/MAIN/state')).lockOver;
      await setRules(tape, { dayLossLimit: '100.00', onDayLoss: 'block' });
      expect(await over()).to.equal(null);
      const end = new Date(START + 60_000).toISOString();
      const began = (await tape.got<{ time: string }>('/api/clock')).time;
      expect((await tape.api.post('/api/risk/MAIN/lock', { until: end })).status).to.equal(201);
      expect(await over(), 'while it is on').to.equal(null);
      await until(tape, 61);
      expect(await over()).to.deep.equal({ from: began, until: end });
      await tape.api.post('/api/risk/MAIN/lock', { until: new Date(START + 90_000).toISOString() });
      expect(await over()).to.equal(null);
    }));

  it('of another’s account, and for a count that can’t be, nothing is told', () =>
    onTape(async (tape) => {
      for (const path of ['day', 'days']) expect((await tape.api.get(`/api/risk/OTHER/${path}`)).status).to.equal(404);
      for (const limit of ['0', '251', 'x']) expect((await tape.api.get(`/api/risk/MAIN/days?limit=${limit}`)).status).to.equal(422);
    }));

  it('the streamed state moves with the market, not with entries alone', () =>
    onTape(async (tape) => {
      await until(tape, 5);
      await tape.made('/api/orders', order('b', 'buy'));
      const heard = new Heard();
      await heard.follow(tape.api, ['risk:MAIN']);
      await until(tape, 71);
      await soon(() => statesOf(heard).at(-1)?.netToday === '-26.10');
      heard.close();
    }));

  it('nor with the market alone: a window that begins and ends where nothing is held is told too', () =>
    onTape(async (tape) => {
      await setRules(tape, { noTradeWindows: [{ from: '09:01', to: '09:02' }] });
      const heard = new Heard();
      await heard.follow(tape.api, ['risk:MAIN']);
      await soon(() => heard.snapshots.size > 0);
      expect(await tape.got<State>('/api/risk/MAIN/state')).to.deep.include({ blocked: [], nextWindow: new Date(START + 60_000).toISOString() });
      await until(tape, 60);
      await soon(() => statesOf(heard).at(-1)?.blocked[0]?.rule === 'noTradeWindows');
      await until(tape, 120);
      await soon(() => statesOf(heard).at(-1)?.blocked.length === 0);
      expect(statesOf(heard).at(-1)?.nextWindow).to.equal(new Date(START + 60_000 + 86_400_000).toISOString());
      heard.close();
    }));
});
