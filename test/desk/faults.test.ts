import { expect } from 'chai';
import fc from 'fast-check';
import { readExitPlan, type ExitPlanText } from '../../src/core/exits/index.ts';
import { asPrice } from '../../src/core/instrument/index.ts';
import { moneyOf, type Money } from '../../src/core/number/index.ts';
import { isFinished, orderState, readOrder, type Order, type OrderIntent, type OrderRequest } from '../../src/core/orders/index.ts';
import type { NewIssue } from '../../src/core/portfolio/index.ts';
import { blocksAt, isLooser, locksAt, readRules, type RuleName } from '../../src/core/risk/index.ts';
import type { OfferedIssue } from '../../src/venue/new-issues.ts';
import { DiskDeskStore, endDisks } from '../support/disk-store.ts';
import { judge } from '../support/oracle.ts';
import { MARKET, endWorlds, marketWorld } from '../support/scenes.ts';
import { MemoryDeskStore, type Fault } from '../support/stores.ts';
import { World, at, instrument, refusedAs, request, type WireFault } from '../support/world.ts';

const FUTURE = 'HALM40M-JUN26.HALM';
const SPOT = 'CARB-EUR.VSPR';

/** Three markets that move a little, over a day's turn. */
function tape(): string[] {
  const rows: string[] = [];
  const say = (time: string, id: string, rest: string): void => void rows.push(`${time} ${id} ${rest}`);
  const markets = [
    ['GANET.HALM', 41.19, 0.01, 2],
    [FUTURE, 4100, 0.5, 1],
    [SPOT, 64, 0.01, 2],
  ] as const;
  for (const [id] of markets) say('09:00:00.000', id, 'state open');
  for (let i = 0; i < 60; i++) {
    const time =
      i < 50 ? `09:00:${String(Math.floor(i / 2) + 1).padStart(2, '0')}.${i % 2 ? '500' : '000'}` : `2026-03-03T09:00:${String(i - 49).padStart(2, '0')}.000Z`;
    for (const [id, middle, tick, decimals] of markets) {
      const at = (ticks: number): string => (middle + tick * (ticks + ((i * 7) % 9) - 4)).toFixed(decimals);
      say(time, id, `level bid ${at(-1)} ${20 + ((i * 3) % 30)}`);
      say(time, id, `level ask ${at(1)} ${20 + ((i * 5) % 30)}`);
      if (i % 3 === 0) say(time, id, `trade ${i % 2 ? 'buy' : 'sell'} ${at(i % 2 ? 1 : -1)} ${5 + (i % 20)}`);
    }
  }
  return rows;
}
const TAPE = tape();

const MARKETS = [
  { account: 'MAIN', instrument: 'GANET.HALM', middle: 41.19, tick: 0.01, decimals: 2 },
  { account: 'EVAL', instrument: FUTURE, middle: 4100, tick: 0.5, decimals: 1 },
  { account: 'NIGHT', instrument: SPOT, middle: 64, tick: 0.01, decimals: 2 },
] as const;

