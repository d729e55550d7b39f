import { isInterval, type Interval } from '../core/market/index.ts';

/** How often a connection is written to at most; a write carries every event due. */
const FRAME_MS = 1000 / 60;
const KEPT_EVENTS = 20_000;
/** Prints that wait for a reader who is behind. */
const MOST_PRINTS = 5000;
const COMMENT_MS = 4000;
const BEAT_MS = 800;

export const ACCOUNT_TOPICS = ['accounts', 'orders', 'fills', 'positions', 'risk', 'plans', 'activity'] as const;
export type AccountTopic = (typeof ACCOUNT_TOPICS)[number];
/** Topics that are a user's own. */
const USER_TOPICS = ['alerts', 'baskets'] as const;
const PLAIN_TOPICS = ['news', 'clock', 'link'] as const;

export type Topic =
  | { readonly kind: 'quote' | 'depth' | 'trades'; readonly instrument: string }
  | { readonly kind: 'bars'; readonly instrument: string; readonly interval: Interval }
  | { readonly kind: (typeof PLAIN_TOPICS)[number] }
  | { readonly kind: (typeof USER_TOPICS)[number] }
  | { readonly kind: 'scan'; readonly name: string }
  | { readonly kind: AccountTopic; readonly account: string | null };

export type UserTopic = Extract<Topic, { readonly kind: (typeof USER_TOPICS)[number] | 'scan' }>;

/** Reads a topic's name; null where there is no such topic. Instruments and accounts are checked by the caller. */
export function parseTopic(name: string): Topic | null {
  if (name.startsWith('scan:') && name.length > 5) return { kind: 'scan', name: name.slice(5) };
  const [kind = '', first, second, ...more] = name.split(':');
  if (more.length > 0) return null;
  if (kind === 'quote' || kind === 'depth' || kind === 'trades') return first && second === undefined ? { kind, instrument: first } : null;
  if (kind === 'bars') {
    return first && second !== undefined && isInterval(second) ? { kind, instrument: first, interval: second } : null;
  }
  const plain = [...PLAIN_TOPICS, ...USER_TOPICS].find((one) => one === kind);
  if (plain) return first === undefined ? { kind: plain } : null;
  const ofAccount = ACCOUNT_TOPICS.find((one) => one === kind);
  if (ofAccount && second === undefined && first !== '') return { kind: ofAccount, account: first ?? null };
  return null;
}

/** An account event that is told to all who follow it, in order, none left out. */
export interface AccountEvent {
  readonly id: number;
  readonly topic: AccountTopic;
  /** Null for what everybody may read. */
  readonly account: string | null;
  /** As JSON, made when somebody first hears it. */
  readonly data: () => string;
}

/** An event whose words are made once, and only for a listener. */
export const accountEvent = (id: number, topic: AccountTopic, account: string | null, data: () => unknown): AccountEvent => {
  let text: string | null = null;
  return { id, topic, account, data: () => (text ??= JSON.stringify(data())) };
};

/** A session or a token, by its id. */
export interface Credential {
  readonly id: string;
  readonly until: number | null;
}

/** What a reader of a stream brings. */
export type Reader = Pick<Connection, 'id' | 'user' | 'accounts' | 'send' | 'behind' | 'end' | 'credential'>;

/** One open stream. `send` takes text that is ready to be written. */
export interface Connection {
  readonly id: string;
  readonly user: string;
  readonly accounts: readonly string[];
  readonly topics: Set<string>;
  readonly send: (text: string) => void;
  /** True while its reader has not taken what was written: market topics then wait for it, newest state only. */
  readonly behind: () => boolean;
  /** Ends it from here. */
  readonly end: () => void;
  /** By what its reader was let in, and until when, on the machine's clock; null for ever. */
  readonly credential: Credential;
  /** Market topics with news since the last write. */
  readonly due: Set<string>;
  /** Prints that wait for the next write, by topic. */
  readonly prints: Map<string, string[]>;
}

const frame = (event: string, data: string, id?: number): string => `${id === undefined ? '' : `id: ${id}\n`}event: ${event}\ndata: ${data}\n\n`;
const topicFrame = (event: 'snapshot' | 'change', topic: string, data: string, id?: number): string =>
  frame(event, `{"topic":${JSON.stringify(topic)},"data":${data}}`, id);

/**
 * Fans out what happens: market data conflated to the newest state at most once a frame, prints batched,
 * account events at once and numbered.
 */
export class Hub {
  private readonly connections = new Map<string, Connection>();
  private readonly followers = new Map<string, Set<Connection>>();
  /** The newest state of a market topic, as JSON; made once for all connections. */
  private readonly newest = new Map<string, string>();
  private readonly kept: AccountEvent[] = [];
  private readonly timers: NodeJS.Timeout[];
  private readonly beat: () => string;
  private readonly onTopics: () => void;
  private readonly onReset: (connection: Connection, topic: string) => void;

  /**
   * @param onTopics is called when the set of followed topics may have changed
   * @param onReset is called when a connection must begin a topic anew
   */
  constructor(beat: () => string, onTopics: () => void, onReset: (connection: Connection, topic: string) => void) {
    this.beat = beat;
    this.onTopics = onTopics;
    this.onReset = onReset;
    this.timers = [
      setInterval(() => this.flush(), FRAME_MS),
      setInterval(() => this.each((connection) => connection.send(': still here\n\n')), COMMENT_MS),
      setInterval(() => this.beatAll(), BEAT_MS),
    ];
  }

  stop(): void {
    for (const timer of this.timers) clearInterval(timer);
  }

  private beatAll(): void {
    const now = Date.now();
    for (const connection of [...this.connections.values()]) {
      const { until } = connection.credential;
      if (until !== null && until <= now) connection.end();
      else if (!connection.behind()) connection.send(frame('beat', this.beat()));
    }
  }

