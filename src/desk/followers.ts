import type { Entry } from '../core/desk/index.ts';
import type { Armed, Headline, StreamItem } from '../venue/messages.ts';
import type { UserTopic } from './hub.ts';

/** Who follows what the market and the accounts bring, besides the accounts themselves. */
export interface Follower {
  /** Resolves when all that follows from it is committed: the market may wait for that. */
  heard(items: readonly StreamItem[], time: number): Promise<void>;
  news(headlines: readonly Headline[]): void;
  entry(entry: Entry): void;
  /** Broker and prices are both there, or no longer. */
  linked(up: boolean): Promise<void>;
  settled(): Promise<unknown>;
  /** The state of a topic that is a user's own; null where it is another's business. */
  snapshot(topic: UserTopic, user: string): Promise<unknown>;
  /** Whether something in an account must follow before the market goes on. */
  awaits(account: string): boolean;
  readonly armed: Armed;
}

/** All who follow, told one after the other. */
export class Followers {
  private readonly all: Follower[] = [];

  add(follower: Follower): void {
    this.all.push(follower);
  }

  async heard(items: readonly StreamItem[], time: number): Promise<void> {
    for (const follower of this.all) await follower.heard(items, time);
  }

  news(headlines: readonly Headline[]): void {
    for (const follower of this.all) follower.news(headlines);
  }

  entry(entry: Entry): void {
    for (const follower of this.all) follower.entry(entry);
  }

  async linked(up: boolean): Promise<void> {
    for (const follower of this.all) await follower.linked(up);
  }

  async settled(): Promise<void> {
    for (const follower of this.all) await follower.settled();
  }

  /** The state of a topic that is a user's own: empty where nobody has it. */
  async snapshot(topic: UserTopic, user: string): Promise<unknown> {
    const found = await Promise.all(this.all.map((follower) => follower.snapshot(topic, user)));
    return found.find((one) => one !== null) ?? [];
  }

  awaits(account: string): boolean {
    return this.all.some((follower) => follower.awaits(account));
  }

  get armed(): readonly Armed[] {
    return this.all.map(({ armed }) => armed);
  }
}