const step = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constant('place' as const),
      market: fc.nat(2),
      side: fc.constantFrom('buy' as const, 'sell' as const),
      type: fc.constantFrom('limit' as const, 'limit' as const, 'market' as const, 'stop' as const, 'stop-limit' as const, 'trailing-stop' as const),
      ticks: fc.integer({ min: -6, max: 6 }),
      quantity: fc.integer({ min: 1, max: 30 }),
      life: fc.constantFrom('day' as const, 'gtc' as const, 'ioc' as const, 'fok' as const),
      opening: fc.boolean(),
      here: fc.constantFrom(false, false, false, true),
      plan: fc.constantFrom(null, null, 'venue' as const, 'here' as const),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('group' as const),
      market: fc.nat(1),
      ticks: fc.integer({ min: 1, max: 6 }),
      quantity: fc.integer({ min: 1, max: 20 }),
      both: fc.boolean(),
      onPartialFill: fc.constantFrom('reduce' as const, 'cancel' as const),
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('link' as const), which: fc.nat(12), other: fc.nat(12) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('put plan' as const), market: fc.nat(2), heldBy: fc.constantFrom('venue' as const, 'here' as const) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('stop plan' as const), which: fc.nat(5) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('answer' as const), act: fc.constantFrom('fire' as const, 'resume' as const) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('reverse' as const), market: fc.nat(1) }) },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('rules' as const),
      market: fc.nat(2),
      limit: fc.option(fc.integer({ min: 1, max: 40 })),
      closes: fc.boolean(),
      cap: fc.option(fc.integer({ min: 5, max: 80 })),
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('lock' as const), market: fc.nat(2), ms: fc.integer({ min: 1, max: 20_000 }) }) },
  {
    weight: 3,
    arbitrary: fc.record({
      do: fc.constant('replace' as const),
      which: fc.nat(12),
      ticks: fc.integer({ min: -6, max: 6 }),
      quantity: fc.option(fc.integer({ min: 1, max: 40 })),
    }),
  },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('cancel' as const), which: fc.nat(12) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constantFrom('flatten' as const, 'close' as const, 'cancel-many' as const), market: fc.nat(2) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('repeat' as const), which: fc.nat(12) }) },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('cash' as const),
      market: fc.nat(1),
      kind: fc.constantFrom('deposit' as const, 'withdrawal' as const),
      cents: fc.integer({ min: 1, max: 2_000_000 }),
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('take cash back' as const), which: fc.nat(5) }) },
  {
    weight: 3,
    arbitrary: fc.record({
      do: fc.constantFrom('apply' as const, 'change application' as const, 'take application back' as const),
      lots: fc.integer({ min: 1, max: 8 }),
      ticks: fc.nat(100),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('move leg' as const),
      which: fc.nat(5),
      leg: fc.constantFrom('stop' as const, 'target' as const),
      ticks: fc.integer({ min: -8, max: 8 }),
    }),
  },
  { weight: 4, arbitrary: fc.record({ do: fc.constant('advance' as const), ms: fc.integer({ min: 1, max: 4000 }) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('next day' as const) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constantFrom('link down' as const, 'link up' as const, 'data down' as const, 'data up' as const) }) },
);
type Step = typeof step extends fc.Arbitrary<infer S> ? S : never;

const fault = fc.record({
  append: fc.constantFrom<Fault>(null, null, null, 'lost', 'unanswered'),
  silent: fc.boolean(),
  behind: fc.constantFrom<Fault>(null, null, 'lost', 'unanswered'),
  command: fc.constantFrom<WireFault>(null, null, null, 'lost', 'doubled', 'late'),
  report: fc.constantFrom<WireFault>(null, null, null, 'lost', 'doubled', 'late'),
  dies: fc.constantFrom('no' as const, 'no' as const, 'no' as const, 'after' as const, 'between' as const, 'twice' as const),
});

/** How often the model is run; the long run asks for more. */
const RUNS = Number(process.env['KAVIX_RUNS'] ?? 250);
/** Which ways are tried: always the same where others wait for the outcome, others every time in the long run. */
const SEED = Number(process.env['KAVIX_SEED'] ?? 1);
/** A trial that has not come to rest by then hangs, which is a fault of its own; it takes about 0.2 s. */
const LONGEST_TRIAL_MS = 60_000;

/** Shares that are applied for in the tape's first seconds and come with the next day's turn. */
const ISSUE: OfferedIssue = {
  id: 'BRINE.HALM',
  low: asPrice(2600),
  high: asPrice(2700),
  lot: 10,
  mostLots: 8,
  opensAt: 0,
  closesAt: at('09:00:12.000'),
  allottedAt: at('2026-03-03T00:00:00.000Z'),
  listsOn: '2026-03-03',
  price: null,
  outcome: { price: asPrice(2650), share: 0.5, seed: 1 },
};
const asTold: NewIssue = { ...ISSUE, price: null };

/** One way of things: a world, what was acknowledged in it, and faults that strike once a step. */
class Trial {
  world: World;
  private readonly acknowledged = new Map<string, string>();
  /** Requests for cash that were acknowledged, and whether taking them back was. */
  private readonly cash = new Map<string, { readonly account: string; readonly amount: Money; readonly back: 'no' | 'asked' | 'taken' }>();
  /** The application that was acknowledged, as it was left, and whether taking it back was; lots are null while nobody can tell. */
  private readonly applied = new Map<string, { readonly lots: number | null; readonly back: boolean }>();
  private readonly canceled = new Set<string>();
  private readonly sent: Partial<OrderRequest>[] = [];

  constructor(world: World) {
    this.world = world;
  }

