import { expect } from 'chai';
import fc from 'fast-check';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { demoWorld } from '../../demo/universe.ts';
import { DemoSource } from '../../src/venue/demo-market/demo-source.ts';
import { Lanes } from '../../src/venue/demo-market/lanes.ts';
import { Exchange } from '../../src/venue/exchange.ts';
import type { FromVenue, ToVenue } from '../../src/venue/messages.ts';
import { VenueThread } from '../../src/venue/thread.ts';
import { MemoryVenueStore } from '../support/stores.ts';

interface Item {
  readonly time: number;
  readonly lane: string;
}

const rising = fc.array(fc.nat(30), { maxLength: 12 }).map((times) => times.sort((a, b) => a - b));

describe('events of many instruments', () => {
  it('are taken in order of time, those of one time in the order of their lanes, whoever joins or leaves', () => {
    const act = fc.oneof(
      fc.record({ kind: fc.constant('set' as const), lane: fc.constantFrom('a', 'b', 'c', 'd'), times: rising }),
      fc.record({ kind: fc.constant('delete' as const), lane: fc.constantFrom('a', 'b', 'c', 'd') }),
      fc.record({ kind: fc.constant('take' as const), count: fc.nat(5) }),
    );
    fc.assert(
      fc.property(fc.array(act, { maxLength: 40 }), (acts) => {
        const lanes = new Lanes<Item>();
        // The naive way: all that is left, sorted anew at each taking; a lane's place is when it first came.
        const left = new Map<string, Item[]>();
        const next = (): Item | null => {
          let best: Item | null = null;
          for (const items of left.values()) if (items[0] && (best === null || items[0].time < best.time)) best = items[0];
          return best;
        };
        for (const one of acts) {
          if (one.kind === 'set') {
            const items = one.times.map((time) => ({ time, lane: one.lane }));
            lanes.set(one.lane, items);
            left.set(one.lane, [...items]);
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

describe('a venue that wakes a hundred instruments', () => {
  const world = demoWorld(1);
  const instruments = new Map(world.profiles.map(({ instrument }) => [instrument.id, instrument]));
  const ids = [...instruments.values()].flatMap(({ id, kind, venue }) => (kind === 'share' && venue === 'HALM' ? [id] : [])).slice(0, 100);

  it('hears others meanwhile, and then answers with all of them', async () => {
    const exchange = new Exchange(instruments, ACCOUNTS, new DemoSource(world, 1), 15, null, 0);
    const told: FromVenue[] = [];
    const settings = { dataFolder: '', market: { kind: 'demo' }, seed: 1, clock: 'live', latencyMs: 15, notBefore: 0 } as const;
    const thread = new VenueThread(exchange, new MemoryVenueStore(), settings, (message) => told.push(message), null);
    await thread.start();
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
    const exchange = new Exchange(instruments, ACCOUNTS, new DemoSource(world, 1), 15, null, 0);
    const settings = { dataFolder: '', market: { kind: 'demo' }, seed: 1, clock: 'live', latencyMs: 15, notBefore: 0 } as const;
    const thread = new VenueThread(exchange, new MemoryVenueStore(), settings, () => undefined, null);
    await thread.start();
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

  it('says of a question that it is stopped before it could answer', async () => {
    const exchange = new Exchange(instruments, ACCOUNTS, new DemoSource(world, 1), 15, null, 0);
    const settings = { dataFolder: '', market: { kind: 'demo' }, seed: 1, clock: 'live', latencyMs: 15, notBefore: 0 } as const;
    const thread = new VenueThread(exchange, new MemoryVenueStore(), settings, () => undefined, null);
    await thread.start();
    const all = new Promise<FromVenue>((resolve) => thread.receive({ call: 'snapshot', id: 1, ask: { instruments: ids } }, resolve));
    const stopped = new Promise<FromVenue>((resolve) => thread.receive({ call: 'stop', id: 2, ask: null }, resolve));
    expect((await stopped).kind).to.equal('answer');
    const answer = await all;
    expect(answer).to.include({ kind: 'failed', id: 1 });
    expect(answer.kind === 'failed' && answer.message).to.contain('the venue has stopped');
  });
});
