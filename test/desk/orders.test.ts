import { expect } from 'chai';
import { positionOf } from '../../src/core/portfolio/index.ts';
import { at, idOf, orderIn, refusedAs, type World } from '../support/world.ts';
import { endWorlds, marketWorld, worldOf } from '../support/scenes.ts';

const held = (world: World, instrument = 'GANET.HALM', account = 'MAIN'): number => positionOf(world.desk.account(account).book, instrument).quantity;
const GTD = (time: string) => ({ timeInForce: 'gtd', expiresAt: `2026-03-02T${time}Z` }) as const;

describe('an order on a tape (exact rules, Orders)', () => {
  afterEach(endWorlds);

  describe('1: states and what ends an order', () => {
    it('is filled by what comes, and keeps its chain of versions', async () => {
      const w = await marketWorld(['09:00:01.000 GANET.HALM trade sell 41.18 700']);
      const id = await w.placed({ quantity: '400' });
      expect(await w.shown(id)).to.equal('partially-filled 300/400');
      expect(orderIn(await w.replace(id, { limitPrice: '41.18' })).version).to.equal(2);
      await w.to('09:00:01.000');
      expect(await w.shown(id)).to.equal('filled 400/400');
      expect((await w.money('MAIN')).cash).to.equal('83505.52');
    });
    it('replaced to no more than is filled becomes filled', async () => {
      const w = await marketWorld();
      const id = await w.placed({ quantity: '400' });
      await w.replace(id, { quantity: '200' });
      expect(await w.shown(id)).to.equal('filled 300/300');
    });
    it('of ioc keeps what filled and cancels the rest; of fok is filled whole or not at all', async () => {
      const w = await marketWorld();
      const ioc = await w.placed({ quantity: '400', timeInForce: 'ioc' });
      const fok = await w.placed({ quantity: '500', limitPrice: '41.21', timeInForce: 'fok' });
      expect([await w.shown(ioc), await w.shown(fok)]).to.deep.equal(['canceled 300/400 ioc', 'canceled 0/500 fok']);
    });
    it('that ends in the same message as the refusal of its change is done, and what follows goes on', async () => {
      const stop = { by: 'ticks', value: '20', order: 'market' } as const;
      const exitPlan = { heldBy: 'venue', onSizeChange: 'follow', onMissedLevel: 'fire', steps: [{ share: '100', stop }] } as const;
      const w = await marketWorld([], '09:00:00.500', { latencyMs: 40 });
      const id = await w.placed({ quantity: '400', timeInForce: 'ioc', exitPlan });
      await w.replace(id, { quantity: '500' });
      w.toDesk = (message) => (message.kind === 'stream' && message.time === at('09:00:00.540') ? 'lost' : null);
      await w.to('09:00:00.600');
      const next = await w.placed({ limitPrice: '41.00' });
      await w.to('09:00:02.000');
      expect([await w.shown(id), await w.shown(next), held(w)]).to.deep.equal(['canceled 300/400 ioc', 'new 0/100', 300]);
      expect((await w.orders('MAIN')).map(({ role }) => role)).to.include('stop');
    });
    it('of the day expires at the close; one placed after it belongs to the next day', async () => {
      const w = await marketWorld([
        '17:30:00.000 GANET.HALM state closed',
        '2026-03-03T09:00:00.000Z GANET.HALM state open',
        '2026-03-03T17:30:00.000Z GANET.HALM state closed',
      ]);
      const today = await w.placed({ limitPrice: '41.00' });
      await w.to('17:31:00.000');
      const tomorrow = await w.placed({ limitPrice: '41.01' });
      expect([await w.shown(today), await w.shown(tomorrow)]).to.deep.equal(['expired 0/100 day-end', 'new 0/100']);
      await w.to('2026-03-03T12:00:00.000Z');
      expect(await w.shown(tomorrow)).to.equal('new 0/100');
      await w.to('2026-03-03T17:30:00.000Z');
      expect(await w.shown(tomorrow)).to.equal('expired 0/100 day-end');
    });
    it('of gtc says when it ends, and ends at the day’s turn 90 calendar days after', async () => {
      const w = await marketWorld();
      const id = await w.placed({ limitPrice: '41.00', timeInForce: 'gtc' });
      expect((await w.order(id)).expiresAt).to.equal('2026-05-31T23:00:00.000Z');
      await w.to('2026-05-31T22:59:59.999Z');
      expect(await w.shown(id)).to.equal('new 0/100');
      await w.to('2026-05-31T23:00:00.000Z');
      expect(await w.shown(id)).to.equal('expired 0/100 gtc');
    });
    it('takes a cancel while a replace is pending, and no second replace', async () => {
      const w = await marketWorld([], '09:00:00.500', { latencyMs: 100 });
      const id = await w.placed({ limitPrice: '41.00' });
      await w.to('09:00:01.000');
      expect(orderIn(await w.replace(id, { limitPrice: '41.01' })))
        .to.have.property('pendingReplace')
        .not.equal(null);
      expect(refusedAs(await w.replace(id, { limitPrice: '41.02' }))).to.equal('409');
      await w.cancel(id);
      expect(await w.shown(id)).to.equal('pending-cancel 0/100');
      await w.to('09:00:02.000');
      expect(await w.shown(id)).to.equal('canceled 0/100 user');
    });
    it('that is finished can’t be changed or cancelled any more, and says how it stands', async () => {
      const w = await marketWorld();
      const id = await w.placed({ quantity: '100' });
      expect([refusedAs(await w.cancel(id)), refusedAs(await w.replace(id, { limitPrice: '41.00' }))]).to.deep.equal(['409', '409']);
    });
  });

  describe('2: reducing and opening', () => {
    it('cut to the position when it shrinks, and cancelled when it is flat, within the same event', async () => {
      const w = await marketWorld();
      await w.placed({ quantity: '300' });
      const target = await w.placed({ side: 'sell', limitPrice: '41.50', quantity: '300' });
      const stop = await w.placed({ side: 'sell', type: 'stop', stopPrice: '41.00', quantity: '200' });
      await w.placed({ side: 'sell', type: 'market', quantity: '150' });
      expect([await w.shown(target), await w.shown(stop)]).to.deep.equal(['new 0/150 reduced', 'new 0/150 reduced']);
      expect((await w.order(target)).version).to.equal(2);
      await w.closePosition('MAIN', 'GANET.HALM');
      expect([await w.shown(target), await w.shown(stop)]).to.deep.equal(['canceled 0/150 flat', 'canceled 0/150 flat']);
      expect(held(w)).to.equal(0);
    });
    it('two targets at one price never sell more than there is when one row fills both', async () => {
      const w = await marketWorld(['09:00:01.000 GANET.HALM level bid 41.60 900']);
      await w.placed({ quantity: '300' });
      const one = await w.placed({ side: 'sell', limitPrice: '41.50', quantity: '300' });
      const two = await w.placed({ side: 'sell', limitPrice: '41.50', quantity: '300' });
      await w.to('09:00:01.000');
      expect([await w.shown(one), await w.shown(two), held(w)]).to.deep.equal(['filled 300/300', 'canceled 0/300 flat', 0]);
    });
    it('larger than the position is refused, crosses when it says so, and is cut with reduceOnly', async () => {
      const w = await marketWorld();
      await w.placed({ quantity: '100' });
      expect(refusedAs(await w.place({ side: 'sell', limitPrice: '41.50', quantity: '150' }))).to.equal('422 /quantity');
      expect(orderIn(await w.place({ side: 'sell', limitPrice: '41.50', quantity: '150', reduceOnly: true })).terms.quantity).to.equal(100);
      const crossing = await w.placed({ side: 'sell', limitPrice: '41.18', quantity: '150', crossesZero: true });
      expect([(await w.order(crossing)).opening, held(w)]).to.deep.equal([true, -50]);
    });
    it('reduceOnly when flat is a conflict', async () => {
      const w = await marketWorld();
      expect(refusedAs(await w.place({ side: 'sell', limitPrice: '41.50', reduceOnly: true }))).to.equal('409');
    });
  });

  describe('3 and 4: restOnly, stops', () => {
    it('restOnly is refused where it would trade on arrival or by a replace, and the order is then as before', async () => {
      const w = await marketWorld();
      expect(refusedAs(await w.place({ restOnly: true }))).to.equal('422 /limitPrice');
      const id = await w.placed({ limitPrice: '41.10', restOnly: true });
      expect(refusedAs(await w.replace(id, { limitPrice: '41.20' }))).to.equal('422 /limitPrice');
      expect(await w.shown(id)).to.equal('new 0/100');
    });
    it('restOnly that waited for the open and would trade there is canceled by the venue', async () => {
      const w = await worldOf(['09:00:00.000 GANET.HALM state pre-open', '09:00:01.000 GANET.HALM level ask 41.20 300', '09:00:02.000 GANET.HALM state open']);
      await w.to('09:00:00.500');
      const id = await w.placed({ limitPrice: '41.30', restOnly: true });
      await w.to('09:00:02.000');
      expect(await w.shown(id)).to.equal('canceled 0/100 venue');
    });
    it('a stop must be on the right side, at each change too, and only what happens afterwards triggers it', async () => {
      const w = await marketWorld([
        '09:00:00.100 GANET.HALM trade sell 40.00 10',
        '09:00:01.000 GANET.HALM trade sell 41.05 10',
        '09:00:02.000 GANET.HALM trade sell 40.99 10',
      ]);
      await w.placed({ quantity: '200' });
      expect(refusedAs(await w.place({ side: 'sell', type: 'stop', stopPrice: '41.18' }))).to.equal('422 /stopPrice');
      const id = await w.placed({ side: 'sell', type: 'stop', stopPrice: '41.00' });
      expect(refusedAs(await w.replace(id, { stopPrice: '41.30' }))).to.equal('422 /stopPrice');
      await w.to('09:00:01.500');
      expect(await w.shown(id)).to.equal('new 0/100');
      await w.to('09:00:02.000');
      expect([await w.shown(id), (await w.order(id)).triggeredAt]).to.deep.equal(['filled 100/100', '2026-03-02T09:00:02.000Z']);
    });
    it('PATCH to a type without its price is 422 there, and the order goes on as it was', async () => {
      const w = await marketWorld();
      await w.placed({ quantity: '100' });
      const id = await w.placed({ side: 'sell', limitPrice: '41.50' });
      expect(refusedAs(await w.replace(id, { type: 'stop' }))).to.equal('422 /stopPrice');
      expect([await w.shown(id), (await w.order(id)).type]).to.deep.equal(['new 0/100', 'limit']);
      await w.replace(id, { type: 'stop', stopPrice: '41.00' });
      expect(refusedAs(await w.replace(id, { type: 'limit' }))).to.equal('422 /limitPrice');
    });
    it('an offset sticks when the stop price moves', async () => {
      const w = await marketWorld();
      await w.placed({ quantity: '100' });
      const id = await w.placed({ side: 'sell', type: 'stop-limit', stopPrice: '41.00', limitOffsetTicks: 5 });
      await w.replace(id, { stopPrice: '40.90' });
      expect(await w.order(id)).to.include({ stopPrice: '40.90', limitPrice: '40.85', limitOffsetTicks: 5, version: 2 });
    });
    it('a trailing stop follows the best price by whole ticks, never loosens, and moves without a version', async () => {
      const w = await marketWorld([
        '09:00:00.100 GANET.HALM trade buy 41.20 10',
        '09:00:01.000 GANET.HALM trade buy 41.40 10',
        '09:00:02.000 GANET.HALM trade sell 41.30 10',
        '09:00:03.000 GANET.HALM trade sell 41.25 10',
      ]);
      await w.placed({ quantity: '100' });
      const id = await w.placed({ side: 'sell', type: 'trailing-stop', trail: { unit: 'ticks', value: '15' } });
      expect((await w.order(id)).stopPrice).to.equal('41.05');
      await w.to('09:00:01.000');
      expect(await w.order(id)).to.include({ stopPrice: '41.25', version: 1, state: 'new' });
      await w.to('09:00:02.000');
      expect((await w.order(id)).stopPrice).to.equal('41.25');
      await w.to('09:00:03.000');
      expect(await w.order(id)).to.include({ state: 'filled', stopPrice: '41.25' });
    });
    it('a trail in percent or money is worked out exactly; a new trail counts at once and may loosen', async () => {
      const w = await marketWorld(['09:00:00.100 GANET.HALM trade buy 41.20 10']);
      await w.placed({ quantity: '100' });
      const percent = await w.placed({ side: 'sell', type: 'trailing-stop', trail: { unit: 'percent', value: '1' }, quantity: '50' });
      const money = await w.placed({ side: 'sell', type: 'trailing-stop', trail: { unit: 'money', value: '30.00' }, quantity: '50' });
      // 41.20 − 0.412 = 40.788, up to the grid; 41.20 − 30 ÷ 50
      expect([(await w.order(percent)).stopPrice, (await w.order(money)).stopPrice]).to.deep.equal(['40.79', '40.60']);
      await w.replace(percent, { trail: { unit: 'ticks', value: '100' } });
      expect((await w.order(percent)).stopPrice).to.equal('40.20');
    });
  });

  describe('6, 7 and 8: products, venues, days', () => {
    it('held intraday is closed by the broker at 17:20, and its reducing orders end', async () => {
      const w = await marketWorld(['17:19:00.000 GANET.HALM level bid 41.10 900']);
      await w.placed({ quantity: '100', product: 'intraday' });
      expect(refusedAs(await w.place({ quantity: '10', product: 'overnight' }))).to.equal('422 /product');
      const stop = await w.placed({ side: 'sell', type: 'stop', stopPrice: '41.00', quantity: '100' });
      await w.to('17:19:59.999');
      expect(held(w)).to.equal(100);
      await w.to('17:20:00.000');
      expect([held(w), await w.shown(stop)]).to.deep.equal([0, 'canceled 0/100 flat']);
      expect((await w.orders()).at(-1)).to.include({ role: 'close', reasonCode: 'intraday-end', side: 'sell' });
    });
    it('what a venue or an account doesn’t take is said at the field', async () => {
      const w = await marketWorld();
      const cases = [
        [{ instrument: 'GANET.QUAY', type: 'stop', stopPrice: '41.30' }, '422 /type'],
        [{ instrument: 'HALM40.HALM' }, '422 /instrument'],
        [{ account: 'EVAL' }, '422 /instrument'],
        [{ account: 'NIGHT', instrument: 'CARB-EUR.VSPR', product: 'intraday', limitPrice: '60.00', quantity: '1' }, '422 /product'],
      ] as const;
      for (const [given, answer] of cases) expect(refusedAs(await w.place(given)), JSON.stringify(given)).to.equal(answer);
    });
    it('an order in a future ends with it, and a new one is refused', async () => {
      const w = await marketWorld(['09:00:01.000 SALMO-JUN26.HALM level bid 7.15 50']);
      await w.to('09:00:02.000');
      const salmo = { instrument: 'SALMO-JUN26.HALM', limitPrice: '7.10', quantity: '1' } as const;
      const id = await w.placed({ ...salmo, timeInForce: 'gtd', expiresAt: '2026-08-01T00:00:00.000Z' });
      await w.to('2026-06-19T16:29:59.999Z');
      expect(await w.shown(id)).to.equal('new 0/1');
      await w.to('2026-06-19T16:30:00.000Z');
      expect([await w.shown(id), refusedAs(await w.place(salmo))]).to.deep.equal(['expired 0/1 gtd', '422 /instrument']);
    });
  });

  describe('9: the link', () => {
    it('goes on at the venue while the link is down; its fills come in order when it is up', async () => {
      const w = await marketWorld(['09:00:05.000 GANET.HALM trade sell 41.00 10']);
      const id = await w.placed({ limitPrice: '41.10' });
      await w.desk.setLink({ broker: 'down' });
      expect(refusedAs(await w.place())).to.equal('503');
      await w.to('09:00:06.000');
      expect(await w.shown(id)).to.equal('new 0/100');
      await w.desk.setLink({ broker: 'up' });
      expect(await w.shown(id)).to.equal('filled 100/100');
      expect((await w.fills())[0]?.time).to.equal(at('09:00:05.000'));
    });
    it('two wishes for it to be up are one: both answer after what was missed is applied', async () => {
      const w = await marketWorld(['09:00:05.000 GANET.HALM trade sell 41.00 10']);
      const id = await w.placed({ limitPrice: '41.10' });
      await w.desk.setLink({ broker: 'down' });
      await w.to('09:00:06.000');
      const seen = await Promise.all(
        [w.desk.setLink({ broker: 'up' }), w.desk.setLink({ broker: 'up' })].map(async (up) => [(await up).broker, await w.shown(id)]),
      );
      expect(seen).to.deep.equal([
        ['up', 'filled 100/100'],
        ['up', 'filled 100/100'],
      ]);
    });
    it('while desk and broker are made to agree opening orders are refused, closing and cancels wait', async () => {
      const w = await marketWorld();
      await w.placed({ quantity: '300' });
      const resting = await w.placed({ limitPrice: '41.00' });
      await w.desk.setLink({ broker: 'down' });
      const up = w.desk.setLink({ broker: 'up' });
      while (w.desk.link.broker === 'down') await Promise.resolve();
      const [opening, closing, cancel] = await Promise.all([
        w.place({ quantity: '10' }),
        w.place({ side: 'sell', type: 'market', quantity: '100' }),
        w.cancel(resting),
        up,
      ]);
      expect([refusedAs(opening), (await w.order(idOf(closing))).state, (await w.order(idOf(cancel))).state]).to.deep.equal(['503', 'filled', 'canceled']);
    });
  });
});