  async take(what: Step, how: typeof fault extends fc.Arbitrary<infer F> ? F : never, at_: number): Promise<void> {
    const { deskStore } = this.world;
    let append = how.append;
    let command = how.command;
    let report = how.report;
    let quiet = how.silent ? 2 : 0;
    deskStore.fault = (kind) => {
      if (kind !== 'append') return how.behind;
      const strikes = append;
      append = null;
      return strikes;
    };
    deskStore.silent = () => how.append !== null && append === null && quiet-- > 0;
    this.world.toVenue = (message) => {
      if (!('call' in message) || message.call !== 'commands') return null;
      const strikes = command;
      command = null;
      return strikes;
    };
    this.world.toDesk = (message) => {
      if (message.kind !== 'stream') return null;
      const strikes = report;
      report = null;
      return strikes;
    };
    if (how.dies === 'between') {
      // It dies while the step is under way.
      const under = this.act(what, at_).catch(() => undefined);
      for (let i = 0; i < 6; i++) await Promise.resolve();
      await this.restart();
      void under;
      return;
    }
    await this.act(what, at_);
    if (how.dies === 'after' || how.dies === 'twice') await this.restart();
    if (how.dies === 'twice') await this.restart();
  }

  isUnderWay(): boolean {
    const orders = [...this.world.desk.accounts.values()].flatMap(({ working }) => [...working.values()].map(({ order }) => order));
    return orders.some((order) => order.pendingCancel !== null || order.pendingReplace !== null || orderState(order) === 'pending-new');
  }

  async restart(): Promise<void> {
    this.world = await this.world.kill();
  }

  private async all(): Promise<Order[]> {
    // Looking is no part of the trial: the tables are let follow.
    const { deskStore } = this.world;
    const { fault } = deskStore;
    deskStore.fault = () => null;
    const found = await Promise.all(['MAIN', 'EVAL', 'NIGHT'].map((account) => this.world.orders(account)));
    deskStore.fault = fault;
    return found.flat();
  }

