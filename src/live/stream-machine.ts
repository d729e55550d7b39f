import type { Beat, FromStream, TopicMessage } from './protocol.ts';

/** What happens to the one stream of all windows. Windows are named by numbers. */
export type StreamEvent =
  | { readonly kind: 'joined' | 'left'; readonly window: number }
  | { readonly kind: 'topics'; readonly window: number; readonly topics: readonly string[]; readonly anew?: readonly string[] }
  | { readonly kind: 'hello'; readonly streamId: string }
  | { readonly kind: 'message'; readonly message: TopicMessage }
  | { readonly kind: 'reset'; readonly topic: string }
  | { readonly kind: 'beat'; readonly beat: Beat }
  | { readonly kind: 'broken' }
  /** The look at the time, once a second. */
  | { readonly kind: 'tick' }
  /** Whether the session still is one: asked before a broken stream is opened again. */
  | { readonly kind: 'session'; readonly answer: 'signed in' | 'signed out' | 'no answer' }
  /** What became of the update of topics. */
  | { readonly kind: 'updated'; readonly answer: 'done' | 'no such stream' | 'no answer' | { readonly refused: readonly number[]; readonly words: string } };

/** What is to be done about it, in this order. */
export type StreamEffect =
  | { readonly do: 'open' | 'close' | 'ask session' }
  /** All topics from now on, and those of them that are followed already and are to begin with a snapshot all the same. */
  | { readonly do: 'update'; readonly streamId: string; readonly topics: readonly string[]; readonly anew: readonly string[] }
  | { readonly do: 'tell'; readonly window: number; readonly message: FromStream };

/** Without a word for this long the stream counts as lost, whatever the browser thinks. */
const SILENT_MS = 5000;
const RETRY_MS = 1000;

/**
 * The state of the stream, without the stream: what windows want, what the server was asked for, and what each topic
 * still lacks. It says what to do; the worker does it. Topics go in the body of an update, never in the address.
 */
export class StreamMachine {
  private readonly windows = new Map<number, ReadonlySet<string>>();
  private phase: 'closed' | 'opening' | 'open' | 'waiting' | 'asking' | 'signed out' = 'closed';
  private streamId: string | null = null;
  /** What the server follows for this stream, as far as it has said so. */
  private asked: ReadonlySet<string> = new Set();
  /** The update on its way, and what it asks for anew. */
  private updating: ReadonlySet<string> | null = null;
  private updatingAnew: readonly string[] = [];
  /** Followed already, and to begin anew for a window that joined. */
  private readonly anew = new Set<string>();
  /** Topics whose next word must be a snapshot, by window: changes before it are of something it has not seen. */
  private readonly awaiting = new Map<number, Set<string>>();
  /** Topics the server does not know: they are not asked for again. */
  private readonly refused = new Set<string>();
  private heardAt = 0;
  private retryAt = 0;
  private open = false;
  private since: number;

  constructor(now: number) {
    this.since = now;
  }

  handle(event: StreamEvent, now: number): StreamEffect[] {
    switch (event.kind) {
      case 'joined':
        this.windows.set(event.window, new Set());
        this.awaiting.set(event.window, new Set());
        return [{ do: 'tell', window: event.window, message: { kind: 'status', open: this.open, since: this.since } }];
      case 'left':
        this.windows.delete(event.window);
        this.awaiting.delete(event.window);
        return this.windows.size === 0 ? this.shut() : this.update();
      case 'topics':
        return this.want(event.window, event.topics, event.anew ?? []);
      case 'hello':
        this.heardAt = now;
        this.phase = 'open';
        this.forget();
        this.streamId = event.streamId;
        return [...this.status(true, now), ...this.update()];
      case 'message':
        this.heardAt = now;
        return this.pass(event.message, now);
      case 'reset':
        this.heardAt = now;
        for (const [window, topics] of this.windows) if (topics.has(event.topic)) this.awaiting.get(window)?.add(event.topic);
        return [];
      case 'beat':
        this.heardAt = now;
        return [...this.windows.keys()].map((window) => ({ do: 'tell', window, message: { kind: 'beat', beat: event.beat, at: now } }));
      case 'broken':
        return this.lose(now);
      case 'tick':
        if (this.phase === 'waiting' && now >= this.retryAt) {
          this.phase = 'asking';
          return [{ do: 'ask session' }];
        }
        if ((this.phase === 'open' || this.phase === 'opening') && now - this.heardAt > SILENT_MS) return [{ do: 'close' }, ...this.lose(now)];
        return this.phase === 'open' && now >= this.retryAt ? this.update() : [];
      case 'session':
        return this.answered(event.answer, now);
      case 'updated':
        return this.updated(event.answer, now);
      default:
        return event satisfies never;
    }
  }