describe('timers and rows at one time (exact rules, Tapes 4)', () => {
  afterEach(endWorlds);
  it('an order that expires at a time is not filled by a row at that time', async () => {
    const w = await marketWorld(['09:00:10.000 GANET.HALM trade sell 40.00 900']);
    const id = await w.placed({ limitPrice: '41.10', ...GTD('09:00:10.000') });
    await w.to('09:00:10.000');
    expect(await w.shown(id)).to.equal('expired 0/100 gtd');
  });
  it('with latency a request arrives one latency later', async () => {
    const w = await marketWorld([], '09:00:01.000', { latencyMs: 250 });
    const id = await w.placed({ quantity: '100' });
    expect(await w.shown(id)).to.equal('pending-new 0/100');
    await w.to('09:00:01.249');
    expect(await w.shown(id)).to.equal('pending-new 0/100');
    await w.to('09:00:01.250');
    expect(await w.shown(id)).to.equal('filled 100/100');
  });
  it('the same tape in one advance or in a thousand gives the same fills, money and versions', async () => {
    const rows = Array.from({ length: 200 }, (_, i) => {
      const time = `09:00:${String(1 + Math.floor(i / 10)).padStart(2, '0')}.${String((i % 10) * 100).padStart(3, '0')}`;
      return i % 3 === 0
        ? `${time} GANET.HALM trade ${i % 2 ? 'buy' : 'sell'} ${(41.1 + ((i * 7) % 20) / 100).toFixed(2)} ${10 + i}`
        : `${time} GANET.HALM level ${i % 2 ? 'ask' : 'bid'} ${(i % 2 ? 41.2 : 41.1 + ((i * 5) % 8) / 100).toFixed(2)} ${50 + i}`;
    });
    const run = async (steps: number): Promise<unknown> => {
      const w = await marketWorld(rows);
      await w.placed({ quantity: '500', limitPrice: '41.15' });
      await w.placed({ quantity: '300', limitPrice: '41.20' });
      await w.placed({ side: 'sell', type: 'stop', stopPrice: '41.11', quantity: '200' });
      await w.placed({ side: 'sell', type: 'trailing-stop', trail: { unit: 'ticks', value: '6' }, quantity: '100' });
      for (let i = 1; i <= steps; i++) await w.desk.advance(at('09:00:00.500') + Math.round((25_000 * i) / steps));
      const fills = (await w.fills()).map(({ id, price, quantity, time }) => [id, price, quantity, time]);
      return [fills, (await w.money('MAIN')).cash, (await w.orders()).map(({ id, version, terms }) => [id, version, terms.quantity])];
    };
    expect(await run(1000)).to.deep.equal(await run(1));
  });
});

