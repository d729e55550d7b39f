import { expect } from 'chai';
import { World, at, idOf, refusedAs } from '../support/world.ts';
import { MARKET, endWorlds, marketWorld, worldOf } from '../support/scenes.ts';

const OPTION = 'GANET-APR26-40C.HALM';
const SPOT = 'CARB-EUR.VSPR';

describe('the gate', () => {
  afterEach(endWorlds);

  it('checks the buying power of a change of type and of price, and counts the order itself only once', async () => {
    const w = await marketWorld();
    const id = await w.placed({ quantity: '4000', limitPrice: '40.00' });
    expect(refusedAs(await w.replace(id, { limitPrice: '41.10' }))).to.equal('accepted');
    expect(refusedAs(await w.replace(id, { quantity: '5000' }))).to.equal('422 buyingPower');
    expect(refusedAs(await w.replace(id, { type: 'stop', stopPrice: '50.00' }))).to.equal('422 buyingPower');
  });

  it('refuses what nothing tells the worth of, and takes a limit there', async () => {
    const w = await worldOf(['09:00:00.000 BRINE.HALM state open']);
    await w.to('09:00:01.000');
    const brine = { instrument: 'BRINE.HALM', quantity: '10' } as const;
    const unknown = await w.place({ ...brine, type: 'market' });
    expect(refusedAs(unknown)).to.equal('422 buyingPower');
    expect(!unknown.ok && unknown.refusal.kind === 'risk-blocked' && unknown.refusal.detail).to.contain('Nothing tells what BRINE.HALM is worth');
    expect(refusedAs(await w.place({ ...brine, limitPrice: '27.00' }))).to.equal('accepted');
  });

  it('counts the underlying of a short option though nobody watches it', async () => {
    const w = await marketWorld([
      `09:00:00.000 ${OPTION} state open`,
      `09:00:00.000 ${OPTION} level bid 1.90 500`,
      '09:00:00.100 GANET.HALM trade buy 41.20 10',
    ]);
    // 100 × 100 × 41.20 × 0.20 + 100 × 100 × 1.90
    expect(refusedAs(await w.place({ instrument: OPTION, side: 'sell', limitPrice: '1.90', quantity: '100' }))).to.equal('422 buyingPower');
    expect(refusedAs(await w.place({ instrument: OPTION, side: 'sell', limitPrice: '1.90', quantity: '90' }))).to.equal('accepted');
  });

  it('never lets sells of spot that are not reducing be more than was bought', async () => {
    const w = await worldOf([`09:00:00.000 ${SPOT} state open`, `09:00:00.000 ${SPOT} level ask 64.00 100`]);
    await w.to('09:00:01.000');
    const spot = { account: 'NIGHT', instrument: SPOT } as const;
    await w.placed({ ...spot, quantity: '2', limitPrice: '64.00' });
    const free = { ...spot, side: 'sell', reduceOnly: false, limitPrice: '70.00' } as const;
    expect(refusedAs(await w.place({ ...free, quantity: '1.5' }))).to.equal('accepted');
    expect(refusedAs(await w.place({ ...free, quantity: '0.6' }))).to.equal('422 /quantity');
    expect(refusedAs(await w.place({ ...free, quantity: '0.5' }))).to.equal('accepted');
  });

  it('lets twelve sells of 400 on a position of 100, sent while the link comes back, close what there is and open nothing', async () => {
    const w = await marketWorld();
    await w.placed({ quantity: '100' });
    await w.desk.setLink({ broker: 'down' });
    const up = w.desk.setLink({ broker: 'up' });
    while (w.desk.link.broker === 'down') await Promise.resolve();
    const sells = await Promise.all(
      Array.from({ length: 12 }, (_, i) =>
        w.place({ side: 'sell', type: 'market', quantity: '400', ...(i % 2 ? { crossesZero: true } : { reduceOnly: true }) }),
      ),
    );
    await up;
    expect(w.desk.account('MAIN').book.positions['GANET.HALM']?.quantity).to.equal(0);
    expect(new Set(sells.filter((_, i) => i % 2).map(refusedAs))).to.deep.equal(new Set(['503']));
  });

  it('judges each check by itself and tells its result, the same for looking and for placing', async () => {
    const w = await marketWorld();
    const { readOrder } = await import('../../src/core/orders/index.ts');
    const { instrument, request } = await import('../support/world.ts');
    const read = readOrder(request({ type: 'stop', side: 'sell', stopPrice: '41.00', quantity: '999999' }), instrument('GANET.HALM'));
    if (!read.ok) throw new Error('it is well formed');
    const { judgement } = await w.desk.judge(read.value);
    expect(judgement.checks.map(({ rule, result }) => `${rule} ${result}`)).to.deep.equal(['venue pass', 'stopSide pass', 'buyingPower refuse']);
  });
});

describe('a venue whose books are stored now and then', () => {
  afterEach(endWorlds);

  /** Books are stored once only; orders and reports with every commit, as in a live market. */
  const lagging = async (act: (w: World) => Promise<string>, rows: readonly string[]): Promise<{ w: World; id: string }> => {
    const w = await marketWorld(rows);
    const whole = w.venueStore.commit.bind(w.venueStore);
    w.venueStore.commit = (clock, changes) => whole(clock, { ...changes, listings: {}, places: {} });
    const id = await act(w);
    return { w: await w.kill(), id };
  };

  it('holds after a kill what was confirmed: a limit that was moved does not fill at its old price', async () => {
    const place = async (w: World): Promise<string> => {
      const id = await w.placed({ limitPrice: '41.10' });
      await w.replace(id, { limitPrice: '40.50' });
      return id;
    };
    const { w, id } = await lagging(place, ['09:00:02.000 GANET.HALM trade sell 41.00 500', '09:00:03.000 GANET.HALM trade sell 40.40 500']);
    await w.to('09:00:02.000');
    expect(await w.shown(id)).to.equal('new 0/100');
    await w.to('09:00:03.000');
    expect([await w.shown(id), (await w.order(id)).averagePrice]).to.deep.equal(['filled 100/100', '40.50']);
    await w.close();
  });

  it('holds a stop where it was moved to', async () => {
    const place = async (w: World): Promise<string> => {
      await w.placed({ quantity: '100' });
      const id = await w.placed({ side: 'sell', type: 'stop', stopPrice: '41.00' });
      await w.replace(id, { stopPrice: '40.50' });
      return id;
    };
    const { w, id } = await lagging(place, ['09:00:02.000 GANET.HALM trade sell 40.90 10', '09:00:03.000 GANET.HALM trade sell 40.50 10']);
    await w.to('09:00:02.000');
    expect(await w.shown(id)).to.equal('new 0/100');
    await w.to('09:00:03.000');
    expect((await w.order(id)).triggeredAt).to.equal(new Date(at('09:00:03.000')).toISOString());
    await w.close();
  });

  it('knows after a restart what stands in front of a resting order', async () => {
    const w = await worldOf(MARKET);
    await w.to('09:00:01.000');
    const id = idOf(await w.place({ limitPrice: '41.18' }));
    expect((await w.order(id)).ahead).to.equal('500');
    const again = await w.kill();
    expect((await again.order(id)).ahead).to.equal('500');
    await again.close();
  });
});
