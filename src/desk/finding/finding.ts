import type { Entry } from '../../core/desk/index.ts';
import type { Headline, StreamItem } from '../../venue/messages.ts';
import type { ConditionAnswer, OwnLists, Watched } from '../../prices/messages.ts';
import type { UserTopic } from '../hub.ts';
import { presentAlert } from '../present/index.ts';
import { SerialQueue } from '../queue.ts';
import { Alerts } from './alerts.ts';
import { Scans } from './scans.ts';
import { ownLists, type FindingParts } from './parts.ts';
import { WaitingOrders } from './waiting-orders.ts';

const NEWS_AT_ONCE = 200;

/**
 * Finds for traders what they look for: scans, alerts, orders that wait for a condition. What the market brings is
 * given to the prices' thread in order; what comes of it is committed before it is told, and before the market
 * goes on where that waits.
 */
export class Finding {
  readonly alerts: Alerts;
  readonly scans: Scans;
  readonly waiting: WaitingOrders;
  private readonly parts: FindingParts;
  private readonly queue = new SerialQueue();
  private lookAt: number | null = null;
  private started = false;

  constructor(parts: FindingParts) {
    this.parts = parts;
    const changed = (): Promise<void> => this.watch();
    this.alerts = new Alerts(parts, changed);
    this.scans = new Scans(
      parts,
      this.alerts,
      () => this.arm(),
      (work) => this.queue.run(work),
    );
    this.waiting = new WaitingOrders(parts, changed);
  }

  /** Takes up what was watched before; what happened meanwhile is looked at. */
  async open(): Promise<void> {
    const { store, desk } = this.parts;
    const kept = await store.load();
    this.alerts.load(kept);
    this.waiting.load(kept.waiting);
    await this.scans.load(desk.users());
    desk.followedBy(this);
    this.started = true;
    await this.waiting.settleFired();
    await this.waiting.align();
    await this.watch();
    await this.catchUp(kept.marks);
  }

  /** A condition as it reads, of an instrument where one is given. */
  condition(phrase: string, instrument: string | null, own: OwnLists): Promise<ConditionAnswer> {
    return this.parts.prices.ask('condition', { phrase, instrument, own });
  }

  /** Resolves when all that was heard so far has been worked off. */
  settled(): Promise<unknown> {
    return this.queue.idle();
  }

  /** What the market brought; resolves when all that follows from it is committed. */
  heard(items: readonly StreamItem[], time: number): Promise<void> {
    if (!this.started) return Promise.resolve();
    return this.queue.run(async () => {
      if (this.isAwaited(items)) await this.carryOut(await this.parts.prices.ask('rows', { items, time, own: await this.own() }), time);
      await this.passed(
        time,
        items.some(({ kind }) => kind === 'price'),
      );
      this.arm();
    });
  }

  /** Headlines come by another line than rows. */
  news(headlines: readonly Headline[]): void {
    if (this.started && headlines.length > 0) void this.queue.run(() => this.alerts.headlines(headlines));
  }

  /** What the desk wrote into the activity. */
  entry(entry: Entry): void {
    if (this.started && this.alerts.wants(entry)) void this.queue.run(() => this.alerts.entry(entry));
  }

  /** The broker or the prices are cut off, or both are there again. */
  linked(up: boolean): Promise<void> {
    if (!this.started) return Promise.resolve();
    return this.queue.run(async () => {
      const changed = await this.waiting.linked(up);
      if (changed || up) await this.lookAgain();
    });
  }

  /** Instruments whose rows are needed, and the moment that is waited for. */
  get armed(): { readonly instruments: readonly string[]; readonly wakeAt: number | null } {
    const instruments = new Set([...this.alerts.instruments(), ...this.waiting.instruments(), ...this.scans.instruments()]);
    const moments = [this.lookAt, this.alerts.nextMoment(), this.waiting.nextMoment(), this.scans.nextMoment(this.parts.desk.now())];
    const known = moments.filter((one) => one !== null);
    return { instruments: [...instruments], wakeAt: known.length === 0 ? null : Math.min(...known) };
  }

  snapshot(topic: UserTopic, user: string): Promise<unknown> {
    if (topic.kind === 'alerts') return Promise.resolve(this.alerts.of(user).map((alert) => presentAlert(alert, this.alerts.firingsOf(alert.id))));
    return Promise.resolve(topic.kind === 'scan' ? this.scans.entered(user, topic.name) : null);
  }

  /** What is watched comes with rows, and they wait by themselves. */
  awaits(): boolean {
    return false;
  }

  private isAwaited(items: readonly StreamItem[]): boolean {
    return items.some(({ kind }) => kind !== 'report') && this.alerts.watches().length + this.waiting.watches().length > 0;
  }

  /** Moments that came: ends of alerts and waiting orders, snoozes over, scans that are due. */
  private async passed(time: number, priced: boolean): Promise<void> {
    const ended = await this.alerts.passed(time);
    const expired = await this.waiting.passed(time);
    if (ended || expired) await this.lookAgain();
    await this.scans.passed(time, priced);
  }

  /** Another set of things is watched: those that are new are looked at. */
  private watch(): Promise<void> {
    return this.queue.run(() => this.lookAgain());
  }

  private async lookAgain(): Promise<void> {
    const watches = [...this.alerts.watches(), ...this.waiting.watches()];
    await this.carryOut(await this.parts.prices.ask('watch', { watches, own: await this.own() }), this.parts.desk.now());
    this.arm();
  }

  private async carryOut({ seen, wakeAt }: Watched, time: number): Promise<void> {
    this.lookAt = wakeAt;
    if (seen.length === 0) return;
    await this.alerts.seen(seen);
    await this.waiting.seen(seen);
    const over = this.alerts.endedSince(seen) || this.waiting.endedSince();
    if (over) {
      const watches = [...this.alerts.watches(), ...this.waiting.watches()];
      const after = await this.parts.prices.ask('watch', { watches, own: await this.own() });
      await this.carryOut(after, time);
    }
  }

  private arm(): void {
    this.parts.desk.followArmed();
  }

  /** Whose own things a watched phrase may look at. */
  private async own(): Promise<Record<string, OwnLists>> {
    const users = new Set([...this.alerts.watches(), ...this.waiting.watches()].map(({ user }) => user));
    return Object.fromEntries(await Promise.all([...users].map(async (user) => [user, await ownLists(this.parts, user)] as const)));
  }

  /** Headlines and activity entries that came before a stop and were not looked at. */
  private async catchUp(marks: Readonly<Record<string, number>>): Promise<void> {
    const { desk } = this.parts;
    const after = marks['news'];
    if (after !== undefined) {
      const { items } = await desk.news({ instrument: null, before: null, after, limit: NEWS_AT_ONCE });
      await this.queue.run(() => this.alerts.headlines(items));
    } else {
      const { items } = await desk.news({ instrument: null, before: null, after: null, limit: 1 });
      await this.alerts.markNews(items[items.length - 1]?.seq ?? 0);
    }
    const entries = marks['entries'] === undefined ? [] : await desk.entries({ accounts: [...desk.accounts.keys()], after: marks['entries'], limit: 1000 });
    for (const entry of entries) if (this.alerts.wants(entry)) await this.queue.run(() => this.alerts.entry(entry));
  }
}
