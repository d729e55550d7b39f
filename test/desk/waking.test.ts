import { mock } from 'node:test';
import { expect } from 'chai';
import fc from 'fast-check';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { demoWorld } from '../../demo/universe.ts';
import { DemoSource } from '../../src/venue/demo-market/demo-source.ts';
import { Lanes } from '../../src/venue/demo-market/lanes.ts';
import { TickMaker } from '../../src/venue/demo-market/ticks.ts';
import { Exchange } from '../../src/venue/exchange.ts';
import { Listing } from '../../src/venue/listing.ts';
import type { FromVenue, ToVenue } from '../../src/venue/messages.ts';
import { VenueThread } from '../../src/venue/thread.ts';
import { MemoryVenueStore } from '../support/stores.ts';

interface Item {
  readonly time: number;
  readonly lane: string;
}

/** Times that rise, in parts as they are made: an empty part ends the row. */
const parts = fc.tuple(fc.array(fc.nat(30), { maxLength: 12 }), fc.integer({ min: 1, max: 5 })).map(([times, size]) => {
  const rising = [...times].sort((a, b) => a - b);
  return Array.from({ length: Math.ceil(rising.length / size) }, (_, i) => rising.slice(i * size, (i + 1) * size));
});

describe('events of many instruments', () => {
  it('are taken in order of time, those of one time in the order of their lanes, whoever joins or leaves', () => {
    const names = fc.constantFrom('a', 'b', 'c', 'd');
    const act = fc.oneof(
      fc.record({ kind: fc.constant('open' as const), lane: names, parts }),
      fc.record({ kind: fc.constant('delete' as const), lane: names }),
      fc.record({ kind: fc.constant('take' as const), count: fc.nat(5) }),
    );
    fc.assert(
      fc.property(fc.array(act, { maxLength: 40 }), (acts) => {
        const lanes = new Lanes<Item>();
        // The naive way: all that is left, the first of the earliest; a lane's place is when it was opened.
        const left = new Map<string, Item[]>();
        const next = (): Item | null => {
          let best: Item | null = null;
          for (const items of left.values()) if (items[0] && (best === null || items[0].time < best.time)) best = items[0];
          return best;
        };
        for (const one of acts) {
          if (one.kind === 'open') {
            const made = one.parts.map((times) => times.map((time) => ({ time, lane: one.lane })));
            const [first = [], ...rest] = made;
            lanes.open(one.lane, first, () => rest.shift() ?? []);
            left.delete(one.lane);
            left.set(one.lane, made.flat());
          } else if (one.kind === 'delete') {
            lanes.delete(one.lane);
            left.delete(one.lane);
          } else
            for (let i = 0; i < one.count; i++) {
              const expected = next();
              expect(lanes.peek()).to.equal(expected);
              expect(lanes.take()).to.equal(expected);
              if (expected) left.get(expected.lane)?.shift();
            }
        }
      }),
    );
  });
});

describe('a source of which much is watched', () => {
  it('makes no more of a market than its next minute, however far the next headline is', () => {
    const world = demoWorld(1);
    const source = new DemoSource(world, 1);
    const start = Date.parse('2026-03-02T09:00:00.000Z');
    source.seek(start);
    // Nothing is awake: what comes next is a headline, and asking for it makes nobody's minutes.
    expect(source.next()).to.be.greaterThan(start + 60_000);
    const { instrument } = world.profiles[0] as (typeof world.profiles)[number];
    const minute = mock.method(TickMaker.prototype, 'minute');
    source.wake(new Listing(instrument, start, null), start);
    minute.mock.restore();
    expect(minute.mock.calls.map((call) => call.arguments[1])).to.deep.equal([0]);
  });

  it('goes from the close of a day to the next without a gap, over the weekend too', () => {
    const world = demoWorld(1);
    const source = new DemoSource(world, 1);
    const friday = Date.parse('2026-03-06T17:29:00.000Z');
    source.seek(friday);
    const profile = world.profiles.find(({ instrument }) => instrument.id === 'GANET.HALM') as (typeof world.profiles)[number];
    source.wake(new Listing(profile.instrument, friday, null), friday);
    const states: string[] = [];
    const limits: number[] = [];
    while ((source.next() ?? Infinity) < Date.parse('2026-03-09T09:00:30.000Z')) {
      const taken = source.take();
      if (!('event' in taken)) continue;
      if (taken.event.event === 'state') states.push(`${new Date(taken.time).toISOString()} ${taken.event.state}`);
      if (taken.event.event === 'price-limit') limits.push(taken.time);
    }
    expect(states).to.deep.equal(['2026-03-06T17:30:00.000Z closed', '2026-03-09T08:30:00.000Z pre-open', '2026-03-09T09:00:00.000Z open']);
    expect(limits.map((time) => new Date(time).toISOString())).to.deep.equal(['2026-03-09T00:00:00.000Z', '2026-03-09T00:00:00.000Z']);
  });
});

