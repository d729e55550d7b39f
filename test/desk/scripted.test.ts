import { expect } from 'chai';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import { moneyOf } from '../../src/core/number/index.ts';
import { orderState, remainingQuantity, type OrderReport } from '../../src/core/orders/index.ts';
import { valueAt } from '../../src/core/portfolio/index.ts';
import { ScriptedOutside, scriptedDesk } from '../support/scripted.ts';
import { instrument } from '../support/world.ts';

const GANET = instrument('GANET.HALM');
let fills = 0;
const trade = (quantity: number, price = 4120): OrderReport => ({
  kind: 'trade',
  fillId: `f-${++fills}`,
  price: asPrice(price),
  quantity: asQuantity(quantity),
  value: valueAt(GANET, asQuantity(quantity), asPrice(price)),
  fee: moneyOf(0n),
  liquidity: 'removed',
});
const NEW: OrderReport = { kind: 'new' };

type Scripted = Awaited<ReturnType<typeof scriptedDesk>>;

/** How an order stands, in a line: state, filled of total, what is left, version. */
async function stands({ desk }: Scripted, id: string): Promise<string> {
  const order = await desk.findOrder(id, ['MAIN']);
  if (!order) throw new Error(`no order ${id}`);
  return `${orderState(order)} ${order.filledQuantity}/${order.terms.quantity} ${remainingQuantity(order)} v${order.version}`;
}

