import { expect } from 'chai';
import { Exchange } from '../../src/venue/exchange.ts';
import { openDesk, request } from '../support/desk.ts';
import { at, exchangeOf } from '../support/world.ts';
import type { Desk } from '../../src/desk/desk.ts';
import type { OrderRequest } from '../../src/core/orders/index.ts';
import { orderState } from '../../src/core/orders/index.ts';
import { positionOf } from '../../src/core/portfolio/index.ts';
import { presentAccount, presentOrder, presentPosition } from '../../src/desk/present/index.ts';

const MARKET = [
  '09:00:00.000 GANET.HALM state open',
  '09:00:00.000 GANET.HALM level bid 41.18 500',
  '09:00:00.000 GANET.HALM level ask 41.20 300',
  '09:00:00.000 GANET.HALM level ask 41.21 400',
];

async function deskAt(
  clock: string,
  rows: readonly string[] = [],
  latency = 0,
): Promise<{ desk: Desk; exchange: Exchange; to: (clock: string) => Promise<void> }> {
  const exchange = exchangeOf([...MARKET, ...rows], latency);
  const { desk } = await openDesk(exchange);
  const to = async (time: string): Promise<void> => void (await desk.advance(at(time)));
  await to(clock);
  return { desk, exchange, to };
}

async function place(desk: Desk, given: Partial<OrderRequest>): Promise<string> {
  const placed = await desk.place(request(given));
  if (!placed.ok) throw new Error(JSON.stringify(placed.refusal));
  return placed.value.order.id;
}
const shown = (desk: Desk, id: string): string => {
  const order = desk.findOrder(id, ['MAIN', 'EVAL', 'NIGHT', 'OTHER']);
  if (!order) throw new Error(`no order ${id}`);
  const { filledQuantity, quantity } = presentOrder(desk.instrument(order.instrument), order);
  return `${orderState(order)} ${String(filledQuantity)}/${String(quantity)}${order.reasonCode ? ` ${order.reasonCode}` : ''}`;
};
const position = (desk: Desk, instrument = 'GANET.HALM'): number => desk.account('MAIN').book.positions[instrument]?.quantity ?? 0;