  private async act(what: Step, number: number): Promise<void> {
    const { world } = this;
    switch (what.do) {
      case 'place': {
        const wanted = requestOf(what, `s-${number}`);
        this.sent.push(wanted);
        return this.place(wanted);
      }
      case 'repeat': {
        const wanted = this.sent[what.which];
        return wanted && this.place(wanted);
      }
      case 'replace':
      case 'cancel': {
        const orders = await this.all();
        const order = orders[what.which % Math.max(1, orders.length)];
        if (!order) return;
        if (what.do === 'cancel') {
          const done = await world.cancel(order.id);
          if (done.ok && !world.dead) this.canceled.add(order.id);
          return;
        }
        const market = MARKETS.find(({ account }) => account === order.account) ?? MARKETS[0];
        const price = (market.middle + market.tick * what.ticks).toFixed(market.decimals);
        const priced =
          order.terms.type === 'limit' ? { limitPrice: price } : 'stop' in order.terms && order.terms.type !== 'trailing-stop' ? { stopPrice: price } : {};
        const quantity = what.quantity === null ? {} : { quantity: String(what.quantity) };
        if (Object.keys({ ...priced, ...quantity }).length > 0) await world.replace(order.id, { ...priced, ...quantity });
        return;
      }
      case 'group': {
        const { account, instrument, middle, tick, decimals } = MARKETS[what.market] ?? MARKETS[0];
        const price = (away: number): string => (middle + tick * away).toFixed(decimals);
        const base = { account, instrument, quantity: String(what.quantity), reduceOnly: false };
        const first = readIn({ ...base, clientOrderId: `g-${number}-1`, side: 'buy', type: 'limit', limitPrice: price(-what.ticks) });
        const second = readIn({
          ...base,
          clientOrderId: `g-${number}-2`,
          side: what.both ? 'sell' : 'buy',
          type: 'limit',
          limitPrice: price(what.both ? what.ticks : -what.ticks - 1),
        });
        return void (await world.ask(account, { kind: 'place-group', orders: [first, second], onPartialFill: what.onPartialFill }));
      }
      case 'link': {
        const orders = await this.all();
        const pair = [orders[what.which % Math.max(1, orders.length)], orders[what.other % Math.max(1, orders.length)]];
        const [first, second] = pair;
        if (!first || !second || first.account !== second.account) return;
        return void (await world.ask(first.account, { kind: 'link-orders', orderIds: [first.id, second.id], onPartialFill: null }));
      }
      case 'put plan': {
        const { account, instrument } = MARKETS[what.market] ?? MARKETS[0];
        const read = readExitPlan(planOf(account === 'NIGHT' ? 'here' : what.heldBy, number));
        if (!read.ok) throw new Error(JSON.stringify(read.refusal));
        return void (await world.ask(account, { kind: 'put-plan', instrument, plan: read.value }));
      }
      case 'stop plan': {
        const plans = [...world.desk.accounts.values()].flatMap((state) => [...state.plans.values()]);
        const plan = plans[what.which % Math.max(1, plans.length)];
        return plan && void (await world.ask(plan.account, { kind: 'stop-plan', planId: plan.id }));
      }
      case 'answer': {
        const plan = [...world.desk.accounts.values()].flatMap((state) => [...state.plans.values()]).find(({ state }) => state === 'asking');
        return plan && void (await world.ask(plan.account, { kind: 'answer-plan', planId: plan.id, act: what.act }));
      }
      case 'reverse': {
        const { account, instrument } = MARKETS[what.market] ?? MARKETS[0];
        return void (await world.ask(account, { kind: 'reverse', instrument, clientOrderId: null }));
      }
      case 'rules': {
        const { account } = MARKETS[what.market] ?? MARKETS[0];
        const read = readRules({
          dayLossLimit: what.limit === null ? null : String(what.limit),
          onDayLoss: what.limit === null ? null : what.closes ? 'close-out' : 'block',
          dayQuantityCap: what.cap === null ? null : { share: String(what.cap), future: String(what.cap), spot: String(what.cap) },
        });
        if (!read.ok) throw new Error(JSON.stringify(read.refusal));
        const state = world.desk.account(account);
        const before = state.risk;
        const done = await world.ask(account, { kind: 'set-rules', rules: read.value, version: before.version });
        if (!done.ok || world.dead) return;
        // What was locked when it was asked was not loosened.
        const locks = locksAt(before, world.desk.now());
        for (const name of Object.keys(locks) as RuleName[])
          expect(isLooser(name, before.rules, state.risk.rules), `${account}: ${name} was loosened`).to.equal(false);
        return;
      }
      case 'lock': {
        const { account } = MARKETS[what.market] ?? MARKETS[0];
        return void (await world.ask(account, { kind: 'lock', until: world.desk.now() + what.ms, rules: null }));
      }
      case 'cash': {
        const { account } = MARKETS[what.market] ?? MARKETS[0];
        const amount = moneyOf(BigInt(what.cents) * 1_000_000n);
        const done = await world.ask(account, { kind: 'cash', cashKind: what.kind, amount, clientRequestId: `m-${number}` });
        if (done.ok && done.value.kind === 'cash' && !world.dead) this.cash.set(done.value.request.id, { account, amount, back: 'no' });
        return;
      }
      case 'take cash back': {
        const [id, asked] = [...this.cash][what.which % Math.max(1, this.cash.size)] ?? [];
        if (id === undefined || !asked) return;
        const done = await world.ask(asked.account, { kind: 'cash-back', requestId: id });
        if (!done.ok || done.value.kind !== 'cash' || world.dead) return;
        // What is only asked for can still come after the day's turn.
        this.cash.set(id, { ...asked, back: done.value.request.state === 'canceled' ? 'taken' : 'asked' });
        return;
      }
      case 'apply': {
        const asked = { issue: asTold, lots: what.lots, price: asPrice(2600 + what.ticks), clientRequestId: `n-${number}` };
        const done = await world.ask('MAIN', { kind: 'apply', ...asked });
        if (done.ok && done.value.kind === 'application' && !world.dead) this.applied.set(done.value.application.id, { lots: what.lots, back: false });
        return;
      }
      case 'change application':
      case 'take application back': {
        const [id, known] = [...this.applied].at(-1) ?? [];
        if (id === undefined || !known) return;
        const back = what.do === 'take application back';
        // What is not answered, or answered that it is not known, may have happened all the same.
        if (!back) this.applied.set(id, { ...known, lots: null });
        const asked = { applicationId: id, issue: asTold };
        const done = await world.ask(
          'MAIN',
          back ? { kind: 'take-back-application', ...asked } : { kind: 'change-application', ...asked, lots: what.lots, price: null },
        );
        if (world.dead) return;
        if (done.ok) this.applied.set(id, { lots: back ? known.lots : what.lots, back: back || known.back });
        else if (done.refusal.kind !== 'unavailable') this.applied.set(id, known);
        return;
      }
      case 'move leg': {
        const plans = [...world.desk.accounts.values()].flatMap((state) => [...state.plans.values()]);
        const plan = plans[what.which % Math.max(1, plans.length)];
        const market = MARKETS.find(({ account }) => account === plan?.account);
        if (!plan || !market) return;
        const price = asPrice(Math.round((market.middle + market.tick * what.ticks) * 10 ** market.decimals));
        return void (await world.ask(plan.account, { kind: 'move-leg', planId: plan.id, step: 0, leg: what.leg, price }));
      }
      case 'data down':
        return void (await world.desk.setLink({ data: 'down' }));
      case 'data up':
        return void (await world.desk.setLink({ data: 'up' }));
      case 'flatten':
        return void (await world.flatten(MARKETS[what.market]?.account ?? 'MAIN'));
      case 'close':
        return void (await world.closePosition(MARKETS[what.market]?.account ?? 'MAIN', MARKETS[what.market]?.instrument ?? ''));
      case 'cancel-many':
        return void (await world.ask(MARKETS[what.market]?.account ?? 'MAIN', { kind: 'cancel-many', instrument: null, side: null }));
      case 'advance':
        return void (await world.desk.advance(world.desk.now() + what.ms));
      case 'next day':
        return void (await world.desk.advance(Math.max(world.desk.now(), at('2026-03-03T08:00:00.000Z'))));
      case 'link down':
        return void (await world.desk.setLink({ broker: 'down' }));
      case 'link up':
        return void (await world.desk.setLink({ broker: 'up' }));
      default:
        return what satisfies never;
    }
  }

