import type { Price, Quantity } from '../instrument/index.ts';
import { PriceLevels } from './price-levels.ts';
import { StopQueue, type TriggerSource, type WaitingStop } from './stop-queue.ts';
import type { BookSide, MarketEvent, MarketState, PriceLimits, Side } from './tape-row.ts';

export type MatchingTimeInForce = 'day' | 'gtc' | 'gtd' | 'ioc' | 'fok';

/** An order as the book sees it: `limit` is null for a market order. */
export interface BookOrder {
  readonly id: string;
  readonly side: Side;
  readonly limit: Price | null;
  readonly timeInForce: MatchingTimeInForce;
  readonly restOnly: boolean;
  remaining: Quantity;
}

/** A stop, and what it becomes when it triggers. */
export interface StopOrder extends BookOrder {
  readonly stopPrice: Price;
  readonly triggerOn: TriggerSource;
}

interface Resting extends BookOrder {
  arrival: number;
  /** What the displayed market still has in front of it at its price. */
  ahead: Quantity;
}

/** What the book tells its owner, within the event. The owner may remove or cut orders meanwhile, not add any. */
export interface BookOwner {
  filled(id: string, price: Price, quantity: Quantity, liquidity: 'added' | 'removed'): void;
  canceled(id: string, reason: 'ioc' | 'fok' | 'venue'): void;
  triggered(id: string): void;
}

export interface DisplayedLevel {
  price: Price;
  quantity: Quantity;
}

/** Everything of a book that outlives the process; made by {@link MatchingBook.save}. */
export interface SavedBook {
  state: MarketState;
  touched: boolean;
  arrivals: number;
  last: Price | null;
  limits: PriceLimits;
  bids: [Price, Quantity][];
  asks: [Price, Quantity][];
  resting: (BookOrder & { arrival: number; ahead: Quantity })[];
  stops: (StopOrder & { arrival: number })[];
}

const opposite = (side: Side): BookSide => (side === 'buy' ? 'ask' : 'bid');
const own = (side: Side): BookSide => (side === 'buy' ? 'bid' : 'ask');

/**
 * The market of one instrument: what is displayed there, and the orders we have in it.
 *
 * Price-time matching against the displayed market, with an estimate of the queue in front of each
 * resting order. Displayed quantity that an order took is gone until it is displayed anew; own orders
 * never meet one another.
 */
export class MatchingBook {
  state: MarketState = 'pre-open';
  limits: PriceLimits = { lower: null, upper: null };
  last: Price | null = null;

  private touched = false;
  private arrivals = 0;
  private readonly displayed = { bid: new PriceLevels<Quantity>(1), ask: new PriceLevels<Quantity>(-1) };
  private readonly resting = {
    buy: new PriceLevels<Map<string, Resting>>(1),
    sell: new PriceLevels<Map<string, Resting>>(-1),
  };
  /** Market orders whose rest waits ahead of all limits. */
  private readonly unpriced = { buy: new Map<string, Resting>(), sell: new Map<string, Resting>() };
  private readonly byId = new Map<string, Resting>();
  private readonly stops = new StopQueue();
  private readonly owner: BookOwner;

  constructor(owner: BookOwner) {
    this.owner = owner;
  }

  best(side: BookSide): Price | null {
    return this.displayed[side].best();
  }

  displayedAt(side: BookSide, price: Price): Quantity {
    return this.displayed[side].get(price) ?? 0;
  }

  /** The best `count` displayed levels of a side. */
  levels(side: BookSide, count: number): DisplayedLevel[] {
    const of = this.displayed[side];
    return of
      .prices()
      .slice(0, count)
      .map((price) => ({ price, quantity: of.get(price) ?? 0 }));
  }

  /** Quantity displayed in front of a resting limit order, or null where there is none of that name. */
  aheadOf(id: string): Quantity | null {
    return this.byId.get(id)?.ahead ?? null;
  }

  get restingCount(): number {
    return this.byId.size;
  }

  /** One event of the market: first what is displayed, then fills of resting orders, then triggers. */
  apply(event: MarketEvent): void {
    if (!this.touched) {
      this.touched = true;
      if (event.event !== 'state') this.changeState('open');
    }
    switch (event.event) {
      case 'level':
        this.applyLevel(event.side, event.price, event.quantity);
        break;
      case 'trade':
        this.last = event.price;
        if (this.state === 'open') this.applyTrade(event.side, event.price, event.quantity);
        break;
      case 'state':
        this.changeState(event.state);
        break;
      case 'price-limit':
        this.limits = { ...this.limits, [event.bound]: event.price };
        break;
      case 'settlement':
        break;
      default:
        event satisfies never;
    }
    if (this.state === 'open' && this.stops.size > 0) this.trigger(event.event === 'trade' ? event.price : null);
  }

  /** True where a limit order would trade on arrival. */
  wouldTrade(side: Side, limit: Price): boolean {
    if (this.state !== 'open') return false;
    const best = this.best(opposite(side));
    return best !== null && this.reaches(side, limit, best) && this.inLimits(best);
  }