describe('an order on a tape', () => {
  it('is filled by what comes, and its money is exact', async () => {
    const { desk, to } = await deskAt('09:00:00.500', ['09:00:01.000 GANET.HALM trade sell 41.18 700']);
    const id = await place(desk, { quantity: '400', limitPrice: '41.20' });
    expect(shown(desk, id)).to.equal('partially-filled 300/400');
    const changed = await desk.replace(id, 'MAIN', { limitPrice: '41.18' });
    expect(changed.ok && changed.value.version).to.equal(2);
    await to('09:00:01.000');
    expect(shown(desk, id)).to.equal('filled 400/400');
    const { cash, equity } = presentAccount(desk.account('MAIN'), desk.market);
    expect([cash, equity]).to.deep.equal(['83505.52', '99977.52']);
  });

  it('cut to the position when it shrinks, and cancelled when it is flat, within the same event', async () => {
    const { desk } = await deskAt('09:00:00.500');
    await place(desk, { quantity: '300' });
    const target = await place(desk, { side: 'sell', limitPrice: '41.50', quantity: '300' });
    const stop = await place(desk, { side: 'sell', type: 'stop', stopPrice: '41.00', quantity: '200' });
    await place(desk, { side: 'sell', type: 'market', quantity: '150' });
    expect([shown(desk, target), shown(desk, stop)]).to.deep.equal(['new 0/150 reduced', 'new 0/150 reduced']);
    expect(desk.findOrder(target, ['MAIN'])?.version).to.equal(2);
    await desk.closePosition('MAIN', 'GANET.HALM', {});
    expect([shown(desk, target), shown(desk, stop)]).to.deep.equal(['canceled 0/150 flat', 'canceled 0/150 flat']);
    expect(position(desk)).to.equal(0);
  });

  it('of the day expires at the close; one placed after it belongs to the next day', async () => {
    const { desk, to } = await deskAt('09:00:00.500', [
      '17:30:00.000 GANET.HALM state closed',
      '2026-03-03T09:00:00.000Z GANET.HALM state open',
      '2026-03-03T17:30:00.000Z GANET.HALM state closed',
    ]);
    const today = await place(desk, { limitPrice: '41.00' });
    await to('17:31:00.000');
    const tomorrow = await place(desk, { limitPrice: '41.01' });
    expect([shown(desk, today), shown(desk, tomorrow)]).to.deep.equal(['expired 0/100 day-end', 'new 0/100']);
    await to('2026-03-03T12:00:00.000Z');
    expect(shown(desk, tomorrow)).to.equal('new 0/100');
    await to('2026-03-03T17:30:00.000Z');
    expect(shown(desk, tomorrow)).to.equal('expired 0/100 day-end');
  });

  it('that expires at a time is not filled by a row at that time', async () => {
    const { desk, to } = await deskAt('09:00:00.500', ['09:00:10.000 GANET.HALM trade sell 40.00 900']);
    const id = await place(desk, { limitPrice: '41.10', timeInForce: 'gtd', expiresAt: '2026-03-02T09:00:10.000Z' });
    await to('09:00:10.000');
    expect(shown(desk, id)).to.equal('expired 0/100 gtd');
  });

  it('of gtc ends at the day’s turn 90 calendar days after', async () => {
    const { desk, to } = await deskAt('09:00:00.500');
    const id = await place(desk, { limitPrice: '41.00', timeInForce: 'gtc' });
    await to('2026-05-31T22:59:59.999Z');
    expect(shown(desk, id)).to.equal('new 0/100');
    await to('2026-05-31T23:00:00.000Z');
    expect(shown(desk, id)).to.equal('expired 0/100 gtc');
  });

  it('with latency arrives one latency later', async () => {
    const exchange = exchangeOf([...MARKET], 250);
    const { desk } = await openDesk(exchange);
    await desk.advance(at('09:00:01.000'));
    const placed = await desk.place(request({ quantity: '100' }));
    const id = placed.ok ? placed.value.order.id : '';
    expect(shown(desk, id)).to.equal('pending-new 0/100');
    await desk.advance(at('09:00:01.249'));
    expect(shown(desk, id)).to.equal('pending-new 0/100');
    await desk.advance(at('09:00:01.250'));
    expect(shown(desk, id)).to.equal('filled 100/100');
  });

  it('replaced to no more than is filled becomes filled', async () => {
    const { desk } = await deskAt('09:00:00.500');
    const id = await place(desk, { quantity: '400' });
    await desk.replace(id, 'MAIN', { quantity: '200' });
    expect(shown(desk, id)).to.equal('filled 300/300');
  });

  it('that the venue refuses to change is as before', async () => {
    const { desk } = await deskAt('09:00:00.500');
    const id = await place(desk, { limitPrice: '41.10', restOnly: true });
    const changed = await desk.replace(id, 'MAIN', { limitPrice: '41.20' });
    expect(changed.ok || changed.refusal.kind).to.equal('validation');
    expect(shown(desk, id)).to.equal('new 0/100');
  });

  it('counts the day from the settlement once it is carried', async () => {
    const { desk, to } = await deskAt('09:00:00.500', ['17:00:00.000 GANET.HALM settlement 41.50', '2026-03-03T09:00:00.000Z GANET.HALM trade buy 41.60 10']);
    await place(desk, { quantity: '100' });
    await to('2026-03-03T09:00:00.000Z');
    const of = desk.account('MAIN').book.positions['GANET.HALM'];
    const figures = of ? presentPosition(desk.account('MAIN'), of, desk.market) : null;
    expect(figures).to.deep.include({ unrealised: '40.00', settledQuantity: '0', day: { realised: '0.00', unrealised: '10.00', fees: '0.00', net: '10.00' } });
    await to('2026-03-04T00:00:00.000Z');
    expect(desk.account('MAIN').book.unsettled).to.deep.equal([]);
  });

  it('held intraday is closed by the broker at 17:20, and its reducing orders end', async () => {
    const { desk, to } = await deskAt('09:00:00.500', ['17:19:00.000 GANET.HALM level bid 41.10 900']);
    await place(desk, { quantity: '100', product: 'intraday' });
    const overnight = await desk.place(request({ quantity: '10', product: 'overnight' }));
    expect(overnight.ok || (overnight.refusal.kind === 'validation' && overnight.refusal.errors[0]?.path)).to.equal('/product');
    const stop = await place(desk, { side: 'sell', type: 'stop', stopPrice: '41.00', quantity: '100' });
    await to('17:19:59.999');
    expect(position(desk)).to.equal(100);
    await to('17:20:00.000');
    expect(position(desk)).to.equal(0);
    expect(shown(desk, stop)).to.equal('canceled 0/100 flat');
    const closing = [...desk.account('MAIN').orders.values()].at(-1);
    expect(closing).to.include({ role: 'close', reasonCode: 'intraday-end', side: 'sell' });
  });

  it('in a future ends with it, and a new one is refused', async () => {
    const { desk, to } = await deskAt('09:00:00.500', ['09:00:01.000 SALMO-JUN26.HALM level bid 7.15 50']);
    await to('09:00:02.000');
    const id = await place(desk, {
      instrument: 'SALMO-JUN26.HALM',
      limitPrice: '7.10',
      quantity: '1',
      timeInForce: 'gtd',
      expiresAt: '2026-08-01T00:00:00.000Z',
    });
    await to('2026-06-19T16:29:59.999Z');
    expect(shown(desk, id)).to.equal('new 0/1');
    await to('2026-06-19T16:30:00.000Z');
    expect(shown(desk, id)).to.equal('expired 0/1 gtd');
    const late = await desk.place(request({ instrument: 'SALMO-JUN26.HALM', limitPrice: '7.10', quantity: '1' }));
    expect(late.ok || (late.refusal.kind === 'validation' && late.refusal.errors[0]?.path)).to.equal('/instrument');
  });

  it('of gtc says when it ends once it is accepted', async () => {
    const { desk } = await deskAt('09:00:00.500');
    const id = await place(desk, { limitPrice: '41.00', timeInForce: 'gtc' });
    const order = desk.findOrder(id, ['MAIN']);
    expect(order && presentOrder(desk.instrument('GANET.HALM'), order)).to.include({ expiresAt: '2026-05-31T23:00:00.000Z' });
  });

  it('flattens: cancels first, then closes, and has nothing to do the second time', async () => {
    const { desk } = await deskAt('09:00:00.500');
    await place(desk, { quantity: '300' });
    await place(desk, { limitPrice: '41.00' });
    const done = await desk.flatten('MAIN', null);
    expect(done.ok && [done.value.canceled.length, done.value.closing.length, done.value.refused.length]).to.deep.equal([1, 1, 0]);
    expect(position(desk)).to.equal(0);
    const again = await desk.flatten('MAIN', null);
    expect(again.ok && [again.value.canceled.length, again.value.closing.length]).to.deep.equal([0, 0]);
  });

  it('that needs more than the buying power is refused with the rule', async () => {
    const { desk } = await deskAt('09:00:00.500');
    const placed = await desk.place(request({ quantity: '10000' }));
    expect(placed.ok || placed.refusal).to.include({ kind: 'risk-blocked', rule: 'buyingPower' });
    expect(desk.account('MAIN').orders.size).to.equal(0);
  });

  it('goes on at the venue while the link is down; its fills come in order when it is up', async () => {
    const { desk, to } = await deskAt('09:00:00.500', ['09:00:05.000 GANET.HALM trade sell 41.00 10']);
    const id = await place(desk, { limitPrice: '41.10' });
    await desk.setLink({ broker: 'down' });
    const refused = await desk.place(request());
    expect(refused.ok || refused.refusal.kind).to.equal('unavailable');
    await to('09:00:06.000');
    expect(shown(desk, id)).to.equal('new 0/100');
    await desk.setLink({ broker: 'up' });
    expect(shown(desk, id)).to.equal('filled 100/100');
    expect(desk.account('MAIN').fills[0]?.time).to.equal(at('09:00:05.000'));
  });
});