  private async place(wanted: Partial<OrderRequest>): Promise<void> {
    const { world } = this;
    const account = world.desk.account(wanted.account ?? 'MAIN');
    const blocked = blocksAt(account.risk, world.desk.now()).some(({ rule }) => rule === 'dayLossLimit');
    const done = await world.place(wanted);
    // While a rule blocks nothing opens, and what reduces always goes.
    if (blocked && done.ok && done.value.kind === 'order' && done.value.made) expect(done.value.order.opening, 'opened while blocked').to.equal(false);
    if (!done.ok || done.value.kind !== 'order' || world.dead) return;
    const name = wanted.clientOrderId ?? '';
    const before = this.acknowledged.get(name);
    if (before !== undefined) expect(done.value.order.id, name).to.equal(before);
    this.acknowledged.set(name, done.value.order.id);
  }

  /** What was acknowledged is there, once; a cancel that was acknowledged ended its order. */
  async promisesKept(): Promise<void> {
    const orders = await this.all();
    for (const [name, id] of this.acknowledged) {
      expect(
        orders.filter((order) => order.clientOrderId === name).map((order) => order.id),
        name,
      ).to.deep.equal([id]);
      const wanted = this.sent.find(({ clientOrderId }) => clientOrderId === name);
      if (wanted) {
        const again = await this.world.place(wanted);
        expect(again.ok && again.value.kind === 'order' && [again.value.order.id, again.value.made], name).to.deep.equal([id, false]);
      }
    }
    for (const [id, { account, amount, back }] of this.cash) {
      const request = this.world.desk.account(account).cash.get(id)?.request;
      expect(request?.amount, `${id} is there`).to.equal(amount);
      if (back === 'taken') expect(request?.state, `${id} was taken back`).to.equal('canceled');
      if (back === 'asked') expect(request?.state, `${id} was asked back`).to.be.oneOf(['paid', 'canceled']);
    }
    for (const [id, { lots, back }] of this.applied) {
      const known = this.world.desk.account('MAIN').applications.get(id)?.application;
      expect(known, `${id} is there`).to.not.equal(undefined);
      // What reaches the broker after the close changes nothing any more.
      if (known?.state === 'requested') expect([lots ?? known.lots, back], `${id} is as it was left`).to.deep.equal([known.lots, false]);
    }
    for (const id of this.canceled) expect(isFinished(await this.world.find(id)), `${id} was cancelled`).to.equal(true);
  }
}

function readIn(given: Partial<OrderRequest>): OrderIntent {
  const wanted = request(given);
  const read = readOrder(wanted, instrument(wanted.instrument));
  if (!read.ok) throw new Error(JSON.stringify(read.refusal));
  return read.value;
}

/** A plan of two steps close to the market, so that it is armed, shared, adjusted and fired within the tape. */
const planOf = (heldBy: 'venue' | 'here', number: number): ExitPlanText => ({
  heldBy,
  onSizeChange: number % 2 === 0 ? 'follow' : 'keep',
  onMissedLevel: number % 3 === 0 ? 'ask' : 'fire',
  steps: [
    { share: '60', stop: { by: 'ticks', value: '3', order: 'market' }, target: { by: 'ticks', value: '2', order: 'limit' } },
    {
      share: '40',
      stop: {
        by: 'ticks',
        value: '5',
        order: 'market',
        adjust: [
          { kind: 'break-even', afterGain: { by: 'ticks', value: '2' }, plusTicks: 1 },
          { kind: 'trail', afterGain: { by: 'ticks', value: '3' }, distance: { unit: 'ticks', value: '3' }, incrementTicks: 1 },
        ],
      },
    },
  ],
});