  /** A new order, or a changed one that comes anew. */
  submit(order: BookOrder): void {
    this.enter({ ...order, arrival: ++this.arrivals, ahead: this.aheadAtArrival(order) });
  }

  submitStop(order: StopOrder): void {
    this.stops.add({ ...order, arrival: ++this.arrivals });
  }

  has(id: string): boolean {
    return this.byId.has(id) || this.stops.has(id);
  }

  isWaitingStop(id: string): boolean {
    return this.stops.has(id);
  }

  /** Lowers what remains of an order, which keeps its place. */
  lower(id: string, remaining: Quantity): void {
    const order = this.byId.get(id) ?? this.stops.get(id);
    if (order) order.remaining = remaining;
  }

  remove(id: string): void {
    const order = this.byId.get(id);
    if (order) this.drop(order);
    else this.stops.remove(id);
  }

  save(): SavedBook {
    const sides = (side: BookSide): [Price, Quantity][] => this.displayed[side].prices().map((price) => [price, this.displayed[side].get(price) ?? 0]);
    return {
      state: this.state,
      touched: this.touched,
      arrivals: this.arrivals,
      last: this.last,
      limits: this.limits,
      bids: sides('bid'),
      asks: sides('ask'),
      resting: [...this.byId.values()].sort((a, b) => a.arrival - b.arrival).map((order) => ({ ...order })),
      stops: this.stops.all().map((stop) => ({ ...stop })),
    };
  }

  load(saved: SavedBook): void {
    this.state = saved.state;
    this.touched = saved.touched;
    this.arrivals = saved.arrivals;
    this.last = saved.last;
    this.limits = saved.limits;
    for (const [price, quantity] of saved.bids) this.displayed.bid.set(price, quantity);
    for (const [price, quantity] of saved.asks) this.displayed.ask.set(price, quantity);
    for (const order of saved.resting) this.rest({ ...order });
    for (const stop of saved.stops) this.stops.add({ ...stop });
  }

  private aheadAtArrival(order: BookOrder): Quantity {
    return order.limit === null ? 0 : this.displayedAt(own(order.side), order.limit);
  }

  private reaches(side: Side, limit: Price | null, price: Price): boolean {
    return limit === null || (side === 'buy' ? price <= limit : price >= limit);
  }

  private inLimits(price: Price): boolean {
    const { lower, upper } = this.limits;
    return (lower === null || price >= lower) && (upper === null || price <= upper);
  }

  private changeState(state: MarketState): void {
    const opens = state === 'open' && this.state !== 'open';
    this.state = state;
    if (!opens) return;
    const waiting = [...this.byId.values()].sort((a, b) => a.arrival - b.arrival);
    for (const order of waiting) {
      if (!this.byId.has(order.id)) continue;
      if (order.restOnly && order.limit !== null && this.wouldTrade(order.side, order.limit)) {
        this.drop(order);
        this.owner.canceled(order.id, 'venue');
      } else {
        this.take(order);
      }
    }
  }

  private enter(order: Resting): void {
    const { timeInForce } = order;
    const immediate = timeInForce === 'ioc' || timeInForce === 'fok';
    if (immediate && (this.state !== 'open' || (timeInForce === 'fok' && !this.canFillWhole(order)))) {
      this.owner.canceled(order.id, timeInForce);
      return;
    }
    this.rest(order);
    if (this.state === 'open') this.take(order);
    if (immediate && this.byId.has(order.id)) {
      this.drop(order);
      this.owner.canceled(order.id, timeInForce);
    }
  }

  private canFillWhole(order: Resting): boolean {
    const levels = this.displayed[opposite(order.side)];
    let available = 0;
    for (const price of levels.prices()) {
      if (available >= order.remaining || !this.reaches(order.side, order.limit, price)) break;
      if (this.inLimits(price)) available += levels.get(price) ?? 0;
    }
    return available >= order.remaining;
  }

  /** Takes displayed levels, best first, one fill a level, as far as the limit reaches. */
  private take(order: Resting): void {
    const levels = this.displayed[opposite(order.side)];
    const first = levels.best();
    if (first === null || !this.reaches(order.side, order.limit, first)) return;
    for (const price of [...levels.prices()]) {
      if (!this.byId.has(order.id) || !this.reaches(order.side, order.limit, price)) return;
      if (!this.inLimits(price)) continue;
      const there = levels.get(price) ?? 0;
      const quantity = Math.min(order.remaining, there);
      this.setLevel(levels, price, there - quantity);
      this.fill(order, price, quantity, 'removed');
    }
  }

  private setLevel(levels: PriceLevels<Quantity>, price: Price, quantity: Quantity): void {
    if (quantity > 0) levels.set(price, quantity);
    else levels.delete(price);
  }