describe('closing and flattening', () => {
  afterEach(endWorlds);
  const OPTION = 'GANET-APR26-40C.HALM';
  const withOptions = async (rows: readonly string[]): Promise<World> => {
    const w = await marketWorld([
      `09:00:00.000 ${OPTION} state open`,
      `09:00:00.000 ${OPTION} level bid 1.90 2`,
      `09:00:00.000 ${OPTION} level ask 2.00 10`,
      ...rows,
    ]);
    await w.placed({ instrument: OPTION, limitPrice: '2.00', quantity: '5' });
    return w;
  };

  it('flattens in one decision: cancels first, then closes, and has nothing to do the second time', async () => {
    const w = await marketWorld();
    await w.placed({ quantity: '300' });
    await w.placed({ limitPrice: '41.00' });
    const entries = w.deskStore.rows.length;
    const done = await w.flatten('MAIN');
    expect(done.ok && done.value.kind === 'orders' && [done.value.canceled.length, done.value.closing.length, done.value.refused.length]).to.deep.equal([
      1, 1, 0,
    ]);
    expect(held(w)).to.equal(0);
    const [group, cancel, close] = w.deskStore.rows.slice(entries);
    expect([group?.kind, cancel?.kind, close?.kind]).to.deep.equal(['group-requested', 'cancel-requested', 'order-requested']);
    expect([cancel?.causedBy, close?.causedBy]).to.deep.equal([group?.seq, group?.seq]);
    const again = await w.flatten('MAIN');
    expect(again.ok && again.value.kind === 'orders' && [again.value.canceled, again.value.closing]).to.deep.equal([[], []]);
  });
  it('where only limits are taken it is a limit at the best opposite price that moves with it, without a version', async () => {
    const w = await withOptions([`09:00:02.000 ${OPTION} level bid 1.85 1`, `09:00:03.000 ${OPTION} level bid 1.80 9`]);
    const id = idOf(await w.closePosition('MAIN', OPTION));
    expect([await w.shown(id), (await w.order(id)).type]).to.deep.equal(['partially-filled 2/5', 'limit']);
    await w.to('09:00:02.000');
    expect(await w.shown(id)).to.equal('partially-filled 3/5');
    expect(await w.order(id)).to.include({ limitPrice: '1.85', version: 1 });
    await w.to('09:00:03.000');
    expect(await w.shown(id)).to.equal('filled 5/5');
    expect((await w.fills()).slice(-3).map((fill) => fill.price)).to.deep.equal([190, 185, 180]);
  });
  it('a trader’s change of it ends its following', async () => {
    const w = await withOptions([`09:00:02.000 ${OPTION} level bid 1.85 9`]);
    const id = idOf(await w.closePosition('MAIN', OPTION));
    await w.replace(id, { limitPrice: '1.95' });
    await w.to('09:00:02.000');
    expect([await w.shown(id), (await w.order(id)).limitPrice]).to.deep.equal(['partially-filled 2/5', '1.95']);
  });
  it('waits for a price where there is none, through a halt too', async () => {
    const w = await withOptions([
      `09:00:01.000 ${OPTION} level bid 1.90 0`,
      `09:00:02.000 ${OPTION} state halted`,
      `09:00:03.000 ${OPTION} level bid 1.70 9`,
      `09:00:04.000 ${OPTION} state open`,
    ]);
    await w.to('09:00:01.500');
    const id = idOf(await w.closePosition('MAIN', OPTION));
    expect(await w.shown(id)).to.equal('new 0/5');
    await w.to('09:00:03.000');
    expect(await w.shown(id)).to.equal('new 0/5');
    await w.to('09:00:04.000');
    expect(await w.shown(id)).to.equal('filled 5/5');
  });
  it('of a percentage is taken down to the step; what comes to nothing is refused', async () => {
    const w = await marketWorld();
    await w.placed({ quantity: '3' });
    expect(refusedAs(await w.closePosition('MAIN', 'GANET.HALM', { percent: '25' }))).to.equal('422 /percent');
    expect(orderIn(await w.closePosition('MAIN', 'GANET.HALM', { percent: '50' })).terms.quantity).to.equal(1);
  });
});