describe('a venue that wakes a hundred instruments', () => {
  const world = demoWorld(1);
  const instruments = new Map(world.profiles.map(({ instrument }) => [instrument.id, instrument]));
  const ids = [...instruments.values()].flatMap(({ id, kind, venue }) => (kind === 'share' && venue === 'HALM' ? [id] : [])).slice(0, 100);

  /** A venue whose market runs by itself. */
  async function liveVenue(): Promise<{ exchange: Exchange; thread: VenueThread }> {
    const exchange = new Exchange(instruments, ACCOUNTS, new DemoSource(world, 1), 15, null, 0);
    const settings = { dataFolder: '', market: { kind: 'demo' }, seed: 1, clock: 'live', latencyMs: 15, notBefore: 0 } as const;
    const thread = new VenueThread(exchange, new MemoryVenueStore(), settings, () => undefined, null);
    await thread.start();
    return { exchange, thread };
  }

  it('hears others meanwhile, and then answers with all of them', async () => {
    const { exchange, thread } = await liveVenue();
    const answered: string[] = [];
    const ask = (message: ToVenue & { id: number }, name: string): Promise<FromVenue> =>
      new Promise((resolve) =>
        thread.receive(message, (answer) => {
          answered.push(name);
          resolve(answer);
        }),
      );
    try {
      const watching = ask({ call: 'watch', id: 1, ask: { instruments: ids, depths: [] } }, 'watch');
      const all = ask({ call: 'snapshot', id: 2, ask: { instruments: ids } }, 'all');
      await new Promise((resolve) => setTimeout(resolve, 30));
      const one = ask({ call: 'snapshot', id: 3, ask: { instruments: [ids[99] ?? ''] } }, 'one');
      await Promise.all([watching, one, all]);
      expect(answered).to.deep.equal(['watch', 'one', 'all']);
      const answer = await all;
      expect(answer.kind === 'answer' && (answer.answer as { quotes: { instrument: string }[] }).quotes.map(({ instrument }) => instrument)).to.deep.equal(ids);
      expect(ids.every((id) => exchange.isAwake(id))).to.equal(true);
    } finally {
      await ask({ call: 'stop', id: 4, ask: null }, 'stop');
    }
  });

  it('wakes all that is wanted, whenever it was wanted', async () => {
    const { exchange, thread } = await liveVenue();
    try {
      // Each comes just when what was wanted before has been woken.
      for (let count = 1; count <= 40; count++) {
        thread.receive({ call: 'watch', id: count, ask: { instruments: ids.slice(0, count), depths: [] } }, () => undefined);
        for (let tries = 0; tries < 200 && !exchange.isAwake(ids[count - 1] ?? ''); tries++) await new Promise((resolve) => setImmediate(resolve));
        expect(exchange.isAwake(ids[count - 1] ?? ''), `instrument ${count}`).to.equal(true);
      }
    } finally {
      await new Promise((resolve) => thread.receive({ call: 'stop', id: 99, ask: null }, resolve));
    }
  });

  it('goes on waking after it was told to watch what is awake already', async () => {
    const { exchange, thread } = await liveVenue();
    const asked = (message: ToVenue & { id: number }): Promise<FromVenue> => new Promise((resolve) => thread.receive(message, resolve));
    try {
      await asked({ call: 'watch', id: 1, ask: { instruments: [], depths: [] } });
      const many = ids.slice(0, 10);
      await asked({ call: 'watch', id: 2, ask: { instruments: many, depths: [] } });
      const answer = await Promise.race([
        asked({ call: 'snapshot', id: 3, ask: { instruments: many } }),
        new Promise((resolve) => setTimeout(() => resolve(null), 5000)),
      ]);
      expect(answer, 'never answered').to.include({ kind: 'answer' });
      expect(many.every((id) => exchange.isAwake(id))).to.equal(true);
    } finally {
      await asked({ call: 'stop', id: 4, ask: null });
    }
  });

  it('says of a question that it is stopped before it could answer', async () => {
    const { thread } = await liveVenue();
    const all = new Promise<FromVenue>((resolve) => thread.receive({ call: 'snapshot', id: 1, ask: { instruments: ids } }, resolve));
    const stopped = new Promise<FromVenue>((resolve) => thread.receive({ call: 'stop', id: 2, ask: null }, resolve));
    expect((await stopped).kind).to.equal('answer');
    const answer = await all;
    expect(answer).to.include({ kind: 'failed', id: 1 });
    expect(answer.kind === 'failed' && answer.message).to.contain('the venue has stopped');
  });
});
