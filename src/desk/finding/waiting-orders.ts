import { canonical } from '../../core/canonical.ts';
import { refusalText, type OrderIntent, type Refusal } from '../../core/orders/index.ts';
import { NO_MEMORY } from '../../core/scan/index.ts';
import type { Result } from '../../core/result.ts';
import type { Seen, Watch } from '../../prices/messages.ts';
import type { FindingParts } from './parts.ts';
import { instrumentsNamed } from './named.ts';
import type { ConditionalOrder } from './things.ts';

/** Reads what is to be asked for as an order intent, at the moment it is asked for. */
export type ReadWaiting = (order: ConditionalOrder, clientOrderId: string) => Promise<Result<OrderIntent, Refusal>>;

export type WaitingTerms = Pick<ConditionalOrder, 'clientOrderId' | 'account' | 'when' | 'instrument' | 'order' | 'until'>;

/** Orders that are held here until a condition is true; each goes once. */
export class WaitingOrders {
  private readonly orders = new Map<string, ConditionalOrder>();
  private made = 0;
  private up = true;
  private over = false;
  private readonly parts: FindingParts;
  private readonly changed: () => Promise<void>;
  private read: ReadWaiting | null = null;

  constructor(parts: FindingParts, changed: () => Promise<void>) {
    this.parts = parts;
    this.changed = changed;
  }

  readBy(read: ReadWaiting): void {
    this.read = read;
  }

  load(orders: readonly ConditionalOrder[]): void {
    for (const order of orders) {
      this.orders.set(order.id, order);
      this.made = Math.max(this.made, Number(order.id.replace(/^when-/, '')));
    }
    this.up = this.parts.desk.link.broker === 'up' && this.parts.desk.link.data === 'up';
  }

  of(user: string): ConditionalOrder[] {
    return [...this.orders.values()].filter((order) => order.user === user);
  }

  find(user: string, id: string): ConditionalOrder | null {
    const found = this.orders.get(id);
    return found?.user === user ? found : null;
  }

  /** An order that waits; the same name again with the same content is the same one. */
  async make(user: string, terms: WaitingTerms): Promise<{ order: ConditionalOrder; made: boolean } | 'used'> {
    const content = canonical(terms);
    const before = [...this.orders.values()].find((one) => one.account === terms.account && one.clientOrderId === terms.clientOrderId);
    if (before) return before.content === content ? { order: before, made: false } : 'used';
    const order: ConditionalOrder = {
      ...terms,
      id: `when-${++this.made}`,
      user,
      state: this.up ? 'waiting' : 'suspended',
      orderId: null,
      reason: null,
      since: this.parts.desk.now(),
      memory: NO_MEMORY,
      content,
    };
    await this.put(order);
    await this.changed();
    return { order: this.orders.get(order.id) ?? order, made: true };
  }

  async cancel(order: ConditionalOrder): Promise<ConditionalOrder> {
    const now = this.orders.get(order.id) ?? order;
    if (now.state !== 'waiting' && now.state !== 'suspended') return now;
    const next = await this.put({ ...now, state: 'canceled', since: this.parts.desk.now(), reason: 'Cancelled by you.' });
    await this.changed();
    return next;
  }

  watches(): Watch[] {
    return this.up
      ? this.waiting().map(({ id, user, instrument, memory, when }) => ({ id, user, instrument, memory, of: { kind: 'condition', phrase: when } }))
      : [];
  }

  instruments(): string[] {
    return this.waiting().flatMap(({ instrument, when }) => [instrument, ...instrumentsNamed(this.parts.desk.market, when)]);
  }

  nextMoment(): number | null {
    const moments = this.waiting().flatMap(({ until }) => until ?? []);
    return moments.length === 0 ? null : Math.min(...moments);
  }

  async passed(time: number): Promise<boolean> {
    let changed = false;
    for (const order of this.waiting()) {
      if (order.until === null || order.until > time) continue;
      await this.put({ ...order, state: 'expired', since: order.until, reason: 'Its time was over.' });
      changed = true;
    }
    return changed;
  }

  /** Whether broker and prices are there: without them what waits is suspended. */
  async linked(up: boolean): Promise<boolean> {
    if (up === this.up) return false;
    this.up = up;
    for (const order of this.waiting()) await this.put({ ...order, state: up ? 'waiting' : 'suspended', since: this.parts.desk.now() });
    return true;
  }

  async seen(seen: readonly Seen[]): Promise<void> {
    const kept: ConditionalOrder[] = [];
    for (const one of seen) {
      const order = this.orders.get(one.id);
      if (order?.state !== 'waiting') continue;
      const next = { ...order, memory: one.memory };
      if (one.reached) await this.put(await this.fire(next, one.time));
      else kept.push(next);
    }
    if (kept.length === 0) return;
    await this.parts.store.commit({ waiting: kept });
    for (const order of kept) this.orders.set(order.id, order);
  }

  endedSince(): boolean {
    const { over } = this;
    this.over = false;
    return over;
  }

  /** States as the links are, after a start. */
  async align(): Promise<void> {
    const wanted = this.up ? 'waiting' : 'suspended';
    for (const order of this.waiting()) if (order.state !== wanted) await this.put({ ...order, state: wanted, since: this.parts.desk.now() });
  }

  /** Orders that went before a stop, of which that was not kept. */
  async settleFired(): Promise<void> {
    for (const order of this.waiting()) {
      const [sent] = await this.parts.desk.ordersAsked([order.account], nameOf(order));
      if (sent) await this.put({ ...order, state: 'fired', orderId: sent.id, since: sent.createdAt });
    }
  }

  /** Asks for the order as if it were asked for now. What is refused is over, with the reason. */
  private async fire(order: ConditionalOrder, time: number): Promise<ConditionalOrder> {
    this.over = true;
    const read = (await this.read?.(order, nameOf(order))) ?? null;
    if (!read?.ok) return { ...order, state: 'rejected', since: time, reason: read ? refusalText(read.refusal) : 'It could not be read.' };
    const answer = await this.parts.desk.place(order.account, read.value);
    return answer.ok
      ? { ...order, state: 'fired', orderId: answer.value, since: time }
      : { ...order, state: 'rejected', since: time, reason: reasonOf(answer.refusal) };
  }

  private waiting(): ConditionalOrder[] {
    return [...this.orders.values()].filter(({ state }) => state === 'waiting' || state === 'suspended');
  }

  private async put(order: ConditionalOrder): Promise<ConditionalOrder> {
    await this.parts.store.commit({ waiting: [order] });
    this.orders.set(order.id, order);
    return order;
  }
}

/** The name that its order goes by: the same after a restart, so that it is sent once. */
const nameOf = ({ id }: ConditionalOrder): string => `kavix.${id}`;

/** Why it was refused, with the rule that did. */
const reasonOf = (refusal: Refusal): string => (refusal.kind === 'risk-blocked' ? `${refusal.rule}: ${refusalText(refusal)}` : refusalText(refusal));