function requestOf(what: Step & { do: 'place' }, clientOrderId: string): Partial<OrderRequest> {
  const market = MARKETS[what.market] ?? MARKETS[0];
  const price = (away: number): string => (market.middle + market.tick * away).toFixed(market.decimals);
  const type = market.account === 'NIGHT' && (what.type === 'stop' || what.type === 'trailing-stop') ? 'limit' : what.type;
  const beyond = what.side === 'buy' ? 8 + Math.abs(what.ticks) : -8 - Math.abs(what.ticks);
  const plan = what.plan === null || !what.opening ? {} : { exitPlan: planOf(market.account === 'NIGHT' ? 'here' : what.plan, what.quantity) };
  const held = what.here && type !== 'market' && what.life !== 'ioc' && what.life !== 'fok' ? { heldBy: 'here' as const } : {};
  const base = {
    clientOrderId,
    account: market.account,
    instrument: market.instrument,
    side: what.side,
    type,
    quantity: String(what.quantity),
    ...plan,
    ...held,
  };
  const immediate = what.life === 'ioc' || what.life === 'fok';
  const timeInForce = immediate && type !== 'limit' && type !== 'market' ? 'day' : what.life;
  const opens = what.opening ? { reduceOnly: false } : { crossesZero: true };
  switch (type) {
    case 'market':
      return { ...base, ...opens, timeInForce };
    case 'limit':
      return { ...base, ...opens, timeInForce, limitPrice: price(what.ticks) };
    case 'stop':
      return { ...base, ...opens, timeInForce, stopPrice: price(beyond) };
    case 'stop-limit':
      return { ...base, ...opens, timeInForce, stopPrice: price(beyond), limitOffsetTicks: 2 };
    case 'trailing-stop':
      return { ...base, ...opens, timeInForce, trail: { unit: 'ticks', value: String(3 + Math.abs(what.ticks)) } };
    default:
      return type satisfies never;
  }
}

describe('a desk that may fail between any two steps', function () {
  this.timeout(Number.MAX_SAFE_INTEGER);

  const KEPT = [
    ['in memory', RUNS, () => Promise.resolve(new MemoryDeskStore())],
    ['on SQLite', Math.ceil(RUNS / 25), () => DiskDeskStore.open()],
  ] as const;
  for (const [where, runs, store] of KEPT)
    it(`loses nothing acknowledged, doubles nothing, and agrees with the broker and the fills when it comes to rest: kept ${where}`, async () => {
      await fc.assert(
        fc.asyncProperty(fc.array(fc.tuple(step, fault), { minLength: 1, maxLength: 16 }), fc.constantFrom(0, 0, 40), async (steps, latencyMs) => {
          const trial = new Trial(await World.open(TAPE, { latencyMs, issues: [ISSUE], desk: await store() }));
          await trial.world.to('09:00:01.200');
          for (const [i, [what, how]] of steps.entries()) await trial.take(what, how, i);
          await trial.restart();
          await trial.world.desk.setLink({ broker: 'up', data: 'up' });
          await trial.world.desk.advance(trial.world.desk.now() + 500);
          // A row can fire an exit at any moment: it rests once nothing is on its way.
          for (let more = 0; more < 50 && trial.isUnderWay(); more++) await trial.world.desk.advance(trial.world.desk.now() + 2 * latencyMs + 1);
          await judge(trial.world);
          await trial.promisesKept();
          await trial.world.close();
          await endDisks();
        }),
        { numRuns: runs, seed: SEED, timeout: LONGEST_TRIAL_MS },
      );
    });
});

describe('a cancel of an order that was lost on its way', () => {
  afterEach(endWorlds);

  it('holds: the broker’s word that it does not have the order is no answer to it', async () => {
    const w = await marketWorld();
    let lost = 0;
    w.toVenue = (message) => ('call' in message && message.call === 'commands' && lost++ < 2 ? 'lost' : null);
    const asked = w.place({ limitPrice: '41.00' });
    for (let i = 0; i < 200 && w.desk.account('MAIN').working.size === 0; i++) await Promise.resolve();
    const [id = ''] = [...w.desk.account('MAIN').working.keys()];
    const canceled = await w.cancel(id);
    await asked;
    await w.desk.advance(w.desk.now() + 100);
    expect([lost > 2, canceled.ok, await w.shown(id)]).to.deep.equal([true, true, 'canceled 0/100 user']);
  });
});