  private want(window: number, topics: readonly string[], anew: readonly string[]): StreamEffect[] {
    const before = this.windows.get(window);
    const awaiting = this.awaiting.get(window);
    if (!before || !awaiting) return [];
    const next = new Set(topics);
    this.windows.set(window, next);
    for (const topic of before) if (!next.has(topic)) awaiting.delete(topic);
    for (const topic of topics)
      if (!before.has(topic) || anew.includes(topic)) {
        awaiting.add(topic);
        // What is followed already, by another window or by this one, has no snapshot to come by itself.
        if (this.asked.has(topic) || this.updating?.has(topic)) this.anew.add(topic);
      }
    if (this.phase !== 'closed') return this.update();
    this.phase = 'opening';
    return [{ do: 'open' }];
  }

  private wanted(): Set<string> {
    return new Set([...this.windows.values()].flatMap((topics) => [...topics]).filter((topic) => !this.refused.has(topic)));
  }

  /** Asks for what the windows want now; what comes meanwhile is asked for afterwards. */
  private update(): StreamEffect[] {
    if (this.streamId === null || this.updating !== null) return [];
    const wanted = this.wanted();
    const same = wanted.size === this.asked.size && [...wanted].every((topic) => this.asked.has(topic));
    const anew = [...this.anew].filter((topic) => wanted.has(topic)).sort();
    this.anew.clear();
    if (same && anew.length === 0) return [];
    this.updating = wanted;
    this.updatingAnew = anew;
    return [{ do: 'update', streamId: this.streamId, topics: [...wanted].sort(), anew }];
  }

  private updated(answer: Extract<StreamEvent, { kind: 'updated' }>['answer'], now: number): StreamEffect[] {
    const asked = this.updating ?? new Set<string>();
    this.updating = null;
    if (answer === 'done') {
      this.asked = asked;
      return this.update();
    }
    if (answer === 'no answer') {
      this.retryAt = now + RETRY_MS;
      for (const topic of this.updatingAnew) this.anew.add(topic);
      return [];
    }
    if (answer === 'no such stream') {
      this.forget();
      this.phase = 'opening';
      return [{ do: 'close' }, { do: 'open' }];
    }
    const topics = [...asked].sort();
    const wrong = answer.refused.flatMap((at) => topics[at] ?? []);
    for (const topic of wrong.length > 0 ? wrong : topics) this.refused.add(topic);
    const told = [...this.windows.keys()].map((window): StreamEffect => ({
      do: 'tell',
      window,
      message: { kind: 'refused', topics: wrong, words: answer.words },
    }));
    return [...told, ...this.update()];
  }

  /** To each window what it follows, a topic's snapshot before its changes. */
  private pass(message: TopicMessage, now: number): StreamEffect[] {
    const effects: StreamEffect[] = [];
    for (const [window, topics] of this.windows) {
      const awaiting = this.awaiting.get(window);
      if (!topics.has(message.topic) || !awaiting) continue;
      if (message.snapshot) awaiting.delete(message.topic);
      else if (awaiting.has(message.topic)) continue;
      effects.push({ do: 'tell', window, message: { kind: 'topics', messages: [message], at: now } });
    }
    return effects;
  }

  private answered(answer: 'signed in' | 'signed out' | 'no answer', now: number): StreamEffect[] {
    if (this.phase !== 'asking') return [];
    if (answer === 'signed in') {
      this.phase = 'opening';
      this.heardAt = now;
      return [{ do: 'open' }];
    }
    if (answer === 'no answer') {
      this.phase = 'waiting';
      this.retryAt = now + RETRY_MS;
      return [];
    }
    this.phase = 'signed out';
    return [...this.windows.keys()].map((window) => ({ do: 'tell', window, message: { kind: 'signed-out' } }));
  }

  /** The stream is gone: whatever is followed begins with a snapshot when it is back. */
  private lose(now: number): StreamEffect[] {
    if (this.phase === 'closed' || this.phase === 'signed out') return [];
    this.forget();
    for (const [window, topics] of this.windows) for (const topic of topics) this.awaiting.get(window)?.add(topic);
    this.phase = 'waiting';
    this.retryAt = now + RETRY_MS;
    return this.status(false, now);
  }

  private shut(): StreamEffect[] {
    this.phase = 'closed';
    this.forget();
    this.open = false;
    return [{ do: 'close' }];
  }

  /** Of a stream that is no more nothing is followed. */
  private forget(): void {
    this.streamId = null;
    this.asked = new Set();
    this.updating = null;
    this.anew.clear();
  }

  private status(open: boolean, now: number): StreamEffect[] {
    if (this.open === open) return [];
    this.open = open;
    this.since = now;
    return [...this.windows.keys()].map((window) => ({ do: 'tell', window, message: { kind: 'status', open, since: now } }));
  }
}
