import { expect } from 'chai';
import { Chance } from '../../src/core/random/index.ts';
import { Client, dropFolder, newFolder, startServer } from '../support/server.ts';

/** How often the server is killed. */
const KILLS = Number(process.env['KAVIX_KILLS'] ?? 50);
const SEED = Number(process.env['KAVIX_SEED'] ?? 1);

interface Item {
  readonly id: string;
  readonly clientOrderId: string;
  readonly account: string;
  readonly instrument: string;
  readonly state: string;
  readonly quantity: string;
  readonly filledQuantity: string;
  readonly limitPrice: string | null;
}
interface Fill {
  readonly id: string;
  readonly orderId: string;
  readonly account: string;
  readonly instrument: string;
  readonly side: 'buy' | 'sell';
  readonly quantity: string;
}
interface Plan {
  readonly id: string;
  readonly account: string;
  readonly instrument: string;
  readonly state: string;
  readonly steps: readonly { readonly quantity: string; readonly closedQuantity: string }[];
}

const MARKETS = [
  { account: 'MAIN', instrument: 'GANET.HALM', far: '39.00', through: '42.50' },
  { account: 'EVAL', instrument: 'HALM40M-JUN26.HALM', far: '3900.0', through: '4200.0' },
] as const;
const ENDED = ['filled', 'canceled', 'expired', 'rejected'];
const LEG = { by: 'ticks', order: 'market' } as const;

async function allOf<T>(client: Client, path: string): Promise<T[]> {
  const found: T[] = [];
  for (let cursor = '0'; ;) {
    const { items, after } = (await client.get(`${path}?limit=1000&after=${cursor}`)).body as { items: T[]; after: string };
    if (items.length === 0) return found;
    found.push(...items);
    cursor = after;
  }
}

/** What was acknowledged so far, by whoever asked it. */
class Promises {
  readonly orders = new Map<string, string>();
  readonly canceled = new Set<string>();
  readonly stopped = new Set<string>();

  async kept(client: Client): Promise<void> {
    const orders = await allOf<Item>(client, '/api/orders');
    const known = new Map<string, string[]>();
    for (const { clientOrderId, id } of orders) known.set(clientOrderId, [...(known.get(clientOrderId) ?? []), id]);
    for (const [clientOrderId, id] of this.orders) expect(known.get(clientOrderId), clientOrderId).to.deep.equal([id]);
  }
}

/** One trader who does whatever comes to mind until nobody answers. */
class Hands {
  private readonly chance: Chance;
  private count = 0;

  constructor(
    private readonly client: Client,
    private readonly promises: Promises,
    private readonly name: string,
    private readonly acknowledged: () => void,
  ) {
    this.chance = new Chance(
      SEED,
      [...name].reduce((sum, letter) => sum * 31 + letter.charCodeAt(0), 7),
    );
  }

  /** @returns false once the server is gone */
  async act(): Promise<boolean> {
    const { client, chance } = this;
    const market = chance.pick(MARKETS);
    const { account, instrument } = market;
    const mine = [...this.promises.orders.values()];
    const one = mine[chance.below(Math.max(1, Math.min(mine.length, 12)))] ?? mine.at(-1);
    const what = chance.below(12);
    if (what < 6 || one === undefined) return this.place(market);
    switch (what) {
      case 6: {
        const done = await this.asked('DELETE', `/api/orders/${one}`);
        if (done && done.status < 300) this.promises.canceled.add(one);
        return done !== null;
      }
      case 7:
        return (await this.asked('PATCH', `/api/orders/${one}`, { limitPrice: market.far })) !== null;
      case 8:
        return (await this.asked('POST', `/api/positions/${account}/${instrument}/close`, { percent: chance.pick(['25', '50', '100']) })) !== null;
      case 9:
        return (await this.asked('POST', `/api/positions/${account}/${instrument}/exit-plan`, { plan: this.plan() })) !== null;
      case 10: {
        const found = await client.get('/api/running-plans').catch(() => null);
        const plan = (found?.body as { items: Plan[] } | undefined)?.items.find(({ state }) => state === 'armed');
        if (!plan) return found !== null;
        const done = await this.asked('DELETE', `/api/running-plans/${plan.id}`);
        if (done && done.status === 200) this.promises.stopped.add(plan.id);
        return done !== null;
      }
      default:
        return (await this.asked('POST', '/api/orders/cancel', { account })) !== null;
    }
  }

  private plan(): object {
    const steps = [
      { share: '60', stop: { ...LEG, value: '40' }, target: { ...LEG, order: 'limit', value: '30' } },
      { share: '40', stop: { ...LEG, value: '60' } },
    ];
    return { heldBy: this.chance.pick(['venue', 'here']), onSizeChange: 'follow', onMissedLevel: 'fire', steps };
  }

  private async place({ account, instrument, far, through }: (typeof MARKETS)[number]): Promise<boolean> {
    const { chance } = this;
    const clientOrderId = `${this.name}-${++this.count}`;
    const side = chance.pick(['buy', 'buy', 'sell'] as const);
    const priced = chance.below(3) === 0 ? { type: 'market' } : { type: 'limit', limitPrice: (side === 'buy') === (chance.below(2) === 0) ? far : through };
    const plan = chance.below(4) === 0 ? { exitPlan: this.plan() } : {};
    const wanted = { clientOrderId, account, instrument, side, quantity: String(1 + chance.below(4)), reduceOnly: false, ...priced, ...plan };
    const done = await this.asked('POST', '/api/orders', wanted);
    if (done?.status === 201) {
      this.promises.orders.set(clientOrderId, (done.body as Item).id);
      this.acknowledged();
    }
    return done !== null;
  }

