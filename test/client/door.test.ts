import { mock } from 'node:test';
import { expect } from 'chai';
import { $answers } from '../../src/client/answers.ts';
import * as door from '../../src/client/gestures/door.ts';
import type { OrderWish } from '../../src/client/gestures/intent.ts';
import type { ApiOrder, ApiRunningPlan, ApiWaiting } from '../../src/live/index.ts';

const WISH: OrderWish = { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', quantity: '100', limitPrice: '41.18' };
const ORDER = { id: 'MAIN-7', ...WISH, limitPrice: '41.18', stopPrice: null, state: 'new' } as unknown as ApiOrder;
const PLAN = { id: 'MAIN-p1', account: 'MAIN', instrument: 'GANET.HALM', name: 'two steps', state: 'armed' } as unknown as ApiRunningPlan;
const WAITING = { id: 'w-1', account: 'MAIN', clientOrderId: 'c', when: 'last > 42', state: 'waiting' } as unknown as ApiWaiting;
const RUN = { id: 'r-1', basket: 'morning', clientRunId: 'c', state: 'sending', progress: { orders: { done: 1, all: 3 } } };

/** What the server gives: a status with a body, or nothing at all. */
type Given = readonly [status: number, body: unknown] | 'nothing';

interface Call {
  readonly line: string;
  readonly body: Record<string, unknown> | null;
}

/** A server that answers what it is told to, in turn; what it is asked beyond that it does not answer. */
class Server {
  readonly calls: Call[] = [];
  answers: Given[] = [];

  readonly fetch = (address: unknown, { method = 'GET', body }: RequestInit = {}): Promise<Response> => {
    const asked = typeof body === 'string' ? (JSON.parse(body) as Record<string, unknown>) : null;
    this.calls.push({ line: `${method} ${decodeURIComponent(address as string)}`, body: asked });
    const given = this.answers.shift() ?? 'nothing';
    if (given === 'nothing') return Promise.reject(new TypeError('no connection'));
    return Promise.resolve(new Response(JSON.stringify(given[1]), { status: given[0] }));
  };

  get lines(): string[] {
    return this.calls.map(({ line }) => line);
  }
}

const said = (): string => {
  const line = $answers.get()['pane'];
  return line ? `${line.kind}: ${line.text.replace(/\d\d:\d\d:\d\d\.\d{3}/, 'TIME')}` : 'nothing';
};
/** Lets everything that is under way get on, and the clock by so much. */
async function pass(ms: number): Promise<void> {
  for (let i = 0; i < 12; i++) await new Promise<void>((resolve) => setImmediate(resolve));
  mock.timers.tick(ms);
  for (let i = 0; i < 12; i++) await new Promise<void>((resolve) => setImmediate(resolve));
}

describe('the door to the orders', () => {
  const real = globalThis.fetch;
  let server: Server;
  beforeEach(() => {
    server = new Server();
    globalThis.fetch = server.fetch;
    $answers.set({});
    mock.timers.enable({ apis: ['setTimeout'] });
  });
  afterEach(() => {
    mock.timers.reset();
    globalThis.fetch = real;
  });

  /** Each way through it: what is asked for, with what, what is said where it is done, and what a lost answer is looked up by. */
  const ways: readonly [
    name: string,
    go: () => Promise<unknown>,
    line: string,
    body: object | null,
    given: unknown,
    words: string,
    lookUp: readonly string[],
    found: readonly unknown[],
    told: string,
  ][] = [
    [
      'place',
      () => door.place('pane', WISH),
      'POST /api/orders',
      WISH,
      ORDER,
      'sent B 100 41.18',
      ['GET /api/orders?account=MAIN&clientOrderId=ID'],
      [{ items: [ORDER] }],
      'it went: B 100 41.18, new',
    ],
    [
      'close',
      () => door.close('pane', 'MAIN', 'GANET.HALM', { percent: '50' }),
      'POST /api/positions/MAIN/GANET.HALM/close',
      { percent: '50' },
      ORDER,
      'closing 100 GANET.HALM',
      ['GET /api/orders?account=MAIN&clientOrderId=ID'],
      [{ items: [] }],
      'it did not go; nothing was sent',
    ],
    [
      'reverse',
      () => door.reverse('pane', 'MAIN', 'GANET.HALM'),
      'POST /api/positions/MAIN/GANET.HALM/reverse',
      {},
      ORDER,
      'reversing: B 100 41.18',
      ['GET /api/orders?account=MAIN&clientOrderId=ID'],
      [{ items: [ORDER] }],
      'it went: B 100 41.18, new',
    ],
    [
      'cancel',
      () => door.cancel('pane', ORDER),
      'DELETE /api/orders/MAIN-7',
      null,
      ORDER,
      'cancelled B 100 41.18',
      ['GET /api/orders/MAIN-7'],
      [{ ...ORDER, state: 'canceled' }],
      'it stands: B 100 41.18, canceled',
    ],
    [
      'cancel many',
      () => door.cancelMany('pane', 'MAIN', 'GANET.HALM', 'buy'),
      'POST /api/orders/cancel',
      { account: 'MAIN', instrument: 'GANET.HALM', side: 'buy' },
      { canceled: ['a', 'b'], refused: [{ orderId: 'c', detail: 'no link' }] },
      'cancelled 2; refused: c no link',
      ['GET /api/orders?account=MAIN&instrument=GANET.HALM&state=working&limit=1000', 'GET /api/positions?account=MAIN&instrument=GANET.HALM'],
      [{ items: [ORDER] }, { items: [{ quantity: '0' }, { quantity: '5' }] }],
      'now 1 orders work and 1 positions are open',
    ],
    [
      'flatten',
      () => door.flatten('pane', 'MAIN', null),
      'POST /api/flatten',
      { account: 'MAIN' },
      { canceled: ['a'], closing: ['b'], refused: [] },
      'cancelled 1, closing 1',
      ['GET /api/orders?account=MAIN&state=working&limit=1000', 'GET /api/positions?account=MAIN'],
      [{ items: [] }, { items: [] }],
      'now 0 orders work and 0 positions are open',
    ],
    [
      'link',
      () => door.link('pane', [ORDER, { ...ORDER, id: 'MAIN-8' }]),
      'POST /api/order-groups',
      { kind: 'oco', orderIds: ['MAIN-7', 'MAIN-8'] },
      { orders: [ORDER, ORDER], onPartialFill: 'cancel' },
      'linked 2: a fill of one cancels the others',
      ['GET /api/orders/MAIN-7'],
      [ORDER],
      'it stands: B 100 41.18, new',
    ],
    [
      'a plan on a position',
      () => door.putPlan('pane', 'MAIN', 'GANET.HALM', 'two steps'),
      'POST /api/positions/MAIN/GANET.HALM/exit-plan',
      { plan: 'two steps' },
      PLAN,
      'exit plan two steps on GANET.HALM: armed',
      ['GET /api/running-plans?account=MAIN'],
      [{ items: [PLAN] }],
      'the exit plan of GANET.HALM is armed',
    ],
    [
      'a plan stopped',
      () => door.stopPlan('pane', PLAN),
      'DELETE /api/running-plans/MAIN-p1',
      null,
      { ...PLAN, state: 'stopped' },
      'exit plan of GANET.HALM stopped; the position stays',
      ['GET /api/running-plans?account=MAIN'],
      [{ items: [] }],
      'there is no exit plan on GANET.HALM',
    ],
    [
      'a plan answered',
      () => door.answerPlan('pane', PLAN, 'resume'),
      'POST /api/running-plans/MAIN-p1/answer',
      { act: 'resume' },
      PLAN,
      'exit plan of GANET.HALM: waits until the level is passed anew',
      ['GET /api/running-plans?account=MAIN'],
      [{ items: [PLAN] }],
      'the exit plan of GANET.HALM is armed',
    ],
    [
      'a leg moved',
      () => door.moveLeg('pane', { plan: PLAN, step: 1, name: 'stop' } as never, '40.90'),
      'PATCH /api/running-plans/MAIN-p1',
      { step: 1, leg: 'stop', price: '40.90' },
      PLAN,
      'stop of GANET.HALM, held here, to 40.90',
      ['GET /api/running-plans?account=MAIN'],
      [{ items: [PLAN] }],
      'the exit plan of GANET.HALM is armed',
    ],
    [
      'a basket sent',
      () => door.sendBasket('pane', 'morning', '40', 'at-once'),
      'POST /api/baskets/morning/send',
      { percent: '40', pace: 'at-once' },
      RUN,
      'morning: sending, 1 of 3 orders done',
      ['GET /api/basket-runs?basket=morning'],
      [{ items: [] }],
      'it did not go; nothing was sent',
    ],
    [
      'a run steered',
      () => door.steerRun('pane', 'r-1', 'pause'),
      'POST /api/basket-runs/r-1/pause',
      null,
      { ...RUN, state: 'paused' },
      'morning: paused, 1 of 3 orders done',
      ['GET /api/basket-runs/r-1'],
      [RUN],
      'morning: sending, 1 of 3 orders done',
    ],
    [
      'an order that waits',
      () => door.waitForAll('pane', 'last > 42', [WISH]),
      'POST /api/conditional-orders',
      { account: 'MAIN', when: 'last > 42', instrument: 'GANET.HALM', order: WISH },
      WAITING,
      'waits until last > 42',
      ['GET /api/conditional-orders'],
      [{ items: [] }],
      'it did not go; nothing waits',
    ],
    [
      'one that waits no longer',
      () => door.endWait('pane', WAITING),
      'DELETE /api/conditional-orders/w-1',
      null,
      WAITING,
      'no longer waits: last > 42',
      ['GET /api/conditional-orders'],
      [{ items: [WAITING] }],
      'it is waiting',
    ],
  ];

  const withoutId = (text: string): string => text.replace(/w-[0-9a-f-]{36}/, 'ID');

  for (const [name, go, line, body, given, words] of ways)
    it(`${name}: asks once, says what was done, and no longer than it is news`, async () => {
      server.answers = [[200, given]];
      await go();
      expect(server.lines).to.deep.equal([line]);
      const sent = server.calls[0]?.body ?? null;
      const { clientOrderId, clientRunId, ...rest } = sent ?? {};
      expect(sent === null ? null : rest).to.deep.equal(body);
      expect(said()).to.equal(`done: ${words}`);
      for (const id of [clientOrderId, clientRunId]) if (id !== undefined) expect(id).to.match(/^w-[0-9a-f-]{36}$/);
      await pass(4000);
      expect(said()).to.equal('nothing');
    });

  for (const [name, go] of ways)
    it(`${name}: a refusal is said in the server’s words and stays`, async () => {
      server.answers = [[422, { type: '/problems/validation', title: 'Not accepted', status: 422, detail: 'the whole', errors: [{ path: '/x', message: 'one' }, { path: '/y', message: 'two' }] }]]; // prettier-ignore
      await go();
      await pass(10_000);
      expect([said(), server.calls.length]).to.deep.equal(['refused: one; two', 1]);
    });

  for (const [name, go, line, , , , lookUp, found, told] of ways)
    it(`${name}: without an answer it is looked up until it is known, and never sent again`, async () => {
      // No answer, then none to the first look either, then what it came to.
      server.answers = ['nothing', ...lookUp.map(() => 'nothing' as const), ...found.map((one) => [200, one] as const)];
      await go();
      expect(said()).to.equal('unknown: asked TIME, no answer: not known whether it went');
      await pass(1000);
      expect(said()).to.equal('unknown: asked TIME, no answer: not known whether it went');
      await pass(1000);
      expect(said()).to.equal(`found: ${told}`);
      await pass(5000);
      expect(server.lines.map(withoutId)).to.deep.equal([line, ...lookUp, ...lookUp]);
    });

  it('looks a placed order up by the very id it was sent with', async () => {
    server.answers = ['nothing', [200, { items: [] }]];
    await door.place('pane', WISH);
    await pass(1000);
    expect(server.lines[1]).to.contain(String(server.calls[0]?.body?.['clientOrderId']));
  });

  it('sends both legs of a pair as one group, of which the one that fills cancels the other', async () => {
    server.answers = [[201, { orders: [ORDER, ORDER], onPartialFill: 'cancel' }]];
    await door.placePair('pane', [WISH, { ...WISH, side: 'sell' }]);
    const { orders, ...rest } = server.calls[0]?.body as { orders: Record<string, unknown>[] };
    expect(rest).to.deep.equal({ kind: 'oco', onPartialFill: 'cancel' });
    expect(orders.map(({ side }) => side)).to.deep.equal(['buy', 'sell']);
    expect(new Set(orders.map(({ clientOrderId }) => clientOrderId)).size).to.equal(2);
  });

  it('has one change of an order under way: of those that come meanwhile the newest goes after it', async () => {
    let answerFirst = (): void => undefined;
    const { fetch } = server;
    globalThis.fetch = async (address, given) => {
      if (server.calls.length === 0) {
        const answered = fetch(address, given);
        await new Promise<void>((resolve) => (answerFirst = resolve));
        return answered;
      }
      return fetch(address, given);
    };
    server.answers = [
      [200, ORDER],
      [200, ORDER],
    ];
    const all = ['41.17', '41.16', '41.15'].map((limitPrice) => door.change('pane', ORDER, { limitPrice }));
    await pass(0);
    expect(server.calls.length).to.equal(1);
    answerFirst();
    await Promise.all(all);
    await pass(0);
    expect(server.calls.map(({ body }) => body?.['limitPrice'])).to.deep.equal(['41.17', '41.15']);
    expect(said()).to.equal('done: moved B 100 41.15');
  });

  it('lets a refused change end: the next one goes by itself', async () => {
    server.answers = [
      [409, { status: 409, detail: 'it is filled' }],
      [200, ORDER],
    ];
    await door.change('pane', ORDER, { limitPrice: '41.17' });
    expect(said()).to.equal('refused: it is filled');
    await door.change('pane', ORDER, { limitPrice: '41.16' });
    expect([server.lines, said()]).to.deep.equal([['PATCH /api/orders/MAIN-7', 'PATCH /api/orders/MAIN-7'], 'done: moved B 100 41.16']);
  });

  it('lets several orders wait all or none: where one is refused, those before it no longer do', async () => {
    server.answers = [
      [201, WAITING],
      [422, { status: 422, detail: 'no such instrument' }],
      [200, { ...WAITING, state: 'canceled' }],
    ];
    const done = await door.waitForAll('pane', 'last > 42', [WISH, { account: 'MAIN', instrument: 'NOPE.HALM', phrase: 'sell position NOPE.HALM at bid' }]);
    expect(done.ok).to.equal(false);
    expect(server.lines).to.deep.equal(['POST /api/conditional-orders', 'POST /api/conditional-orders', 'DELETE /api/conditional-orders/w-1']);
    expect(server.calls.map(({ body }) => body?.['order'])).to.deep.equal([WISH, 'sell position NOPE.HALM at bid', undefined]);
    expect(said()).to.equal('refused: no such instrument; none of them waits');
  });
});