describe('a close where only limits are taken', () => {
  const OPTION = 'GANET-APR26-40C.HALM';
  const sells = async (rows: readonly string[]): Promise<Awaited<ReturnType<typeof deskAt>>> => {
    const made = await deskAt('09:00:00.500', [
      `09:00:00.000 ${OPTION} state open`,
      `09:00:00.000 ${OPTION} level bid 1.90 2`,
      `09:00:00.000 ${OPTION} level ask 2.00 10`,
      ...rows,
    ]);
    await place(made.desk, { instrument: OPTION, limitPrice: '2.00', quantity: '5' });
    return made;
  };

  it('is a limit at the best opposite price that moves with it', async () => {
    const { desk, to } = await sells([`09:00:02.000 ${OPTION} level bid 1.85 1`, `09:00:03.000 ${OPTION} level bid 1.80 9`]);
    const closed = await desk.closePosition('MAIN', OPTION, {});
    const id = closed.ok ? closed.value.order.id : '';
    expect(closed.ok && closed.value.order.type).to.equal('limit');
    expect(shown(desk, id)).to.equal('partially-filled 2/5');
    await to('09:00:02.000');
    expect(shown(desk, id)).to.equal('partially-filled 3/5');
    expect(desk.findOrder(id, ['MAIN'])?.limitPrice).to.equal(185);
    await to('09:00:03.000');
    expect(shown(desk, id)).to.equal('filled 5/5');
    expect(
      desk
        .account('MAIN')
        .fills.slice(-3)
        .map((fill) => fill.price),
    ).to.deep.equal([190, 185, 180]);
  });

  it('waits for a price where there is none, through a halt too', async () => {
    const { desk, to } = await sells([
      `09:00:01.000 ${OPTION} level bid 1.90 0`,
      `09:00:02.000 ${OPTION} state halted`,
      `09:00:03.000 ${OPTION} level bid 1.70 9`,
      `09:00:04.000 ${OPTION} state open`,
    ]);
    await to('09:00:01.500');
    const closed = await desk.closePosition('MAIN', OPTION, {});
    const id = closed.ok ? closed.value.order.id : '';
    expect(shown(desk, id)).to.equal('new 0/5');
    await to('09:00:03.000');
    expect(shown(desk, id)).to.equal('new 0/5');
    await to('09:00:04.000');
    expect(shown(desk, id)).to.equal('filled 5/5');
  });
});

