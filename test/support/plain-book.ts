import { asPrice, asQuantity, type Instrument, type Price } from '../../src/core/instrument/index.ts';
import {
  trailedStop,
  tighter,
  type BookSide,
  type MarketEvent,
  type Side,
  type StopOrder,
  type BookOrder,
  type TriggerSource,
} from '../../src/core/market/index.ts';

type Entry = { -readonly [K in keyof BookOrder]: BookOrder[K] } & {
  arrival: number;
  ahead: number;
  /** What it waits for; null once it is in the market. */
  stop: { price: Price | null; on: TriggerSource; trail: StopOrder['trail']; best: Price | null } | null;
};

/**
 * The rules of *Tapes* 5 to 11 written down plainly: one list of orders, looked through from end to end at each step.
 * Slow and without a single index; what the matching book does must be the same.
 */
export class PlainBook {
  private state = 'pre-open';
  private touched = false;
  private arrivals = 0;
  private last: Price | null = null;
  private readonly limits: { lower: number | null; upper: number | null } = { lower: null, upper: null };
  private readonly levels = { bid: new Map<number, number>(), ask: new Map<number, number>() };
  private orders: Entry[] = [];
  private readonly instrument: Instrument;
  private readonly tell: (what: string, id: string, price: number, quantity: number) => void;

  /** @param tell hears what happens to an order before anything else does; it may cut and remove orders */
  constructor(instrument: Instrument, tell: PlainBook['tell']) {
    this.instrument = instrument;
    this.tell = tell;
  }

  best(side: BookSide): Price | null {
    const prices = [...this.levels[side].keys()].sort((a, b) => (side === 'bid' ? b - a : a - b));
    return prices[0] === undefined ? null : asPrice(prices[0]);
  }

  has = (id: string): boolean => this.orders.some((order) => order.id === id);

  lower(id: string, remaining: number): void {
    for (const order of this.orders) if (order.id === id) order.remaining = asQuantity(remaining);
  }

  remove(id: string): void {
    this.orders = this.orders.filter((order) => order.id !== id);
  }

  submit(order: BookOrder): void {
    this.enter({ ...order, arrival: ++this.arrivals, ahead: 0, stop: null });
  }

  submitStop({ stopPrice, triggerOn, trail, best, ...order }: StopOrder): void {
    const stop = { price: stopPrice, on: triggerOn, trail, best: null as Price | null };
    const entry: Entry = { ...order, arrival: ++this.arrivals, ahead: 0, stop };
    this.orders.push(entry);
    const seen = best ?? (triggerOn === 'last' ? this.last : this.best(triggerOn));
    if (trail !== null && seen !== null) this.trail(entry, seen);
  }

  apply(event: MarketEvent): void {
    const wasOpen = this.state === 'open';
    if (event.event === 'state') this.state = event.state;
    else if (!this.touched) this.state = 'open';
    this.touched = true;
    if (event.event === 'level') this.show(event.side, event.price, event.quantity);
    if (event.event === 'trade') this.last = event.price;
    if (event.event === 'price-limit') this.limits[event.bound] = event.price;
    if (this.state !== 'open') return;
    if (!wasOpen) this.open();
    if (event.event === 'level') this.meet(event.side, event.price);
    if (event.event === 'trade') this.print(event.side, event.price, event.quantity);
    this.trigger(event.event === 'trade' ? event.price : null);
  }

  private show(side: BookSide, price: number, quantity: number): void {
    if (quantity > 0) this.levels[side].set(price, quantity);
    else this.levels[side].delete(price);
    for (const order of this.resting()) if (order.limit === price && (order.side === 'buy') === (side === 'bid')) order.ahead = Math.min(order.ahead, quantity);
  }

  private resting = (): Entry[] => this.orders.filter(({ stop }) => stop === null).sort((a, b) => a.arrival - b.arrival);
  private allowed = (price: number): boolean => price >= (this.limits.lower ?? -Infinity) && price <= (this.limits.upper ?? Infinity);
  private reaches = (order: Entry, price: number): boolean => order.limit === null || (order.side === 'buy' ? price <= order.limit : price >= order.limit);

  private enter(order: Entry): void {
    const now = order.timeInForce === 'ioc' || order.timeInForce === 'fok';
    const own = this.levels[order.side === 'buy' ? 'bid' : 'ask'];
    order.ahead = order.limit === null ? 0 : (own.get(order.limit) ?? 0);
    if (order.timeInForce === 'fok' && this.state === 'open') {
      const opposite = this.levels[order.side === 'buy' ? 'ask' : 'bid'];
      const there = [...opposite].filter(([price]) => this.reaches(order, price) && this.allowed(price)).reduce((sum, [, quantity]) => sum + quantity, 0);
      if (there < order.remaining) return this.tell('canceled', order.id, 0, 0);
    }
    if (now && this.state !== 'open') return this.tell('canceled', order.id, 0, 0);
    this.orders.push(order);
    if (this.state === 'open') this.take(order);
    if (!now || !this.has(order.id)) return;
    this.remove(order.id);
    this.tell('canceled', order.id, 0, 0);
  }

