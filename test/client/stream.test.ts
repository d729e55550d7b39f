import { expect } from 'chai';
import fc from 'fast-check';
import { StreamMachine, type StreamEffect, type StreamEvent } from '../../src/live/stream-machine.ts';
import type { FromStream, TopicMessage } from '../../src/live/protocol.ts';

/** A machine, what it did, and what each window was told, in order. */
function machine() {
  const it = new StreamMachine(0);
  const done: StreamEffect[] = [];
  const state = { now: 0 };
  const say = (event: StreamEvent): StreamEffect[] => {
    const effects = it.handle(event, state.now);
    done.push(...effects);
    return effects;
  };
  const doings = (effects: readonly StreamEffect[]): string[] =>
    effects
      .filter((one) => one.do !== 'tell')
      .map((one) => (one.do === 'update' ? `update ${one.topics.join(',')}${one.anew.length > 0 ? ` anew ${one.anew.join(',')}` : ''}` : one.do));
  const told = (window: number): FromStream[] => done.flatMap((one) => (one.do === 'tell' && one.window === window ? [one.message] : []));
  const heard = (window: number): string[] =>
    told(window).flatMap((one) =>
      one.kind === 'topics' ? one.messages.map(({ topic, snapshot, data }) => `${topic}${snapshot ? '!' : ''} ${String(data)}`) : [],
    );
  const message = (topic: string, data: unknown, snapshot = false): StreamEvent => ({ kind: 'message', message: { topic, snapshot, data } });
  /** Window 1 follows topics on an open stream. */
  const opened = (...topics: string[]): void => {
    say({ kind: 'joined', window: 1 });
    say({ kind: 'topics', window: 1, topics });
    say({ kind: 'hello', streamId: 's1' });
    say({ kind: 'updated', answer: 'done' });
    done.length = 0;
  };
  return { say, doings, told, heard, message, opened, state };
}