describe('a request for money that is taken back by a command that is lost on its way', () => {
  afterEach(endWorlds);

  it('is back once that is answered: the next day’s turn does not pay it', async () => {
    const w = await marketWorld();
    const asked = await w.ask('MAIN', { kind: 'cash', cashKind: 'deposit', amount: moneyOf(1_000_000n), clientRequestId: 'm-1' });
    const id = asked.ok && asked.value.kind === 'cash' ? asked.value.request.id : '';
    let lost = false;
    w.toVenue = (message) => ('call' in message && message.call === 'commands' && !lost ? ((lost = true), 'lost') : null);
    const back = await w.ask('MAIN', { kind: 'cash-back', requestId: id });
    expect([lost, back.ok && back.value.kind === 'cash' && back.value.request.state]).to.deep.equal([true, 'canceled']);
    await w.desk.advance(at('2026-03-03T08:00:00.000Z'));
    expect(w.desk.account('MAIN').cash.get(id)?.request.state).to.equal('canceled');
  });
});

describe('the log', () => {
  afterEach(endWorlds);

  it('gives the same state from snapshots and the entries after them as from all entries', async () => {
    const w = await marketWorld();
    for (let i = 0; i < 5; i++) await w.placed({ quantity: String(10 + i), limitPrice: '41.00' });
    await w.placed({ quantity: '50' });
    await w.desk.close();
    await w.placed({ quantity: '7', limitPrice: '41.01' });
    await w.desk.settled();
    const whole = new MemoryDeskStore();
    whole.rows = [...w.deskStore.rows];
    const [a, b] = [await World.open(MARKET, { desk: w.deskStore, venue: w.venueStore }), await World.open(MARKET, { desk: whole, venue: w.venueStore })];
    const state = (world: World): unknown => {
      const { book, working, claimed, count, lastReport, plans } = world.desk.account('MAIN');
      return [book, [...working], [...claimed], count, lastReport, [...plans]];
    };
    expect(state(a)).to.deep.equal(state(b));
    await Promise.all([a.close(), b.close()]);
  });

  it('is read from the snapshots on, also where an account never did anything', async () => {
    const w = await marketWorld();
    for (let i = 0; i < 20; i++) await w.placed({ quantity: String(10 + i), limitPrice: '41.00' });
    await w.desk.close();
    const { rows } = w.deskStore;
    let read = 0;
    w.deskStore.readAfter = (seq, limit) => {
      const found = rows.filter((row) => row.seq > seq).slice(0, limit);
      read += found.length;
      return Promise.resolve(found);
    };
    const again = await World.open(MARKET, { desk: w.deskStore, venue: w.venueStore });
    expect(again.desk.account('MAIN').working.size).to.equal(20);
    expect(read).to.be.lessThan(5);
    await again.close();
  });

  it('that can’t be written refuses with 503 and keeps nothing; afterwards all is as before', async () => {
    const w = await marketWorld();
    w.deskStore.fault = () => 'lost';
    expect(refusedAs(await w.place())).to.equal('503');
    expect(w.desk.account('MAIN').working.size).to.equal(0);
    w.deskStore.fault = () => null;
    expect(refusedAs(await w.place())).to.equal('accepted');
  });

  it('that can’t be written lets no cancel of many and no flatten say that it was done', async () => {
    const w = await marketWorld();
    const id = await w.placed({ limitPrice: '41.00' });
    w.deskStore.fault = () => 'lost';
    expect(refusedAs(await w.ask('MAIN', { kind: 'cancel-many', instrument: null, side: null }))).to.equal('503');
    expect(refusedAs(await w.flatten('MAIN'))).to.equal('503');
    w.deskStore.fault = () => null;
    expect(await w.shown(id)).to.equal('new 0/100');
  });

  it('that does not say whether it kept an order answers 503, and the client order id tells later', async () => {
    const w = await marketWorld();
    let silent = 3;
    w.deskStore.fault = (what) => (what === 'append' && silent > 0 ? 'unanswered' : null);
    w.deskStore.silent = () => silent-- > 0;
    expect(refusedAs(await w.place({ clientOrderId: 'uncertain', limitPrice: '41.00' }))).to.equal('503');
    const again = await w.place({ clientOrderId: 'uncertain', limitPrice: '41.00' });
    expect(again.ok && again.value.kind === 'order' && [again.value.made, again.value.order.acknowledged]).to.deep.equal([false, 'accepted']);
  });

  it('a snapshot or a table that can’t be written changes nothing', async () => {
    const w = await marketWorld();
    w.deskStore.fault = (what) => (what === 'append' ? null : 'lost');
    const id = await w.placed({ quantity: '100' });
    expect(await w.shown(id)).to.equal('filled 100/100');
    const after = await w.kill();
    expect(await after.shown(id)).to.equal('filled 100/100');
    await after.close();
  });

  it('leaves an entry for each refused call, and says who asked and what led to what', async () => {
    const w = await marketWorld();
    await w.placed({ quantity: '100' });
    await w.place({ quantity: '100000' });
    const id = await w.placed({ limitPrice: '41.00' });
    await w.replace(id, { type: 'stop' });
    await w.cancel(id);
    await w.cancel(id);
    await w.closePosition('OTHER', 'GANET.HALM');
    const refused = w.deskStore.rows.filter(({ kind }) => kind === 'refused');
    expect(refused.map(({ account, orderId }) => [account, orderId])).to.deep.equal([
      ['MAIN', null],
      ['MAIN', id],
      ['MAIN', id],
      ['OTHER', null],
    ]);
    const requested = w.deskStore.rows.find((row) => row.kind === 'cancel-requested');
    const canceled = w.deskStore.rows.find((row) => row.kind === 'order-report' && row.causedBy === requested?.seq);
    expect([requested?.by, canceled?.by]).to.deep.equal(['user', 'venue']);
  });
});