  private fill(order: Resting, price: Price, quantity: Quantity, liquidity: 'added' | 'removed'): void {
    order.remaining -= quantity;
    if (order.remaining === 0) this.drop(order);
    this.owner.filled(order.id, price, quantity, liquidity);
  }

  private rest(order: Resting): void {
    this.byId.set(order.id, order);
    if (order.limit === null) {
      this.unpriced[order.side].set(order.id, order);
      return;
    }
    const side = this.resting[order.side];
    let queue = side.get(order.limit);
    if (!queue) side.set(order.limit, (queue = new Map<string, Resting>()));
    queue.set(order.id, order);
  }

  private drop(order: Resting): void {
    this.byId.delete(order.id);
    if (order.limit === null) {
      this.unpriced[order.side].delete(order.id);
      return;
    }
    const side = this.resting[order.side];
    const queue = side.get(order.limit);
    queue?.delete(order.id);
    if (queue?.size === 0) side.delete(order.limit);
  }

  private applyLevel(side: BookSide, price: Price, quantity: Quantity): void {
    this.setLevel(this.displayed[side], price, quantity);
    const sameSide = side === 'bid' ? 'buy' : 'sell';
    const queue = this.resting[sameSide].get(price);
    if (queue) for (const order of queue.values()) order.ahead = Math.min(order.ahead, quantity);
    if (this.state === 'open' && quantity > 0 && this.inLimits(price)) this.meetLevel(side, price, quantity);
  }

  /** A new opposite level fills own orders at or through its price, together up to its quantity. */
  private meetLevel(side: BookSide, price: Price, quantity: Quantity): void {
    const ours = side === 'ask' ? 'buy' : 'sell';
    const best = this.resting[ours].best();
    // Most levels meet nobody: nothing more is made for them.
    if (this.unpriced[ours].size === 0 && (best === null || !this.reaches(ours, best, price))) return;
    let left = quantity;
    const give = (order: Resting, at: Price): void => {
      const filled = Math.min(order.remaining, left);
      left -= filled;
      this.setLevel(this.displayed[side], price, left);
      this.fill(order, at, filled, 'added');
    };
    for (const order of this.unpriced[ours].values()) if (left > 0) give(order, price);
    this.eachReached(
      ours,
      (limit) => this.reaches(ours, limit, price),
      (order) => {
        if (left > 0) give(order, order.limit as Price);
        return left > 0;
      },
    );
  }

  /**
   * Own limit orders of a side whose price satisfies `reached`, best price first, then as they came,
   * until `each` says false. Prices outside the limits are passed over.
   */
  private eachReached(side: Side, reached: (limit: Price) => boolean, each: (order: Resting) => boolean): void {
    const levels = this.resting[side];
    const best = levels.best();
    if (best === null || !reached(best)) return;
    for (let price = levels.best(); price !== null && reached(price) && this.inLimits(price); price = levels.best()) {
      for (const order of levels.get(price)?.values() ?? []) if (!each(order)) return;
      if (levels.best() === price) return;
    }
    const beyond = levels.best();
    if (beyond === null || this.inLimits(beyond)) return;
    for (const price of [...levels.prices()].filter((p) => reached(p) && this.inLimits(p)))
      for (const order of levels.get(price)?.values() ?? []) if (!each(order)) return;
  }

  private applyTrade(aggressor: Side, price: Price, quantity: Quantity): void {
    const passive = aggressor === 'buy' ? 'sell' : 'buy';
    let used = 0;
    if (this.inLimits(price))
      for (const order of this.unpriced[passive].values()) {
        const filled = Math.min(order.remaining, quantity - used);
        if (filled <= 0) break;
        used += filled;
        this.fill(order, price, filled, 'added');
      }
    const whole = (order: Resting): boolean => {
      this.fill(order, order.limit as Price, order.remaining, 'added');
      return true;
    };
    if ((this.resting.buy.best() ?? price) > price) this.eachReached('buy', (limit) => limit > price, whole);
    if ((this.resting.sell.best() ?? price) < price) this.eachReached('sell', (limit) => limit < price, whole);
    if (!this.inLimits(price)) return;
    for (const order of this.resting[passive].get(price)?.values() ?? []) {
      const reaching = quantity - used;
      const filled = Math.min(order.remaining, Math.max(0, reaching - order.ahead));
      order.ahead = Math.max(0, order.ahead - reaching);
      used += filled;
      if (filled > 0) this.fill(order, price, filled, 'added');
    }
  }

  private trigger(traded: Price | null): void {
    const due = this.stops.due({ last: traded, bid: this.best('bid'), ask: this.best('ask') });
    for (const stop of due) {
      if (!this.stops.has(stop.id)) continue;
      this.stops.remove(stop.id);
      this.owner.triggered(stop.id);
      this.submit(stopped(stop));
    }
  }
}

/** What a stop becomes: a market order, or a limit order at its limit. */
function stopped(stop: WaitingStop): BookOrder {
  const { id, side, limit, timeInForce, remaining } = stop;
  return { id, side, limit, timeInForce, remaining, restOnly: false };
}