describe('what ends on its last day', () => {
  const last = '2026-04-17T';
  const openDay = (id: string): string[] => [`${last}09:00:00.000Z ${id} state open`];

  it('an option in the money is settled in cash at its underlying, and its orders expire', async () => {
    const option = 'GANET-APR26-40C.HALM';
    const { desk, to } = await deskAt('09:00:00.500', [
      ...openDay(option),
      `${last}09:00:00.000Z ${option} level ask 1.00 10`,
      `${last}15:00:00.000Z GANET.HALM trade buy 42.50 10`,
    ]);
    await to(`${last}10:00:00.000Z`);
    await place(desk, { instrument: option, limitPrice: '1.00', quantity: '2' });
    const resting = await place(desk, { instrument: option, side: 'sell', limitPrice: '9.00', quantity: '2', timeInForce: 'gtc' });
    const before = desk.account('MAIN').book.cash;
    await to(`${last}16:30:00.000Z`);
    expect(position(desk, option)).to.equal(0);
    expect(shown(desk, resting)).to.equal('expired 0/2 gtc');
    // (42.50 − 40) × 2 × 100
    expect(desk.account('MAIN').book.cash - before).to.equal(500_00000000n);
    const { day } = presentPosition(desk.account('MAIN'), positionOf(desk.account('MAIN').book, option), desk.market) as { day: { realised: string } };
    expect(day.realised).to.equal('300.00');
    const late = await desk.place(request({ instrument: option, limitPrice: '1.00', quantity: '1' }));
    expect(late.ok || late.refusal.kind).to.equal('validation');
  });

  it('one out of the money is worth nothing', async () => {
    const option = 'GANET-APR26-40C.HALM';
    const { desk, to } = await deskAt('09:00:00.500', [
      ...openDay(option),
      `${last}09:00:00.000Z ${option} level ask 1.00 10`,
      `${last}15:00:00.000Z GANET.HALM trade buy 39.99 10`,
    ]);
    await to(`${last}10:00:00.000Z`);
    await place(desk, { instrument: option, limitPrice: '1.00', quantity: '2' });
    const before = desk.account('MAIN').book.cash;
    await to(`${last}16:30:00.000Z`);
    expect([position(desk, option), desk.account('MAIN').book.cash - before]).to.deep.equal([0, 0n]);
  });

  it('a future gains what the index made since it was bought', async () => {
    const future = 'HALM40M-JUN26.HALM';
    const day = '2026-06-19T';
    const { desk, to } = await deskAt('09:00:00.500', [
      `${day}09:00:00.000Z ${future} state open`,
      `${day}09:00:00.000Z ${future} level ask 4000.5 10`,
      `${day}15:00:00.000Z HALM40.HALM trade buy 4010.37 1`,
    ]);
    await to(`${day}10:00:00.000Z`);
    await place(desk, { instrument: future, limitPrice: '4000.5', quantity: '3' });
    const before = desk.account('MAIN').book.cash;
    await to(`${day}16:30:00.000Z`);
    // (4010.37 − 4000.50) × 3
    expect([position(desk, future), desk.account('MAIN').book.cash - before]).to.deep.equal([0, 29_61000000n]);
  });
});

describe('a venue that starts again', () => {
  it('is where it was: clock, book, orders, money', async () => {
    const rows = [...MARKET, '09:00:01.000 GANET.HALM trade sell 41.18 300', '09:00:02.000 GANET.HALM trade sell 41.18 300'];
    const exchange = exchangeOf(rows);
    const { desk, link } = await openDesk(exchange);
    await desk.advance(at('09:00:00.500'));
    await place(desk, { quantity: '100', limitPrice: '41.18' });
    await desk.advance(at('09:00:01.000'));
    const saved = {
      time: exchange.time,
      taken: exchange.source.taken,
      seq: exchange.broker.seq,
      orders: [...exchange.broker.orders.values()],
      books: [...exchange.broker.books.values()],
      listings: { 'GANET.HALM': exchange.listing('GANET.HALM').save() },
    };
    const again = exchangeOf(rows, 0, structuredClone(saved));
    expect(again.time).to.equal(at('09:00:01.000'));
    expect(again.listing('GANET.HALM').book.aheadOf('MAIN-1')).to.equal(200);
    expect(again.listing('GANET.HALM').prints.length).to.equal(1);
    again.run(at('09:00:02.000'));
    expect(again.broker.books.get('MAIN')?.positions['GANET.HALM']?.quantity).to.equal(100);
    expect(link.told.length).to.be.greaterThan(0);
  });
});