describe('reconciling (exact rules, The desk 2)', () => {
  afterEach(endWorlds);

  /** A world in which what is sent is lost from now on, as when a program dies between commit and send. */
  const deaf = async (rows: readonly string[] = []): Promise<World> => {
    const w = await marketWorld(rows);
    await w.placed({ quantity: '300' });
    w.toVenue = (message) => (message.call === 'commands' ? 'vanished' : null);
    return w;
  };
  const later = (w: World, ms: number): void => void w.exchange.run(w.exchange.time + ms);

  it('sends a young opening order again as it was', async () => {
    const w = await deaf();
    const placing = w.place({ limitPrice: '41.10', clientOrderId: 'young' });
    await new Promise((done) => setTimeout(done, 20));
    const after = await w.kill();
    void placing;
    const [order] = (await after.orders()).slice(-1);
    expect(order && (await after.shown(order.id))).to.equal('new 0/100');
    await after.close();
  });

  it('ends an old one that would fill now as late, and sends one that rests if it passes every check', async () => {
    const w = await deaf();
    void w.place({ type: 'market', quantity: '10', reduceOnly: false });
    void w.place({ limitPrice: '41.00', quantity: '20' });
    void w.place({ side: 'sell', type: 'stop', stopPrice: '41.00', quantity: '30', reduceOnly: false });
    await new Promise((done) => setTimeout(done, 20));
    w.toDesk = () => 'lost';
    later(w, 6000);
    await w.venueStore.commit(
      { time: w.exchange.time, taken: w.exchange.source.taken, speed: 1, link: { ...w.desk.link, broker: 'up' } as never },
      w.exchange.takeChanges(),
    );
    const after = await w.kill();
    const shown = [];
    for (const order of (await after.orders()).slice(-3)) shown.push(await after.shown(order.id));
    expect(shown).to.deep.equal(['rejected 0/10 late', 'new 0/20', 'new 0/30']);
    await after.close();
  });

  it('takes over what only the broker knows, and the broker’s money stands', async () => {
    const w = await marketWorld();
    await w.placed({ quantity: '100' });
    const resting = await w.placed({ limitPrice: '41.00' });
    // A new desk file: the desk has forgotten everything.
    const fresh = await World.open(MARKET, { desk: new MemoryDeskStore(), venue: w.venueStore });
    expect(await fresh.shown(resting)).to.equal('new 0/100');
    expect((await fresh.money('MAIN')).cash).to.equal((await w.money('MAIN')).cash);
    const kinds = fresh.deskStore.rows.map(({ kind }) => kind);
    expect(kinds).to.include('difference');
    // Numbers go on from the broker's: a new order is not taken for an old one.
    expect(await fresh.shown(await fresh.placed({ limitPrice: '41.01' }))).to.equal('new 0/100');
    await fresh.close();
  });
});
