import { expect } from 'chai';
import { Hub, accountEvent, parseTopic } from '../../src/desk/hub.ts';

const frames = (text: string): { event: string; data: unknown; id: number | null }[] =>
  text
    .split('\n\n')
    .filter((frame) => frame.includes('event: '))
    .map((frame) => ({
      event: /event: (.*)/.exec(frame)?.[1] ?? '',
      data: JSON.parse(/data: (.*)/.exec(frame)?.[1] ?? 'null') as unknown,
      id: Number(/id: (.*)/.exec(frame)?.[1] ?? NaN) || null,
    }));
const wait = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

describe('the hub', () => {
  let hub: Hub;
  let ended: string[] = [];
  let opened = 0;
  let behind = false;
  let begunAnew: string[] = [];
  beforeEach(() => {
    behind = false;
    begunAnew = [];
    ended = [];
    hub = new Hub(
      () => '{}',
      () => undefined,
      (_connection, topic) => void begunAnew.push(topic),
    );
  });
  afterEach(() => hub.stop());

  const open = (accounts: string[], topics: string[]): { writes: string[]; connection: ReturnType<Hub['open']> } => {
    const writes: string[] = [];
    const reader = {
      id: `window-${++opened}`,
      user: 'demo',
      accounts,
      send: (text: string) => void writes.push(text),
      behind: () => behind,
      credential: { id: 'session', until: null },
    };
    const connection = hub.open({ ...reader, end: () => void ended.push(connection.id) }, 'now');
    hub.setTopics(connection, topics);
    writes.length = 0;
    return { writes, connection };
  };

  it('tells quotes as the newest state, at most once a frame, several in one write', async () => {
    const { writes } = open([], ['quote:A', 'quote:B']);
    for (let i = 0; i < 50; i++) {
      hub.change('quote:A', () => String(i));
      hub.change('quote:B', () => String(-i));
    }
    await wait(40);
    expect(writes).to.have.length(1);
    expect(frames(writes.join(''))).to.deep.equal([
      { event: 'change', data: { topic: 'quote:A', data: 49 }, id: null },
      { event: 'change', data: { topic: 'quote:B', data: -49 }, id: null },
    ]);
  });

  it('drops no print', async () => {
    const { writes } = open([], ['trades:A']);
    for (let i = 0; i < 50; i++) hub.prints('trades:A', [String(i)]);
    await wait(40);
    expect(frames(writes.join('')).flatMap((frame) => (frame.data as { data: number[] }).data)).to.deep.equal(Array.from({ length: 50 }, (_, i) => i));
  });

  it('tells account events at once, all of them, to those who may see them', () => {
    const mine = open(['MAIN'], ['orders', 'orders:MAIN']);
    const theirs = open(['OTHER'], ['orders']);
    for (let id = 1; id <= 3; id++) hub.tell(accountEvent(id, 'orders', 'MAIN', () => id));
    expect(frames(mine.writes.join('')).map((frame) => frame.id)).to.deep.equal([1, 1, 2, 2, 3, 3]);
    expect(theirs.writes).to.deep.equal([]);
  });

  it('puts an event in words for a listener only, and once', () => {
    let made = 0;
    const event = (id: number) => accountEvent(id, 'activity', 'MAIN', () => ++made);
    hub.tell(event(1));
    expect(made, 'nobody listens').to.equal(0);
    open(['MAIN'], ['activity']);
    open(['MAIN'], ['activity', 'activity:MAIN']);
    hub.tell(event(2));
    expect(made).to.equal(1);
  });

  it('tells a returning window what it missed, or that it is too much', () => {
    for (let id = 1; id <= 5; id++) hub.tell(accountEvent(id, 'fills', 'MAIN', () => id));
    const { writes, connection } = open(['MAIN'], ['fills']);
    expect(hub.resume(connection, 3)).to.equal(true);
    expect(frames(writes.join('')).map((frame) => frame.id)).to.deep.equal([4, 5]);
    hub.forgotten = 4;
    expect(hub.resume(connection, 3)).to.equal(false);
  });

  it('knows its topics', () => {
    for (const name of [
      'quote:A',
      'depth:A',
      'trades:A',
      'bars:A:5m',
      'news',
      'orders',
      'orders:MAIN',
      'fills',
      'positions',
      'accounts',
      'accounts:MAIN',
      'risk',
      'plans',
      'activity',
      'clock',
      'link',
    ])
      expect(parseTopic(name), name).to.not.equal(null);
    for (const name of ['', 'quote', 'quote:A:B', 'bars:A', 'bars:A:7m', 'news:A', 'orders:', 'gossip', 'orders:A:B'])
      expect(parseTopic(name), name).to.equal(null);
  });

  it('keeps the newest state for a reader who is behind, not every one before it', async () => {
    const { writes } = open(['MAIN'], ['quote:A', 'orders']);
    behind = true;
    for (let i = 0; i < 5; i++) {
      hub.change('quote:A', () => String(i));
      await wait(20);
    }
    hub.tell(accountEvent(1, 'orders', 'MAIN', () => ({})));
    expect(writes.length, 'account events go at once').to.equal(1);
    behind = false;
    await wait(40);
    expect(frames(writes.slice(1).join('')).map(({ data }) => data)).to.deep.equal([{ topic: 'quote:A', data: 4 }]);
  });

  it('tells a reader who is too far behind with prints to begin anew', () => {
    const { writes } = open([], ['trades:A']);
    behind = true;
    for (let i = 0; i < 60; i++)
      hub.prints(
        'trades:A',
        Array.from({ length: 100 }, () => '1'),
      );
    expect(begunAnew).to.deep.equal(['trades:A']);
    expect(writes.join('')).to.contain('event: reset');
  });

  it('ends the streams of a session that is no more', () => {
    const { connection } = open([], ['clock']);
    hub.endOf('another');
    hub.endOf('session');
    expect(ended).to.deep.equal([connection.id]);
  });
});