  private take(order: Entry): void {
    const side = order.side === 'buy' ? 'ask' : 'bid';
    const prices = [...this.levels[side].keys()].sort((a, b) => (side === 'bid' ? b - a : a - b));
    for (const price of prices) {
      if (!this.has(order.id) || !this.reaches(order, price) || !this.allowed(price)) continue;
      const quantity = Math.min(order.remaining, this.levels[side].get(price) ?? 0);
      this.give(side, price, quantity);
      this.fill(order, price, quantity);
    }
  }

  private give(side: BookSide, price: number, quantity: number): void {
    const left = (this.levels[side].get(price) ?? 0) - quantity;
    if (left > 0) this.levels[side].set(price, left);
    else this.levels[side].delete(price);
  }

  private fill(order: Entry, price: number, quantity: number): void {
    order.remaining = asQuantity(order.remaining - quantity);
    if (order.remaining === 0) this.remove(order.id);
    this.tell('filled', order.id, price, quantity);
  }

  private open(): void {
    for (const order of this.resting()) {
      if (!this.has(order.id)) continue;
      const best = this.best(order.side === 'buy' ? 'ask' : 'bid');
      if (order.restOnly && best !== null && this.reaches(order, best) && this.allowed(best)) {
        this.remove(order.id);
        this.tell('canceled', order.id, 0, 0);
      } else this.take(order);
    }
  }

  /** Own orders that a level at a price reaches, until it is used up. */
  private meet(side: BookSide, price: number): void {
    if (!this.allowed(price)) return;
    const ours = side === 'ask' ? 'buy' : 'sell';
    for (;;) {
      const there = this.levels[side].get(price) ?? 0;
      const next = this.best1(this.resting().filter((order) => order.side === ours && this.reaches(order, price) && this.allowed(order.limit ?? price)));
      if (there === 0 || !next) return;
      const quantity = Math.min(next.remaining, there);
      this.give(side, price, quantity);
      this.fill(next, next.limit ?? price, quantity);
    }
  }

  /** Market orders first, then the best price, then the first that came. */
  private best1(orders: readonly Entry[]): Entry | undefined {
    const rank = (order: Entry): number => (order.limit === null ? -Infinity : order.side === 'buy' ? 0 - order.limit : order.limit);
    return [...orders].sort((a, b) => rank(a) - rank(b) || a.arrival - b.arrival)[0];
  }

  private print(aggressor: Side, price: number, quantity: number): void {
    const passive = aggressor === 'buy' ? 'sell' : 'buy';
    let used = 0;
    if (this.allowed(price))
      for (const order of this.resting().filter(({ side, limit }) => side === passive && limit === null)) {
        if (!this.has(order.id) || used >= quantity) continue;
        const part = Math.min(order.remaining, quantity - used);
        used += part;
        this.fill(order, price, part);
      }
    for (const side of ['buy', 'sell'])
      for (;;) {
        const through = this.resting().filter(
          (order) => order.side === side && order.limit !== null && order.limit !== price && this.reaches(order, price) && this.allowed(order.limit),
        );
        const next = this.best1(through);
        if (!next) break;
        this.fill(next, next.limit ?? price, next.remaining);
      }
    if (!this.allowed(price)) return;
    for (const order of this.resting().filter(({ side, limit }) => side === passive && limit === price)) {
      if (!this.has(order.id)) continue;
      const part = Math.min(order.remaining, Math.max(0, quantity - used - order.ahead));
      order.ahead = Math.max(0, order.ahead - (quantity - used));
      used += part;
      if (part > 0) this.fill(order, price, part);
    }
  }

  private trigger(traded: Price | null): void {
    const seen = { last: traded, bid: this.best('bid'), ask: this.best('ask') };
    const due = this.orders.filter(({ side, stop }) => {
      const price = stop === null ? null : seen[stop.on];
      return stop !== null && stop.price !== null && price !== null && (side === 'buy' ? price >= stop.price : price <= stop.price);
    });
    for (const order of due.sort((a, b) => a.arrival - b.arrival)) {
      if (!this.has(order.id)) continue;
      this.remove(order.id);
      this.tell('triggered', order.id, order.stop?.price ?? 0, 0);
      this.enter({ ...order, restOnly: false, arrival: ++this.arrivals, stop: null });
    }
    // Trailing stops move last, by the market that the triggered ones left.
    const left = { last: traded, bid: this.best('bid'), ask: this.best('ask') };
    for (const order of this.orders) {
      const price = order.stop === null || order.stop.trail === null ? null : left[order.stop.on];
      const best = order.stop?.best ?? null;
      if (price !== null && (best === null || (order.side === 'sell' ? price > best : price < best))) this.trail(order, price);
    }
  }

  private trail(order: Entry, best: Price): void {
    if (order.stop?.trail)
      order.stop = { ...order.stop, best, price: tighter(order.side, order.stop.price, trailedStop(this.instrument, order.side, order.stop.trail, best)) };
  }
}
