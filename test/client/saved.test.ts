import { expect } from 'chai';
import fc from 'fast-check';
import { SavedThings, type Remote, type Revised, type SavedSettings } from '../../src/client/saved.ts';
import type { Answer } from '../../src/live/index.ts';

type List = readonly string[];

const problem = (status: number) => ({ ok: false, problem: { type: '', title: '', status, detail: `status ${status}` } }) as const;
const settle = async (): Promise<void> => {
  for (let i = 0; i < 30; i++) await new Promise((next) => setImmediate(next));
};

/** What the server has, with answers that can be lost: before the change, or after it. */
class Server {
  lists = new Map<string, List>();
  next: 'fine' | 'lost' | 'unanswered' | 'refused' = 'fine';
  writes = 0;

  private take(): Server['next'] {
    const now = this.next;
    if (now !== 'refused') this.next = 'fine';
    return now;
  }
  private of(name: string): Revised<List> | null {
    const value = this.lists.get(name);
    return value ? { value, revision: JSON.stringify(value) } : null;
  }
  remote: Remote<List> = {
    read: async (name) => {
      await Promise.resolve();
      return this.take() === 'fine' ? { ok: true, status: 200, value: this.of(name) } : problem(0);
    },
    write: async (name, value, base): Promise<Answer<Revised<List>>> => {
      await Promise.resolve();
      const fault = this.take();
      if (fault === 'lost') return problem(0);
      if (fault === 'refused') return problem(422);
      if ((this.of(name)?.revision ?? null) !== base) return problem(409);
      this.lists.set(name, value);
      this.writes++;
      return fault === 'unanswered' ? problem(0) : { ok: true, status: 200, value: this.of(name) as Revised<List> };
    },
  };
}

/** Windows of one user: each hears what another saved. */
function windows(server: Server, count: number, merge?: SavedSettings<List>['merge']) {
  const said: string[] = [];
  const all: SavedThings<List>[] = [];
  for (let i = 0; i < count; i++)
    all.push(
      new SavedThings<List>({
        remote: server.remote,
        first: () => [],
        ...(merge ? { merge } : {}),
        saveAfterMs: 0,
        againMs: 1,
        say: (words) => said.push(words),
        tell: (name) => all.forEach((other, at) => at !== i && void other.heard(name)),
      }),
    );
  return { all, said, one: all[0] as SavedThings<List>, two: all[1] as SavedThings<List> };
}

const add = (what: string) => (list: List) => [...list, what];