  /** Ends every stream that was opened with a session or token that is no more. */
  endOf(credential: string): void {
    for (const connection of [...this.connections.values()]) if (connection.credential.id === credential) connection.end();
  }

  /** Names of all market topics that anybody follows. */
  followed(): Iterable<string> {
    return this.followers.keys();
  }

  followersOf(topic: string): Iterable<Connection> {
    return [...(this.followers.get(topic) ?? [])];
  }

  isFollowed(topic: string): boolean {
    return this.followers.has(topic);
  }

  find(id: string): Connection | undefined {
    return this.connections.get(id);
  }

  open(reader: Reader, time: string): Connection {
    const connection: Connection = { ...reader, topics: new Set(), due: new Set(), prints: new Map() };
    const { id, send } = connection;
    this.connections.set(id, connection);
    send(frame('hello', JSON.stringify({ streamId: id, time })));
    send(frame('beat', this.beat()));
    return connection;
  }

  close(connection: Connection): void {
    this.connections.delete(connection.id);
    for (const topic of connection.topics) this.unfollow(connection, topic);
    this.onTopics();
  }

  /** Replaces a connection's topics; returns those that are new to it and need a snapshot. */
  setTopics(connection: Connection, topics: readonly string[]): string[] {
    const next = new Set(topics);
    for (const topic of connection.topics) if (!next.has(topic)) this.unfollow(connection, topic);
    const fresh = topics.filter((topic) => !connection.topics.has(topic));
    for (const topic of fresh) {
      connection.topics.add(topic);
      let followers = this.followers.get(topic);
      if (!followers) this.followers.set(topic, (followers = new Set()));
      followers.add(connection);
    }
    this.onTopics();
    return [...new Set(fresh)];
  }

  snapshot(connection: Connection, topic: string, data: string): void {
    connection.due.delete(topic);
    connection.send(topicFrame('snapshot', topic, data));
  }

  reset(connection: Connection, topic: string): void {
    connection.send(frame('reset', JSON.stringify({ topic })));
  }

  /** A new state of a market topic: each follower gets the newest one with its next write. */
  change(topic: string, data: () => string): void {
    const followers = this.followers.get(topic);
    if (!followers) return;
    this.newest.set(topic, data());
    for (const connection of followers) connection.due.add(topic);
  }

  /** Prints, all of which are told. */
  prints(topic: string, items: readonly string[]): void {
    for (const connection of this.followers.get(topic) ?? []) {
      const waiting = connection.prints.get(topic) ?? [];
      // A reader that stays behind is told that it missed some, and begins anew.
      if (waiting.length + items.length > MOST_PRINTS) {
        connection.prints.delete(topic);
        this.reset(connection, topic);
        this.onReset(connection, topic);
      } else connection.prints.set(topic, [...waiting, ...items]);
    }
  }

  /** An account event: at once, to all who may and want to see it. */
  tell(event: AccountEvent): void {
    this.kept.push(event);
    if (this.kept.length > KEPT_EVENTS * 1.1) this.forgotten = this.kept.splice(0, this.kept.length - KEPT_EVENTS).pop()?.id ?? this.forgotten;
    this.each((connection) => this.pass(connection, event));
  }

  /** Account figures that move with prices: newest state only, unnumbered. */
  tellFigures(topic: AccountTopic, account: string, data: () => string): void {
    for (const name of [topic, `${topic}:${account}`])
      for (const connection of this.followers.get(name) ?? [])
        if (connection.accounts.includes(account) && !connection.behind()) connection.send(topicFrame('change', name, data()));
  }

  /** What is new of a user's own: at once, to those windows of theirs that follow it. */
  tellUser(topic: string, user: string, data: string): void {
    for (const connection of this.followers.get(topic) ?? []) if (connection.user === user) connection.send(topicFrame('change', topic, data));
  }

  /** Tells again what a returning window missed; false where that is no longer known. */
  resume(connection: Connection, lastEventId: number): boolean {
    if (lastEventId < this.forgotten) return false;
    for (const event of this.kept) if (event.id > lastEventId) this.pass(connection, event);
    return true;
  }

  /** The id of the newest event that is no longer kept. */
  forgotten = 0;

  private pass(connection: Connection, event: AccountEvent): void {
    if (event.account !== null && !connection.accounts.includes(event.account)) return;
    const names =
      event.account === null
        ? [event.topic, ...connection.accounts.map((account) => `${event.topic}:${account}`)]
        : [event.topic, `${event.topic}:${event.account}`];
    for (const name of names) if (connection.topics.has(name)) connection.send(topicFrame('change', name, event.data(), event.id));
  }

  private flush(): void {
    for (const connection of this.connections.values()) {
      if ((connection.due.size === 0 && connection.prints.size === 0) || connection.behind()) continue;
      let text = '';
      for (const topic of connection.due) {
        const data = this.newest.get(topic);
        if (data !== undefined) text += topicFrame('change', topic, data);
      }
      for (const [topic, items] of connection.prints) text += topicFrame('change', topic, `[${items.join(',')}]`);
      connection.due.clear();
      connection.prints.clear();
      if (text !== '') connection.send(text);
    }
  }

  private unfollow(connection: Connection, topic: string): void {
    connection.topics.delete(topic);
    connection.due.delete(topic);
    connection.prints.delete(topic);
    const followers = this.followers.get(topic);
    followers?.delete(connection);
    if (followers?.size === 0) {
      this.followers.delete(topic);
      this.newest.delete(topic);
    }
  }

  private each(work: (connection: Connection) => void): void {
    for (const connection of this.connections.values()) work(connection);
  }
}