describe('the stream', () => {
  it('is opened for the first topics, which go in the body of an update once it is there', () => {
    const { say, doings } = machine();
    say({ kind: 'joined', window: 1 });
    expect(doings(say({ kind: 'topics', window: 1, topics: ['b', 'a'] }))).to.deep.equal(['open']);
    expect(doings(say({ kind: 'topics', window: 1, topics: ['b', 'a', 'c'] }))).to.deep.equal([]);
    expect(doings(say({ kind: 'hello', streamId: 's1' }))).to.deep.equal(['update a,b,c']);
    expect(doings(say({ kind: 'topics', window: 1, topics: ['d'] }))).to.deep.equal([]);
    expect(doings(say({ kind: 'updated', answer: 'done' }))).to.deep.equal(['update d']);
    expect(doings(say({ kind: 'updated', answer: 'done' }))).to.deep.equal([]);
  });
  it('asks again for topics after an update that had no answer, though nobody wants others', () => {
    const { say, doings, opened, state } = machine();
    opened('a');
    expect(doings(say({ kind: 'topics', window: 1, topics: ['a', 'b'] }))).to.deep.equal(['update a,b']);
    expect(doings(say({ kind: 'updated', answer: 'no answer' }))).to.deep.equal([]);
    state.now = 500;
    expect(doings(say({ kind: 'tick' }))).to.deep.equal([]);
    state.now = 1000;
    expect(doings(say({ kind: 'tick' }))).to.deep.equal(['update a,b']);
    expect(doings(say({ kind: 'tick' })), 'one is on its way').to.deep.equal([]);
    say({ kind: 'updated', answer: 'done' });
    expect(doings(say({ kind: 'tick' }))).to.deep.equal([]);
    // What a second window waits for is not forgotten with the answer.
    say({ kind: 'joined', window: 2 });
    expect(doings(say({ kind: 'topics', window: 2, topics: ['a'] }))).to.deep.equal(['update a,b anew a']);
    say({ kind: 'updated', answer: 'no answer' });
    state.now = 2000;
    expect(doings(say({ kind: 'tick' }))).to.deep.equal(['update a,b anew a']);
  });
  it('asks anew for what a second window follows too, and tells each window what it follows only', () => {
    const { say, doings, heard, message, opened } = machine();
    opened('a');
    say(message('a', 1, true));
    say({ kind: 'joined', window: 2 });
    expect(doings(say({ kind: 'topics', window: 2, topics: ['a', 'b'] }))).to.deep.equal(['update a,b anew a']);
    say(message('a', 2));
    say(message('a', 3, true));
    say(message('b', 4, true));
    say(message('a', 5));
    // The second window hears nothing of a topic before its snapshot.
    expect(heard(2)).to.deep.equal(['a! 3', 'b! 4', 'a 5']);
    expect(heard(1)).to.deep.equal(['a! 1', 'a 2', 'a! 3', 'a 5']);
  });
  it('asks anew for what a window let go and took up again before that was known', () => {
    const { say, doings, heard, message, opened } = machine();
    opened('a', 'b');
    say(message('a', 1, true));
    expect(doings(say({ kind: 'topics', window: 1, topics: ['a', 'b'], anew: ['a'] }))).to.deep.equal(['update a,b anew a']);
    say(message('a', 2));
    say(message('a', 3, true));
    expect(heard(1), 'nothing before its snapshot').to.deep.equal(['a! 1', 'a! 3']);
  });
  it('that is lost asks whether the session still is one, then opens again; topics begin with a snapshot', () => {
    const { say, doings, heard, told, message, opened, state } = machine();
    opened('a');
    say(message('a', 1, true));
    say({ kind: 'broken' });
    expect(told(1).some((one) => one.kind === 'status' && !one.open)).to.equal(true);
    expect(doings(say({ kind: 'tick' }))).to.deep.equal([]);
    state.now = 1000;
    expect(doings(say({ kind: 'tick' }))).to.deep.equal(['ask session']);
    expect(doings(say({ kind: 'session', answer: 'no answer' }))).to.deep.equal([]);
    state.now = 2000;
    expect(doings(say({ kind: 'tick' }))).to.deep.equal(['ask session']);
    expect(doings(say({ kind: 'session', answer: 'signed in' }))).to.deep.equal(['open']);
    expect(doings(say({ kind: 'hello', streamId: 's2' }))).to.deep.equal(['update a']);
    say(message('a', 2));
    say(message('a', 3, true));
    expect(heard(1)).to.deep.equal(['a! 1', 'a! 3']);
  });
  it('that says nothing for 5 s is lost', () => {
    const { say, doings, opened, state } = machine();
    opened('a');
    state.now = 5000;
    expect(doings(say({ kind: 'tick' }))).to.deep.equal([]);
    state.now = 5001;
    expect(doings(say({ kind: 'tick' }))).to.deep.equal(['close']);
  });
  it('obeys a reset: what follows is heard from its snapshot on', () => {
    const { say, heard, message, opened } = machine();
    opened('a');
    say(message('a', 1, true));
    say({ kind: 'reset', topic: 'a' });
    say(message('a', 2));
    say(message('a', 3, true));
    expect(heard(1)).to.deep.equal(['a! 1', 'a! 3']);
  });
  it('says what the server would not let it follow, and goes on with the rest', () => {
    const { say, doings, told, opened } = machine();
    opened('a');
    expect(doings(say({ kind: 'topics', window: 1, topics: ['a', 'b', 'x'] }))).to.deep.equal(['update a,b,x']);
    expect(doings(say({ kind: 'updated', answer: { refused: [2], words: 'x is not a topic' } }))).to.deep.equal(['update a,b']);
    expect(told(1)).to.deep.include({ kind: 'refused', topics: ['x'], words: 'x is not a topic' });
  });
  it('ends when the last window leaves, and when the session has', () => {
    const { say, doings, told, opened, state } = machine();
    opened('a');
    say({ kind: 'broken' });
    state.now = 1000;
    say({ kind: 'tick' });
    say({ kind: 'session', answer: 'signed out' });
    expect(told(1)).to.deep.include({ kind: 'signed-out' });
    expect(doings(say({ kind: 'left', window: 1 }))).to.deep.equal(['close']);
  });

  it('leaves every window with the newest of all it follows, a snapshot before any change, however it is cut', () => {
    const names = ['a', 'b', 'c'];
    const step = fc.oneof(
      { weight: 6, arbitrary: fc.record({ do: fc.constant('server says' as const), topic: fc.constantFrom(...names) }) },
      { weight: 3, arbitrary: fc.record({ do: fc.constant('want' as const), window: fc.constantFrom(1, 2), topics: fc.subarray(names) }) },
      { weight: 1, arbitrary: fc.record({ do: fc.constant('cut' as const) }) },
      { weight: 4, arbitrary: fc.record({ do: fc.constant('server works' as const) }) },
      { weight: 2, arbitrary: fc.record({ do: fc.constant('wait' as const) }) },
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 80, size: 'max' }), (steps) => {
        const it = new StreamMachine(0);
        let now = 0;
        // The server: values by topic, the stream it holds, and the updates on their way to it.
        const values: Record<string, number> = { a: 0, b: 0, c: 0 };
        const server: { stream: { id: string; topics: Set<string> } | null } = { stream: null };
        let streams = 0;
        let asked: StreamEffect[] = [];
        const wants = new Map<number, readonly string[]>();
        const seen = new Map<string, number>();
        const tell = (window: number, { topic, snapshot, data }: TopicMessage): void => {
          const key = `${window} ${topic}`;
          if (!snapshot) expect(seen.has(key), `a change of ${topic} before its snapshot`).to.equal(true);
          seen.set(key, data as number);
        };
        const run = (effects: readonly StreamEffect[]): void => {
          for (const one of effects)
            if (one.do === 'tell') {
              if (one.message.kind === 'topics') for (const message of one.message.messages) tell(one.window, message);
              if (one.message.kind === 'status' && !one.message.open) seen.clear();
            } else if (one.do === 'close') server.stream = null;
            else asked.push(one);
        };
        const handle = (event: StreamEvent): void => run(it.handle(event, now));
        const work = (): void => {
          const todo = asked;
          asked = [];
          for (const one of todo) {
            if (one.do === 'open') {
              server.stream = { id: `s${++streams}`, topics: new Set() };
              handle({ kind: 'hello', streamId: server.stream.id });
            } else if (one.do === 'ask session') handle({ kind: 'session', answer: 'signed in' });
            else if (one.do === 'update') {
              if (server.stream?.id !== one.streamId) {
                handle({ kind: 'updated', answer: 'no answer' });
                continue;
              }
              const fresh = one.topics.filter((topic) => !server.stream?.topics.has(topic) || one.anew.includes(topic));
              server.stream.topics = new Set(one.topics);
              handle({ kind: 'updated', answer: 'done' });
              for (const topic of fresh) handle({ kind: 'message', message: { topic, snapshot: true, data: values[topic] } });
            }
          }
        };
        for (const window of [1, 2]) handle({ kind: 'joined', window });
        for (const one of steps)
          if (one.do === 'want') {
            for (const topic of wants.get(one.window) ?? []) if (!one.topics.includes(topic)) seen.delete(`${one.window} ${topic}`);
            wants.set(one.window, one.topics);
            handle({ kind: 'topics', window: one.window, topics: one.topics });
          } else if (one.do === 'server says') {
            values[one.topic] = (values[one.topic] ?? 0) + 1;
            if (server.stream?.topics.has(one.topic)) handle({ kind: 'message', message: { topic: one.topic, snapshot: false, data: values[one.topic] } });
          } else if (one.do === 'cut') {
            if (server.stream === null) continue;
            server.stream = null;
            handle({ kind: 'broken' });
          } else if (one.do === 'server works') work();
          else {
            now += 1000;
            handle({ kind: 'tick' });
          }
        for (let i = 0; i < 20; i++) {
          work();
          now += 1000;
          if (server.stream !== null) handle({ kind: 'beat', beat: { now: '', venues: {}, broker: '' } });
          handle({ kind: 'tick' });
        }
        for (const [window, topics] of wants)
          for (const topic of topics) expect(seen.get(`${window} ${topic}`), `${topic} in window ${window}`).to.equal(values[topic]);
      }),
      { numRuns: 2000 },
    );
  });
});