describe('a desk on a broker that is not the stand-in', () => {
  let at: Scripted;
  beforeEach(async () => {
    at = await scriptedDesk();
  });
  afterEach(() => at.desk.close());

  const lastRequest = (): string => {
    const command = at.outside.commands.at(-1);
    return command && 'requestId' in command ? command.requestId : '';
  };
  const change = (id: string, quantity: number) =>
    at.desk.ask('MAIN', { kind: 'replace', orderId: id, change: { quantity: asQuantity(quantity) }, version: null, clientOrderId: null });
  const cancel = (id: string) => at.desk.ask('MAIN', { kind: 'cancel', orderId: id });

  // FIX 4.4 volume 4, order state change matrices: the scenarios that apply, by what happens.
  const scenarios: readonly [name: string, run: (id: string) => Promise<void>, steps: readonly string[]][] = [
    [
      'part fill, then the rest',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW),
          () => at.say(id, trade(40)),
          () => at.say(id, trade(60)),
        )),
      ['new 0/100 100 v1', 'partially-filled 40/100 60 v1', 'filled 100/100 0 v1'],
    ],
    [
      'cancel of an order that is not filled',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW),
          () => cancel(id),
          () => at.say(id, canceled()),
        )),
      ['new 0/100 100 v1', 'pending-cancel 0/100 100 v1', 'canceled 0/100 0 v1'],
    ],
    [
      'cancel of a partly filled order, with a fill while it is pending',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW, trade(20)),
          () => cancel(id),
          () => at.say(id, trade(30)),
          () => at.say(id, canceled()),
        )),
      ['partially-filled 20/100 80 v1', 'pending-cancel 20/100 80 v1', 'pending-cancel 50/100 50 v1', 'canceled 50/100 0 v1'],
    ],
    [
      'a full fill before the cancel comes: too late to cancel',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW),
          () => cancel(id),
          () => at.say(id, trade(100)),
          () => at.say(id, rejected()),
        )),
      ['new 0/100 100 v1', 'pending-cancel 0/100 100 v1', 'pending-cancel 100/100 0 v1', 'filled 100/100 0 v1'],
    ],
    [
      'replace to more',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW),
          () => change(id, 150),
          () => at.say(id, replaced(150)),
          () => at.say(id, trade(150)),
        )),
      ['new 0/100 100 v1', 'pending-replace 0/100 100 v1', 'new 0/150 150 v2', 'filled 150/150 0 v2'],
    ],
    [
      'replace refused: the order is as before',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW, trade(10)),
          () => change(id, 150),
          () => at.say(id, rejected()),
        )),
      ['partially-filled 10/100 90 v1', 'pending-replace 10/100 90 v1', 'partially-filled 10/100 90 v1'],
    ],
    [
      'replace to what is filled already',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW, trade(60)),
          () => change(id, 50),
          () => at.say(id, replaced(60)),
        )),
      ['partially-filled 60/100 40 v1', 'pending-replace 60/100 40 v1', 'filled 60/60 0 v2'],
    ],
    [
      'a fill while a replace is pending, then it is accepted',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW),
          () => change(id, 120),
          () => at.say(id, trade(100)),
          () => at.say(id, replaced(120)),
        )),
      ['new 0/100 100 v1', 'pending-replace 0/100 100 v1', 'pending-replace 100/100 0 v1', 'partially-filled 100/120 20 v2'],
    ],
    [
      'cancel on top of a pending replace',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW),
          () => change(id, 120),
          () => cancel(id),
          () => at.say(id, canceled()),
        )),
      ['new 0/100 100 v1', 'pending-replace 0/100 100 v1', 'pending-cancel 0/100 100 v1', 'canceled 0/100 0 v1'],
    ],
    [
      'rejected by the venue',
      async (id) => void (await step(id, () => at.say(id, { kind: 'rejected', reason: 'no', reasonCode: 'venue' }))),
      ['rejected 0/100 0 v1'],
    ],
    [
      'expired with a part filled',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, NEW, trade(10)),
          () => at.say(id, { kind: 'expired', reasonCode: 'day-end' }),
        )),
      ['partially-filled 10/100 90 v1', 'expired 10/100 0 v1'],
    ],
    [
      'a fill that comes before the acceptance',
      async (id) =>
        void (await step(
          id,
          () => at.say(id, trade(10)),
          () => at.say(id, NEW),
        )),
      ['partially-filled 10/100 90 v1', 'partially-filled 10/100 90 v1'],
    ],
  ];
  let seen: string[] = [];
  const step = async (id: string, ...acts: (() => Promise<unknown>)[]): Promise<void> => {
    seen = [];
    for (const act of acts) {
      await act();
      seen.push(await stands(at, id));
    }
  };
  const canceled = (): OrderReport => ({ kind: 'canceled', requestId: lastRequest(), reasonCode: 'user', reason: null });
  const rejected = (): OrderReport => ({ kind: 'cancel-rejected', requestId: lastRequest(), reason: 'too late' });
  const replaced = (quantity: number): OrderReport => ({
    kind: 'replaced',
    requestId: lastRequest(),
    terms: { type: 'limit', limit: asPrice(4120), restOnly: false, quantity: asQuantity(quantity), lifetime: { kind: 'day' } },
  });

  for (const [name, run, steps] of scenarios)
    it(name, async () => {
      const id = await at.place();
      await run(id);
      expect(seen).to.deep.equal(steps);
    });

  it('sends what was committed, with the market time it was decided at and a rising number', async () => {
    const id = await at.place();
    await cancel(id);
    expect(at.outside.commands.map(({ kind, number, account }) => [kind, number, account])).to.deep.equal([
      ['new', 1, 'MAIN'],
      ['cancel', 2, 'MAIN'],
    ]);
  });

  it('applies reports once and in order, however they come, and asks for those it missed', async () => {
    const id = await at.place();
    const reports = [NEW, trade(10), trade(20), trade(30)].map((report) => at.outside.report({ kind: 'order', orderId: id, report }));
    const [first, second, third, fourth] = reports;
    if (!first || !second || !third || !fourth) throw new Error('four were made');
    await at.outside.tell(first, first);
    await at.outside.tell(third);
    await at.outside.tell(second, fourth, third);
    await at.desk.settled();
    expect(await stands(at, id)).to.equal('partially-filled 60/100 40 v1');
    expect((await at.desk.listFills({ accounts: ['MAIN'], limit: 10 })).map(({ quantity }) => quantity)).to.deep.equal([10, 20, 30]);
  });

  it('notes a report of an order that nobody knows, and goes on', async () => {
    await at.say('MAIN-99', NEW);
    const id = await at.place();
    await at.say(id, NEW);
    expect(await stands(at, id)).to.equal('new 0/100 100 v1');
    expect(at.store.rows.map(({ kind }) => kind)).to.include('report-unplaced');
  });

  it('looks at what the broker does not know when the link is back: it is sent again, a cancel with its own reason', async () => {
    const id = await at.place();
    await at.desk.ask('MAIN', { kind: 'flatten', instrument: null });
    at.outside.commands.length = 0;
    await at.desk.setLink({ broker: 'down' });
    await at.desk.setLink({ broker: 'up' });
    expect(at.outside.commands.map((command) => [command.kind, command.kind === 'cancel' ? command.reasonCode : ''])).to.deep.equal([
      ['new', ''],
      ['cancel', 'flatten'],
    ]);
    expect(at.outside.commands[0]?.kind === 'new' && at.outside.commands[0].order.id).to.equal(id);
  });

  it('begins anew on another broker: what it held before is taken from there, each difference told', async () => {
    const id = await at.place();
    await at.say(id, NEW, trade(100));
    const store = await at.store.fork();
    const fresh = await scriptedDesk(store, new ScriptedOutside());
    expect(fresh.desk.account('MAIN').book.positions['GANET.HALM']).to.equal(undefined);
    const told = store.rows.filter(({ kind }) => kind === 'difference').map(({ text }) => text);
    expect(told.some((text) => text.includes('the position in GANET.HALM'))).to.equal(true);
    await fresh.desk.close();
  });
});