  /** Null where nobody answered. */
  private async asked(method: string, path: string, body?: unknown): Promise<{ status: number; body: unknown } | null> {
    const done = await this.client.call(method, path, body).catch(() => null);
    if (done) expect(done.status, `${method} ${path} ${JSON.stringify(done.body)}`).to.be.oneOf([200, 201, 202, 204, 409, 422, 503]);
    return done;
  }
}

/** Everything agrees once nothing is under way: positions are the sums of their fills, orders of theirs, exits cover no more than is held. */
async function agrees(client: Client, promises: Promises): Promise<void> {
  const orders = await allOf<Item>(client, '/api/orders');
  const fills = await allOf<Fill>(client, '/api/fills');
  expect(new Set(fills.map(({ id }) => id)).size, 'every fill once').to.equal(fills.length);
  const held = new Map<string, number>();
  const filled = new Map<string, number>();
  for (const { account, instrument, side, quantity, orderId } of fills) {
    const key = `${account} ${instrument}`;
    held.set(key, (held.get(key) ?? 0) + (side === 'buy' ? 1 : -1) * Number(quantity));
    filled.set(orderId, (filled.get(orderId) ?? 0) + Number(quantity));
  }
  const { items: positions } = (await client.get('/api/positions')).body as { items: { account: string; instrument: string; quantity: string }[] };
  for (const { account, instrument, quantity } of positions)
    expect(Number(quantity), `${account} ${instrument}`).to.equal(held.get(`${account} ${instrument}`) ?? 0);
  for (const { id, filledQuantity, quantity } of orders) {
    expect(Number(filledQuantity), `${id}: its fills`).to.equal(filled.get(id) ?? 0);
    expect(Number(filledQuantity), `${id}: never more than asked`).to.be.at.most(Number(quantity));
  }
  expect(
    orders.filter(({ state }) => state.startsWith('pending')).map(({ id, state }) => `${id} ${state}`),
    'nothing stays under way',
  ).to.deep.equal([]);
  for (const { id, state } of orders) if (promises.canceled.has(id)) expect(ENDED, `${id} was cancelled`).to.include(state);
  const { items: plans } = (await client.get('/api/running-plans')).body as { items: Plan[] };
  for (const { id, account, instrument, state, steps } of plans) {
    if (promises.stopped.has(id)) expect(state, `${id} was stopped`).to.be.oneOf(['stopped', 'done']);
    if (state !== 'armed') continue;
    const covers = steps.reduce((sum, step) => sum + Number(step.quantity) - Number(step.closedQuantity), 0);
    expect(covers, `${id} covers what is held`).to.be.at.most(Math.abs(held.get(`${account} ${instrument}`) ?? 0));
  }
  const { items } = (await client.get('/api/activity?limit=1000')).body as { items: { kind: string; text: string }[] };
  expect(items.filter(({ kind }) => kind === 'difference').map(({ text }) => text)).to.deep.equal([]);
}

describe('a server killed at any moment', function () {
  this.timeout(Number.MAX_SAFE_INTEGER);

  it(`has lost nothing acknowledged, doubled nothing and agrees with its broker, ${KILLS} times`, async () => {
    const folder = newFolder();
    const promises = new Promises();
    let time = '';
    for (let round = 0; round < KILLS; round++) {
      const server = await startServer({ KAVIX_DATA: folder, KAVIX_LOG: 'silent' });
      const client = await Client.signIn(server.address);
      if (round === 0) await client.call('PUT', '/api/consents/held-here', { given: true });
      const { time: now } = (await client.get('/api/clock')).body as { time: string };
      // Milliseconds of a clock that was stored within the last second.
      expect(Date.parse(now), `the clock of round ${round}`).to.be.at.least(Date.parse(time || now) - 1000);
      time = now;
      await promises.kept(client);
      // Three pairs of hands, until the server is gone.
      const life = 5 + ((round * 7919) % 90);
      // The moment is counted from the first acknowledged order: on a slow machine none would come before it.
      let first: () => void = () => undefined;
      const begun = new Promise<void>((done) => (first = done));
      const killed = begun.then(() => new Promise<void>((done) => setTimeout(() => void server.kill().then(done), life)));
      const work = async (name: string): Promise<void> => {
        const hands = new Hands(client, promises, name, first);
        while (await hands.act());
      };
      await Promise.all([killed, ...['a', 'b', 'c'].map((name) => work(`k${round}${name}`))]);
    }
    const server = await startServer({ KAVIX_DATA: folder });
    const client = await Client.signIn(server.address);
    await promises.kept(client);
    expect(promises.orders.size).to.be.at.least(KILLS);
    // The market stands, so that what is read one after the other is of one moment.
    await client.post('/api/clock', { speed: 0 });
    await new Promise((resolve) => setTimeout(resolve, 500));
    await agrees(client, promises);
    await server.stop();
    dropFolder(folder);
  });
});