describe('what ends on its last day', () => {
  afterEach(endWorlds);
  const last = '2026-04-17T';
  const option = 'GANET-APR26-40C.HALM';

  it('an option in the money is settled in cash at its underlying, and its orders expire', async () => {
    const w = await marketWorld([
      `${last}09:00:00.000Z ${option} state open`,
      `${last}09:00:00.000Z ${option} level ask 1.00 10`,
      `${last}15:00:00.000Z GANET.HALM trade buy 42.50 10`,
    ]);
    await w.to(`${last}10:00:00.000Z`);
    await w.placed({ instrument: option, limitPrice: '1.00', quantity: '2' });
    const resting = await w.placed({ instrument: option, side: 'sell', limitPrice: '9.00', quantity: '2', timeInForce: 'gtc' });
    const before = w.desk.account('MAIN').book.cash;
    await w.to(`${last}16:30:00.000Z`);
    expect([held(w, option), await w.shown(resting)]).to.deep.equal([0, 'expired 0/2 gtc']);
    // (42.50 − 40) × 2 × 100
    expect(w.desk.account('MAIN').book.cash - before).to.equal(500_00000000n);
    expect((await w.position('MAIN', option)).day.realised).to.equal('300.00');
    expect(refusedAs(await w.place({ instrument: option, limitPrice: '1.00', quantity: '1' }))).to.equal('422 /instrument');
  });
  it('one out of the money is worth nothing', async () => {
    const w = await marketWorld([
      `${last}09:00:00.000Z ${option} state open`,
      `${last}09:00:00.000Z ${option} level ask 1.00 10`,
      `${last}15:00:00.000Z GANET.HALM trade buy 39.99 10`,
    ]);
    await w.to(`${last}10:00:00.000Z`);
    await w.placed({ instrument: option, limitPrice: '1.00', quantity: '2' });
    const before = w.desk.account('MAIN').book.cash;
    await w.to(`${last}16:30:00.000Z`);
    expect([held(w, option), w.desk.account('MAIN').book.cash - before]).to.deep.equal([0, 0n]);
  });
  it('a future gains what the index made since it was bought', async () => {
    const future = 'HALM40M-JUN26.HALM';
    const day = '2026-06-19T';
    const w = await marketWorld([
      `${day}09:00:00.000Z ${future} state open`,
      `${day}09:00:00.000Z ${future} level ask 4000.5 10`,
      `${day}15:00:00.000Z HALM40.HALM trade buy 4010.37 1`,
    ]);
    await w.to(`${day}10:00:00.000Z`);
    await w.placed({ instrument: future, limitPrice: '4000.5', quantity: '3' });
    const before = w.desk.account('MAIN').book.cash;
    await w.to(`${day}16:30:00.000Z`);
    // (4010.37 − 4000.50) × 3
    expect([held(w, future), w.desk.account('MAIN').book.cash - before]).to.deep.equal([0, 29_61000000n]);
  });
});