describe('a saved thing', () => {
  it('is loading, then known; under a name that nothing is saved under it begins as it is given', async () => {
    const { one } = windows(new Server(), 1);
    const load = one.load('a');
    expect(one.get('a')).to.deep.equal({ kind: 'loading' });
    await load;
    expect(one.valueOf('a')).to.deep.equal([]);
  });
  it('that could not be read is never saved over, and is asked for again', async () => {
    const server = new Server();
    server.lists.set('a', ['kept']);
    server.next = 'lost';
    const { one, said } = windows(server, 1);
    expect((await one.load('a')).kind).to.equal('failed');
    expect(one.change('a', add('lost'))).to.equal(false);
    expect(said[0]).to.match(/not read yet/);
    await new Promise((next) => setTimeout(next, 10));
    expect(one.valueOf('a')).to.deep.equal(['kept']);
    expect(server.lists.get('a')).to.deep.equal(['kept']);
  });
  it('is saved with all that changed meanwhile, one write at a time', async () => {
    const server = new Server();
    const { one } = windows(server, 1);
    await one.load('a');
    one.change('a', add('1'));
    one.change('a', add('2'));
    await one.flush('a');
    expect([server.lists.get('a'), server.writes]).to.deep.equal([['1', '2'], 1]);
    expect(one.get('a')).to.include({ state: 'saved' });
  });
  it('whose answer was lost is found to be saved, and not saved twice', async () => {
    const server = new Server();
    const { one } = windows(server, 1);
    await one.load('a');
    server.next = 'unanswered';
    one.change('a', add('1'));
    await one.flush('a');
    expect(one.get('a')).to.include({ state: 'not saved' });
    await new Promise((next) => setTimeout(next, 10));
    expect([one.get('a'), server.writes]).to.deep.include(1);
    expect(one.get('a')).to.include({ state: 'saved' });
  });
  it('that the server refuses stays as it was made here, and says why', async () => {
    const server = new Server();
    const { one, said } = windows(server, 1);
    await one.load('a');
    server.next = 'refused';
    one.change('a', add('bad'));
    await one.flush('a');
    expect([one.valueOf('a'), said]).to.deep.equal([['bad'], ['a was not saved: status 422']]);
    const why = (): unknown => (one.get('a') as { problem?: { status: number } | null }).problem;
    expect(why()).to.include({ status: 422 });
    server.next = 'fine';
    one.change('a', add('good'));
    await one.flush('a');
    expect([one.get('a')?.kind, why(), server.lists.get('a')]).to.deep.equal(['known', null, ['bad', 'good']]);
  });
  it('is begun under a name of its own, and never over what is there under that name', async () => {
    const server = new Server();
    server.lists.set('taken', ['theirs']);
    const { one } = windows(server, 1);
    one.begin('new', ['1']);
    one.begin('taken', ['mine']);
    await one.flushAll();
    expect([server.lists.get('new'), server.lists.get('taken')]).to.deep.equal([['1'], ['theirs']]);
    expect(one.get('taken')).to.deep.include({ state: 'not saved', theirs: { value: ['theirs'], revision: '["theirs"]' } });
  });
  it('changed in another window is followed here', async () => {
    const server = new Server();
    const { one, two } = windows(server, 2);
    await Promise.all([one.load('a'), two.load('a')]);
    one.change('a', add('1'));
    await one.flush('a');
    await settle();
    expect(two.valueOf('a')).to.deep.equal(['1']);
  });
  it('changed in two places is never overwritten: the trader chooses', async () => {
    const server = new Server();
    const { one } = windows(server, 1);
    await one.load('a');
    server.lists.set('a', ['theirs']);
    one.change('a', add('mine'));
    await one.flush('a');
    expect(server.lists.get('a')).to.deep.equal(['theirs']);
    expect(one.get('a')).to.deep.include({ state: 'not saved', theirs: { value: ['theirs'], revision: '["theirs"]' } });
    expect(one.change('a', add('more'))).to.equal(false);
    one.settle('a', 'mine');
    await one.flush('a');
    expect(server.lists.get('a')).to.deep.equal(['mine']);
  });
  it('takes up what somebody else saved where the trader says so', async () => {
    const server = new Server();
    const { one } = windows(server, 1);
    await one.load('a');
    server.lists.set('a', ['theirs']);
    one.change('a', add('mine'));
    await one.flush('a');
    one.settle('a', 'theirs');
    expect([one.valueOf('a'), one.get('a')]).to.deep.include(['theirs']);
    expect(one.change('a', add('next'))).to.equal(true);
    await one.flush('a');
    expect(server.lists.get('a')).to.deep.equal(['theirs', 'next']);
  });

  it('loses no addition that two windows make, with answers lost anywhere', async () => {
    const union: SavedSettings<List>['merge'] = (_base, mine, theirs) => [...theirs, ...mine.filter((what) => !theirs.includes(what))];
    const step = fc.oneof(
      fc.record({ do: fc.constant('add' as const), who: fc.nat(1) }),
      fc.record({ do: fc.constant('fault' as const), fault: fc.constantFrom('lost' as const, 'unanswered' as const) }),
      fc.record({ do: fc.constant('flush' as const), who: fc.nat(1) }),
      fc.constant({ do: 'pause' as const }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 25 }), async (steps) => {
        const server = new Server();
        const { all } = windows(server, 2, union);
        await Promise.all(all.map((one) => one.load('a')));
        const added: string[] = [];
        for (const [i, one] of steps.entries()) {
          if (one.do === 'add' && all[one.who]?.change('a', add(`${i}`))) added.push(`${i}`);
          else if (one.do === 'fault') server.next = one.fault;
          else if (one.do === 'flush') void all[one.who]?.flush('a');
          else if (one.do === 'pause') await settle();
        }
        for (let i = 0; i < 20 && all.some((one) => one.get('a')?.kind !== 'known' || (one.get('a') as { state: string }).state !== 'saved'); i++) {
          server.next = 'fine';
          await Promise.all(all.map((one) => one.flushAll()));
          await new Promise((next) => setTimeout(next, 2));
        }
        expect([...(server.lists.get('a') ?? [])].sort()).to.deep.equal(added.sort());
        expect(new Set(server.lists.get('a')).size).to.equal(added.length);
      }),
      { numRuns: 150 },
    );
  }).timeout(30_000);
});
